import { box, type Chart, lathe, layCharts } from '../geometry.ts';
import { GlbWriter } from '../glb-writer.ts';

/** Lamp posts of many heights, grey, as a modeller leaves them: a turned post of iron, a lantern of glass. */

type Profile = [number, number][];

/** @param height of the post under its lantern, m */
function post(height: number): Chart[] {
  const profile: Profile = [
    [0, height],
    [0.05, height],
    [0.06, height - 0.03],
    [0.045, height - 0.08],
    [0.04, height - 0.3],
    [0.055, height - 0.34],
    [0.055, height - 0.38],
    [0.045, height - 0.42],
    [0.06, 0.75],
    [0.085, 0.7],
    [0.085, 0.64],
    [0.07, 0.58],
    [0.1, 0.3],
    [0.13, 0.26],
    [0.13, 0.05],
    [0.17, 0.03],
    [0.17, 0],
  ];
  return lathe([0, 0, 0], profile, 24);
}

const lantern = (height: number): Chart[] =>
  lathe(
    [0, height, 0],
    [
      [0.06, 0.36],
      [0.13, 0.3],
      [0.12, 0.04],
      [0.06, 0],
    ],
    16,
  );

const cap = (height: number): Chart[] => [
  ...lathe(
    [0, height + 0.3, 0],
    [
      [0, 0.2],
      [0.02, 0.19],
      [0.03, 0.14],
      [0.17, 0.06],
      [0.18, 0.03],
      [0.16, 0],
    ],
    24,
  ),
  ...box([0, height - 0.2, 0], [0.5, 0.03, 0.03]),
];

/** @param count models, each a little higher than the one before */
export function buildLampPosts(count = 6): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = {};
  for (let i = 0; i < count; i++) {
    const height = 2.6 + (1.6 * i) / Math.max(1, count - 1);
    const writer = new GlbWriter();
    const groups = [[...post(height), ...cap(height)], lantern(height)];
    const surfaces = layCharts(groups, 0.01);
    const materials = ['PostIron', 'LanternGlass'].map((name) =>
      writer.material({
        name,
        pbrMetallicRoughness: { baseColorFactor: [0.5, 0.5, 0.5, 1], metallicFactor: 0, roughnessFactor: 0.6 },
      }),
    );
    const primitives = surfaces.map((surface, k) => ({
      attributes: {
        POSITION: writer.floats(surface.positions, 'VEC3', true),
        NORMAL: writer.floats(surface.normals, 'VEC3'),
        TEXCOORD_0: writer.floats(surface.uvs, 'VEC2'),
      },
      indices: writer.indices(surface.indices),
      material: materials[k],
    }));
    writer.node({ name: 'lamp post', mesh: writer.mesh('lamp post', primitives) });
    out[`lamp-post-${String(i + 1).padStart(2, '0')}.glb`] = writer.glb();
  }
  return out;
}
