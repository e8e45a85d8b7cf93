import { type Chart, disc, lathe, layCharts, moved, type Vec } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';

/** Small turned fittings of the halt, each in high and in low, side by side: what is baked in one go. */

const APART = 0.4;

interface Fitting {
  name: string;
  foot: Vec;
  radius: number;
  height: number;
}

/** @param named how many of them have endings in their names; the others are found by their places */
function fittings(count: number, named: number, level: 'high' | 'low'): Fitting[] {
  return Array.from({ length: count }, (_, i) => ({
    name: i < named ? `fitting ${i + 1}_${level}` : `${level === 'high' ? 'Modell' : 'Teil'} ${i + 1}`,
    foot: [i * APART, 0, 0],
    radius: 0.06 + 0.004 * (i % 5),
    height: 0.12 + 0.015 * (i % 4),
  }));
}

/** A cap with a groove around it; as a low-poly a plain one with few sides. */
function chartsOf({ radius, height }: Fitting, sides: number, grooved: boolean, kept: number): Chart[] {
  const steps = grooved ? 24 : 1;
  const profile = Array.from({ length: steps + 1 }, (_, i): [number, number] => {
    const t = i / steps;
    const groove = grooved && Math.abs(t - 0.5) < 0.11 ? 0.004 : 0;
    return [radius - groove, height * kept * (1 - t)];
  });
  return [
    ...lathe([0, 0, 0], profile, sides),
    ...(kept === 1 ? [disc([0, height, 0], radius, '+y', sides)] : []),
    disc([0, 0, 0], radius, '-y', sides),
  ];
}

/**
 * Fittings in high or in low, all in one file; the low-polys share one 0–1.
 * @param kept share of their height, from below; less than 1 leaves them open
 */
export function buildFittings(level: 'high' | 'low', count = 15, named = 10, kept = 1): Uint8Array {
  const glbWriter = new GlbWriter();
  const material = glbWriter.material({
    name: 'Fittings',
    pbrMetallicRoughness: { baseColorFactor: [0.4, 0.42, 0.44, 1], metallicFactor: 0, roughnessFactor: 0.5 },
  });
  const all = fittings(count, named, level);
  const surfaces = layCharts(
    all.map((fitting) => moved(chartsOf(fitting, level === 'high' ? 96 : 24, level === 'high', kept), fitting.foot)),
    0.006,
  );
  surfaces.forEach((surface, i) => {
    const mesh = glbWriter.mesh(all[i].name, [
      {
        attributes: {
          POSITION: glbWriter.floats(surface.positions, 'VEC3', true),
          NORMAL: glbWriter.floats(surface.normals, 'VEC3'),
          ...(level === 'low' ? { TEXCOORD_0: glbWriter.floats(surface.uvs, 'VEC2') } : {}),
        },
        indices: glbWriter.indices(surface.indices),
        material,
      },
    ]);
    glbWriter.node({ name: all[i].name, mesh });
  });
  return glbWriter.glb();
}
