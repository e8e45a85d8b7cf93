import { Document } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsUnlit,
  KHRNodeVisibility,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { determinant3, IDENTITY, normalMatrix, transformDirections, transformPoints } from '../src/math/mat4.ts';
import { layoutCoordinates } from '../src/mesh/coordinates.ts';
import { firstNotFinite, readFloats, triangleIndices } from '../src/scene/attributes.ts';
import { LEVELS, LevelsOfDetail, LowerLevels } from '../src/scene/levels-of-detail.ts';
import { DEFAULT_LOOK, lookKey, materialLook, uvSetsUsed } from '../src/scene/material.ts';
import { readModel } from '../src/scene/model.ts';
import { nodeRoles } from '../src/scene/node-roles.ts';
import { buildModel, imageKeyOfName, quad } from './build.ts';

describe('attributes', () => {
  test('normalised integers become floats as the specification says', () => {
    const d = new Document();
    const at = (array: Int8Array | Uint8Array | Int16Array | Uint16Array) => [
      ...readFloats(
        d
          .createAccessor()
          .setType('SCALAR')
          .setArray(array as Int8Array<ArrayBuffer>)
          .setNormalized(true),
      ),
    ];
    expect(at(Int8Array.of(-128, -127, 0, 127))).toEqual([-1, -1, 0, 1]);
    expect(at(Uint8Array.of(0, 255))).toEqual([0, 1]);
    expect(at(Int16Array.of(-32768, 32767))).toEqual([-1, 1]);
    expect(at(Uint16Array.of(65535))).toEqual([1]);
  });

  test('the first number that is none is found', () => {
    expect(firstNotFinite(Float32Array.of(0, 1, Number.NaN, 2))).toBe(2);
    expect(firstNotFinite(Float32Array.of(Number.POSITIVE_INFINITY))).toBe(0);
    expect(firstNotFinite(Float32Array.of(1, 2))).toBe(-1);
  });

  test('strips and fans become triangles that all turn the same way', () => {
    expect([...triangleIndices(null, 5, 5)]).toEqual([0, 1, 2, 2, 1, 3, 2, 3, 4]);
    expect([...triangleIndices(null, 5, 6)]).toEqual([0, 1, 2, 0, 2, 3, 0, 3, 4]);
    expect([...triangleIndices([4, 3, 2, 1, 0], 5, 4)]).toEqual([4, 3, 2]);
    for (const mode of [0, 1, 2, 3]) expect(triangleIndices(null, 9, mode)).toHaveLength(0);
    expect(triangleIndices(null, 2, 5)).toHaveLength(0);
  });
});

describe('matrices', () => {
  const matrix = fc.array(
    fc.integer({ min: -200, max: 200 }).map((v) => v / 100),
    { minLength: 9, maxLength: 9 },
  );

  test('normals stay square to what they were square to, under any transform', () => {
    fc.assert(
      fc.property(matrix, matrix, (m, v) => {
        const t = [m[0], m[1], m[2], 0, m[3], m[4], m[5], 0, m[6], m[7], m[8], 0, 0, 0, 0, 1];
        fc.pre(Math.abs(determinant3(t)) > 0.05);
        const [ax, ay, az, bx, by, bz] = v;
        const n = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
        fc.pre(Math.hypot(...n) > 0.05);
        const moved = transformPoints(Float32Array.of(ax, ay, az, bx, by, bz), t);
        const normal = transformDirections(Float32Array.from(n), normalMatrix(t));
        for (const o of [0, 3]) {
          const dot = normal[0] * moved[o] + normal[1] * moved[o + 1] + normal[2] * moved[o + 2];
          expect(Math.abs(dot)).toBeLessThan(1e-3);
        }
        expect(Math.hypot(normal[0], normal[1], normal[2])).toBeCloseTo(1, 4);
      }),
    );
  });

  test('the identity changes nothing, a mirror has a negative determinant', () => {
    const p = Float32Array.of(1, 2, 3);
    expect([...transformPoints(p, IDENTITY)]).toEqual([1, 2, 3]);
    expect(determinant3([-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1])).toBe(-1);
  });
});

describe('how a material looks', () => {
  const doc = () => {
    const d = new Document();
    const material = d.createMaterial('m');
    return { d, m: material, texture: (name: string) => d.createTexture(name) };
  };

  test('a texture transform moves UVs as the extension says: scale, then turn, then move, V down', () => {
    const { d, m: material, texture } = doc();
    material.setBaseColorTexture(texture('t'));
    const turn = d
      .createExtension(KHRTextureTransform)
      .createTransform()
      .setOffset([0.25, 0.5])
      .setRotation(Math.PI / 2)
      .setScale([2, 3]);
    material.getBaseColorTextureInfo()?.setExtension('KHR_texture_transform', turn);
    const look = materialLook(material, imageKeyOfName);
    const model = buildModel([{ name: 'a', baseColor: 't' }], [{ ...quad(0, 0, 1, 1, 0.1, 0.2, 0.3, 0.4), slot: 'a' }]);
    const xy = layoutCoordinates(
      model.parts[0],
      look.baseColor ??
        (() => {
          throw new Error('no texture');
        })(),
      [1, 1],
    );
    // (u, v) = (0.1, 0.6): scaled (0.2, 1.8), turned by +90° in a V-down frame (1.8, −0.2), moved (2.05, 0.3).
    expect(xy[0]).toBeCloseTo(2.05, 5);
    expect(xy[1]).toBeCloseTo(0.3, 5);
  });

  test('what no map reads makes no difference', () => {
    const a = doc();
    const b = doc();
    a.m.setNormalScale(0.3).setOcclusionStrength(0.2).setAlphaCutoff(0.9);
    expect(lookKey(materialLook(a.m, imageKeyOfName), (i) => i)).toBe(
      lookKey(materialLook(b.m, imageKeyOfName), (i) => i),
    );
    b.m.setRoughnessFactor(0.9);
    expect(lookKey(materialLook(a.m, imageKeyOfName), (i) => i)).not.toBe(
      lookKey(materialLook(b.m, imageKeyOfName), (i) => i),
    );
  });

  test('emissive strength multiplies, a black emissive needs no map, unlit is seen', () => {
    const { d, m: material, texture } = doc();
    material.setEmissiveTexture(texture('glow'));
    expect(materialLook(material, imageKeyOfName).emissive).toBeNull();
    material
      .setEmissiveFactor([0.5, 0.25, 0])
      .setExtension(
        'KHR_materials_emissive_strength',
        d.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(4),
      );
    material.setExtension('KHR_materials_unlit', d.createExtension(KHRMaterialsUnlit).createUnlit());
    const look = materialLook(material, imageKeyOfName);
    expect(look.emissiveFactor).toEqual([2, 1, 0]);
    expect(look.emissive?.image).toBe('glow');
    expect(look.unlit).toBe(true);
    expect(look.foreign).toEqual([]);
  });

  test('no material is the default of the specification', () => {
    expect(materialLook(null, imageKeyOfName)).toEqual(DEFAULT_LOOK);
    expect(uvSetsUsed(DEFAULT_LOOK)).toEqual([]);
  });
});

