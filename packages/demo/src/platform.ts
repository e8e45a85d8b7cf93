import { type Chart, rectangle } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';
import { brick, type Look, stone } from './looks.ts';
import { laid, primitive, textured } from './pieces.ts';

const SIDE = 0.6;

/** Slabs whose joint runs around the edge of the square. */
const slab =
  (seed: number, cracked: boolean): Look =>
  (u, v) => {
    const point = stone([128, 126, 118], [172, 168, 156], seed)(u, v);
    const edge = Math.min(u, v, 1 - u, 1 - v);
    const crack = cracked && Math.abs(v - 0.5 - 0.22 * Math.sin(u * 7)) < 0.012;
    const deep = edge < 0.02 || crack;
    return { ...point, height: point.height + (deep ? -4 : 0), occlusion: deep ? 0.55 : point.occlusion };
  };

/** Slabs that give way to gravel towards the bottom of the square. */
const toGravel: Look = (u, v) => {
  const point = slab(151, false)(u, v);
  const b = stone([92, 84, 74], [140, 130, 116], 157)(u * 3, v * 3);
  return v > 0.62 + 0.06 * Math.sin(u * Math.PI * 6) ? { ...b, height: b.height - 2 } : point;
};

/** The paved platform: every face takes a whole square texture, some of them cracked, the edge giving way to gravel. */
export function buildPlatform(): Uint8Array {
  const glbWriter = new GlbWriter();
  const kinds: [name: string, look: Look][] = [
    ['PavingSlab', slab(131, false)],
    ['PavingCracked', slab(139, true)],
    ['PavingEdge', toGravel],
    ['PlatformSetts', brick(4, 163)],
  ];
  const charts: Chart[][] = kinds.map(() => []);
  for (let z = 0; z < 6; z++)
    for (let x = 0; x < 20; x++) {
      // About one slab in thirteen is cracked; the last row is the edge, the first is of setts.
      const kind = z === 0 ? 3 : z === 5 ? 2 : (x * 7 + z * 11) % 13 === 3 ? 1 : 0;
      charts[kind].push(rectangle([(x - 10) * SIDE, 0, (z - 3) * SIDE], [SIDE, 0, 0], [0, 0, SIDE]));
    }
  const mesh = glbWriter.mesh(
    'platform',
    kinds.map(([name, look], k) =>
      primitive(
        glbWriter,
        laid(charts[k], (_, u, v) => [u / SIDE, v / SIDE]),
        textured(glbWriter, name, look, 256),
      ),
    ),
  );
  glbWriter.node({ name: 'platform', mesh });
  return glbWriter.glb();
}

/** The platform as it comes from modelling: so many slabs each way, one slot, neither UVs nor pictures. */
export function buildBarePlatform(across = 20): Uint8Array {
  const glbWriter = new GlbWriter();
  const slabs = Array.from({ length: across * across }, (_, i) =>
    rectangle(
      [((i % across) - across / 2) * SIDE, 0, (Math.floor(i / across) - across / 2) * SIDE],
      [SIDE, 0, 0],
      [0, 0, SIDE],
    ),
  );
  const surface = laid(slabs, () => [0, 0]);
  const attributes = {
    POSITION: glbWriter.floats(Float32Array.from(surface.positions), 'VEC3', true),
    NORMAL: glbWriter.floats(Float32Array.from(surface.normals), 'VEC3'),
  };
  const indices = glbWriter.indices(Uint32Array.from(surface.indices));
  const material = glbWriter.material({ name: 'PlatformTop', pbrMetallicRoughness: { metallicFactor: 0 } });
  const mesh = glbWriter.mesh('platform', [{ attributes, indices, material }]);
  glbWriter.node({ name: 'platform', mesh });
  return glbWriter.glb();
}
