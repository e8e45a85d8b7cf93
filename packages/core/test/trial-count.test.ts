import { describe, expect, test } from 'vitest';
import { countLoad } from '../src/handover/trial/count.ts';
import type { GltfJson } from '../src/handover/trial/gltf-json.ts';
import { materialProblems, nameProblemsOf } from '../src/handover/trial/names.ts';

/** One mesh of two parts: 12 triangles by indices, and a strip of 5 vertices (3 triangles). */
const file = (over: Partial<GltfJson> = {}): GltfJson => ({
  scenes: [{ nodes: [0] }],
  nodes: [{ mesh: 0 }],
  meshes: [
    {
      primitives: [
        { material: 0, indices: 0, attributes: { POSITION: 1 } },
        { material: 1, mode: 5, attributes: { POSITION: 2 } },
      ],
    },
  ],
  accessors: [{ count: 36 }, { count: 24 }, { count: 5 }, { count: 7 }],
  materials: [
    { pbrMetallicRoughness: { baseColorTexture: { index: 0 }, metallicRoughnessTexture: { index: 1 } } },
    { normalTexture: { index: 1 }, extensions: { KHR_materials_sheen: { sheenColorTexture: { index: 2 } } } },
  ],
  textures: [{ source: 0 }, { source: 1 }, { source: 9, extensions: { EXT_texture_webp: { source: 2 } } }],
  ...over,
});

describe('what a file costs when it is loaded', () => {
  test('parts, triangles of lists and strips, materials, and images with how they are read', () => {
    const { drawCalls, triangles, materials, images } = countLoad(file());
    expect([drawCalls, triangles, materials]).toEqual([2, 15, [0, 1]]);
    expect([...images].map(([image, spaces]) => [image, ...spaces])).toEqual([
      [0, 'srgb'],
      [1, 'linear'],
      [2, 'srgb'],
    ]);
  });

  test('a mesh counts for each node; instanced copies draw once, with all their triangles', () => {
    const twice = file({ scenes: [{ nodes: [0, 1] }], nodes: [{ mesh: 0 }, { mesh: 0 }] });
    expect(countLoad(twice)).toMatchObject({ drawCalls: 4, triangles: 30 });
    const copies = { EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: 3 } } };
    expect(countLoad(file({ nodes: [{ mesh: 0, extensions: copies }] }))).toMatchObject({
      drawCalls: 2,
      triangles: 7 * 15,
    });
  });

  test('lower levels, collision shapes, what is switched off and what is in no scene draw nothing', () => {
    const nodes = [
      { name: 'lamp', mesh: 0 },
      { name: 'lamp_LOD1', mesh: 0 },
      { name: 'UCX_lamp', mesh: 0 },
      { name: 'off', mesh: 0, extensions: { KHR_node_visibility: { visible: false } } },
      { name: 'elsewhere', mesh: 0 },
    ];
    expect(countLoad(file({ scenes: [{ nodes: [0, 1, 2, 3] }], nodes })).drawCalls).toBe(2);
  });

  test('an empty file costs nothing', () => {
    expect(countLoad({})).toEqual({ drawCalls: 0, triangles: 0, materials: [], images: new Map(), collides: false });
    expect(countLoad(file({ nodes: [{ name: 'lamp_collision', mesh: 0 }] })).collides).toBe(true);
  });
});

describe('names', () => {
  test.each([
    ['a.glb', []],
    ['textures/стена.png', []],
    ['a:b.png', ['its name has characters that some file systems do not take']],
    ['con.png', ['its name cannot be used on some file systems']],
    ['end.', ['its name cannot be used on some file systems']],
  ])('%s', (name, texts) => {
    expect(nameProblemsOf([name]).map(({ text }) => text)).toEqual(texts);
  });

  test('two names that differ in case take the place of each other', () => {
    expect(nameProblemsOf(['Wall.png', 'wall.png'])).toEqual([
      { file: 'wall.png', text: 'its name differs from Wall.png only in case: one takes the place of the other' },
    ]);
  });

  test('materials of one name that differ are told once; equal ones, and those without names, never', () => {
    const material = (file: string, name: string, content: string) => ({ file, name, content });
    const told = materialProblems([
      material('a.glb', 'Wood', '1'),
      material('b.glb', 'Wood', '1'),
      material('c.glb', 'Wood', '2'),
      material('d.glb', 'Wood', '3'),
      material('a.glb', '', '1'),
      material('b.glb', '', '2'),
    ]);
    expect(told).toEqual([
      {
        file: 'c.glb',
        text: 'its material "Wood" is not the one of that name in a.glb; importers that go by names use one for both',
      },
    ]);
  });
});
