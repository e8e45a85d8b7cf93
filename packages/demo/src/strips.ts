import { GlbWriter } from './glb-writer.ts';
import { type Look, metal } from './looks.ts';
import { primitive, textured } from './pieces.ts';

type Vec = [number, number, number];

/** A frond: green leaflets on either side of a pale rib that runs along u. */
const frond: Look = (u, v) => {
  const rib = Math.abs(v - 0.5) < 0.035;
  const leaf = Math.abs(Math.sin(u * 60 - Math.abs(v - 0.5) * 26));
  const green = 0.55 + 0.45 * leaf;
  return {
    color: rib ? [164, 168, 96] : [52 * green, 108 * green, 46 * green],
    roughness: 0.75,
    metallic: 0,
    occlusion: 0.8 + 0.2 * leaf,
    height: rib ? 2 : leaf,
  };
};

interface Built {
  positions: number[];
  normals: number[];
  uvs: number[];
  indices: number[];
}

/** One quad, its normal from its corners a b c d around. */
function addQuad(out: Built, corners: readonly Vec[], uvs: readonly [number, number][]): void {
  const [vec, b, , d] = corners;
  const [e, f] = [[0, 1, 2].map((k) => b[k] - vec[k]), [0, 1, 2].map((k) => d[k] - vec[k])];
  const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
  const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2);
  const at = out.positions.length / 3;
  corners.forEach((corner, i) => {
    out.positions.push(...corner);
    out.normals.push(...n.map((v) => v / l));
    out.uvs.push(...uvs[i]);
  });
  out.indices.push(at, at + 1, at + 2, at, at + 2, at + 3);
}

/** Fern fronds in the planter: bent strips of quads, each along the whole texture. Turned on a sheet, their veins would run crooked. */
export function buildFerns(fronds = 9): Uint8Array {
  const glbWriter = new GlbWriter();
  const out: Built = { positions: [], normals: [], uvs: [], indices: [] };
  const pieces = 6;
  for (let i = 0; i < fronds; i++) {
    const turn = (i / fronds) * 2 * Math.PI;
    const length = 0.5 + 0.12 * Math.sin(i * 2.3);
    const at = (k: number, side: number): Vec => {
      const t = k / pieces;
      const [out_, up] = [length * t, 0.35 * Math.sin(t * 2.2)];
      const width = 0.05 * side;
      return [
        out_ * Math.cos(turn) - width * Math.sin(turn),
        0.45 + up,
        out_ * Math.sin(turn) + width * Math.cos(turn),
      ];
    };
    for (let k = 0; k < pieces; k++) {
      const [u0, u1] = [k / pieces, (k + 1) / pieces];
      addQuad(
        out,
        [at(k, 1), at(k + 1, 1), at(k + 1, -1), at(k, -1)],
        [
          [u0, 1],
          [u1, 1],
          [u1, 0],
          [u0, 0],
        ],
      );
    }
  }
  const mesh = glbWriter.mesh('ferns', [primitive(glbWriter, out, textured(glbWriter, 'FernFrond', frond, 256, 64))]);
  glbWriter.node({ name: 'ferns', mesh });
  return glbWriter.glb();
}

/**
 * The handrail of the ramp as it comes from the modeller: a square bar along a path with two corners and a slope, mitred, all its UVs at 0.
 * It is to be laid along the strip of the other rails.
 */
export function buildRampRail(): Uint8Array {
  const glbWriter = new GlbWriter();
  const half = 0.025;
  // Seen from above, with the height at each corner.
  const path: Vec[] = [
    [-4, 0.95, 0],
    [1.5, 0.95, 0],
    [1.5, 0.95, 2.4],
    [6.5, 0.35, 2.4],
  ];
  const right = (i: number): [number, number] => {
    const before = path[Math.max(0, i - 1)];
    const after = path[Math.min(path.length - 1, i + 1)];
    const here = path[i];
    const d = (vec: Vec, q: Vec) => {
      const [x, z] = [q[0] - vec[0], q[2] - vec[2]];
      const l = Math.sqrt(x * x + z * z) || 1;
      return [x / l, z / l];
    };
    const a = i === 0 ? d(here, after) : d(before, here);
    const b = i === path.length - 1 ? a : d(here, after);
    // The mitre: across the mean direction, longer at corners.
    const [x, z] = [-(a[1] + b[1]), a[0] + b[0]];
    const k = 2 / (x * x + z * z);
    return [x * k, z * k];
  };
  const ring = (i: number): Vec[] => {
    const [x, z] = right(i);
    const [px, py, pz] = path[i];
    return [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ].map(([s, t]): Vec => [px + s * half * x, py + t * half, pz + s * half * z]);
  };
  const out: Built = { positions: [], normals: [], uvs: [], indices: [] };
  const none: [number, number][] = [
    [0, 0],
    [0, 0],
    [0, 0],
    [0, 0],
  ];
  for (let i = 0; i + 1 < path.length; i++) {
    const [a, b] = [ring(i), ring(i + 1)];
    for (let k = 0; k < 4; k++) {
      const m = (k + 1) % 4;
      addQuad(out, [a[k], a[m], b[m], b[k]], none);
    }
  }
  const mesh = glbWriter.mesh('RampRail', [
    primitive(glbWriter, out, textured(glbWriter, 'RampRailRaw', metal([90, 90, 90], [150, 150, 150], 0.1, 91), 16)),
  ]);
  glbWriter.node({ name: 'RampRail', mesh });
  return glbWriter.glb();
}