const drawnNodes = (d: Document) => [...nodeRoles(d).of].flatMap(([node, role]) => (role === 'drawn' ? [node] : []));

describe('what a node is for', () => {
  const rolesOf = (names: readonly string[]) => {
    const d = new Document();
    const scene = d.createScene();
    for (const name of names) scene.addChild(d.createNode(name));
    const { of, levelled } = nodeRoles(d);
    return { roles: [...of.values()], levelled: [...levelled].map((node) => node.getName()) };
  };

  test('lower levels are known by names of which a finer one is there as well', () => {
    expect(rolesOf(['sign_LOD0', 'sign_LOD1', 'Sign_lod2.001', 'bench', 'bench-LOD 3', 'lamp_LOD1'])).toEqual({
      roles: ['drawn', 'level', 'level', 'drawn', 'level', 'drawn'],
      levelled: ['sign_LOD0', 'bench'],
    });
  });

  test('the coarsest of a name alone is drawn, and a name that is only a level is no object', () => {
    expect(rolesOf(['a_LOD2', 'LOD0', 'LOD1', '', '', 'Melod1', 'Explode']).roles).toEqual(
      Array.from({ length: 7 }, () => 'drawn'),
    );
  });

  test('collision shapes are known by a prefix or a word', () => {
    const names = [
      'UCX_sign',
      'UBX_a_01',
      'door collision',
      'carCollider2',
      'hitbox',
      'UCXsign',
      'collide',
      'Kollision',
    ];
    expect(rolesOf(names).roles).toEqual([...Array(5).fill('collision'), 'drawn', 'drawn', 'drawn']);
  });

  test('by extension: levels need not stand in the scene; what is switched off is hidden with all below it', () => {
    const d = new Document();
    const [fine, coarse, off, below] = ['fine', 'coarse', 'off', 'below'].map((name) => d.createNode(name));
    d.createScene().addChild(fine).addChild(off.addChild(below));
    d.createExtension(LevelsOfDetail);
    fine.setExtension(LEVELS, new LowerLevels(d.getGraph()).add(coarse));
    off.setExtension('KHR_node_visibility', d.createExtension(KHRNodeVisibility).createVisibility().setVisible(false));
    const { of, levelled } = nodeRoles(d);
    expect([fine, coarse, off, below].map((node) => of.get(node))).toEqual(['drawn', 'level', 'hidden', 'hidden']);
    expect([...levelled]).toEqual([fine]);
  });
});

describe('what stands in the scene', () => {
  test('only the shown scene counts, with its whole tree', () => {
    const d = new Document();
    const [node, b, c] = ['a', 'b', 'c'].map((name) => d.createNode(name));
    node.addChild(b);
    d.createScene('other').addChild(c);
    d.getRoot().setDefaultScene(d.createScene('shown').addChild(node));
    expect(drawnNodes(d).map((n) => n.getName())).toEqual(['a', 'b']);
  });

  test('without any scene every root counts', () => {
    const d = new Document();
    d.createNode('a').addChild(d.createNode('b'));
    expect(drawnNodes(d).map((node) => node.getName())).toEqual(['a', 'b']);
  });

  test('a file says by name what it passes through', () => {
    const d = new Document();
    const buffer = d.createBuffer();
    const position = d.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(buffer);
    const mesh = d.createMesh('m').addPrimitive(d.createPrimitive().setAttribute('POSITION', position).setMode(0));
    const node = d.createNode('n').setMesh(mesh);
    d.createScene().addChild(node);
    const copies = d.createAccessor().setType('VEC3').setArray(new Float32Array(12)).setBuffer(buffer);
    const gpu = d.createExtension(EXTMeshGPUInstancing).createInstancedMesh().setAttribute('TRANSLATION', copies);
    node.setExtension('EXT_mesh_gpu_instancing', gpu);
    d.createAnimation('a');
    d.createSkin('s');
    const model = readModel('x.glb', d, imageKeyOfName);
    expect(model.notes.join('\n')).toMatch(/points and lines[\s\S]*GPU-instanced[\s\S]*animations[\s\S]*skins/);
    expect(model.parts[0].instances[0].copies).toBe(4);
    expect(model.slots.at(-1)).toMatchObject({ name: 'no material' });
  });
});
