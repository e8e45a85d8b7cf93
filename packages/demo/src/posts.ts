import { type Chart, disc, lathe, layCharts, rectangle } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';

/** Pairs of a high-poly and a low-poly: a ticket post told by its names, and two lamp heads that stand beside their low-polys. */

type Vec = [number, number, number];

/** Triangles without UVs, as high-polys come. */
interface Solid {
  positions: number[];
  normals: number[];
  indices: number[];
}

const solid = (): Solid => ({ positions: [], normals: [], indices: [] });

/** A grid of (u, v) in 0 … 1 with its normals. */
function addGrid(s: Solid, columns: number, rows: number, at: (u: number, v: number) => { p: Vec; n: Vec }): void {
  const base = s.positions.length / 3;
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      const { p, n } = at(i / columns, j / rows);
      const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2);
      s.positions.push(...p);
      s.normals.push(n[0] / l, n[1] / l, n[2] / l);
    }
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const a = base + j * (columns + 1) + i;
      const b = a + columns + 1;
      s.indices.push(a, b, a + 1, a + 1, b, b + 1);
    }
}

/** A box with rounded edges. @param cells of each side */
function addRounded(s: Solid, centre: Vec, size: Vec, radius: number, cells: number): void {
  const half = size.map((v) => v / 2) as Vec;
  const sides: [number, number, number, number][] = [
    [0, 1, 2, 1],
    [0, 1, 2, -1],
    [1, 2, 0, 1],
    [1, 2, 0, -1],
    [2, 0, 1, 1],
    [2, 0, 1, -1],
  ];
  // Most cells lie on the rounding.
  const bend = (t: number, h: number): number => {
    const r = Math.min(radius, h);
    if (t < 0.35) return -h + (t / 0.35) * r;
    if (t > 0.65) return h - ((1 - t) / 0.35) * r;
    return -h + r + ((t - 0.35) / 0.3) * 2 * (h - r);
  };
  for (const [x, y, z, sign] of sides)
    addGrid(s, cells, cells, (u, v) => {
      const p: Vec = [0, 0, 0];
      p[x] = bend(u, half[x]) * sign;
      p[y] = bend(1 - v, half[y]);
      p[z] = half[z] * sign;
      const core = p.map((c, k) => Math.max(-half[k] + radius, Math.min(half[k] - radius, c))) as Vec;
      const n = p.map((c, k) => c - core[k]) as Vec;
      const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2) || 1;
      return { p: core.map((c, k) => centre[k] + c + (n[k] / l) * radius) as Vec, n };
    });
}

/** A domed bolt head on the front, looking along +z. */
function addBolt(s: Solid, at: Vec, radius: number, height: number): void {
  addGrid(s, 32, 10, (u, v) => {
    const [a, t] = [2 * Math.PI * u, (Math.PI / 2) * v];
    const n: Vec = [Math.sin(t) * Math.cos(a), Math.sin(t) * Math.sin(a), Math.cos(t)];
    return {
      p: [at[0] + n[0] * radius, at[1] + n[1] * radius, at[2] + n[2] * height],
      n: [n[0] * height, n[1] * height, n[2] * radius],
    };
  });
}

/** Depth of the engraving at a place of the plate, 0 … 1: a ring, a tram's front and two lines of strokes. */
function engraved(x: number, y: number): number {
  const line = (d: number, width: number) => Math.max(0, 1 - Math.abs(d) / width);
  const ring = line(Math.sqrt(x * x + (y - 0.22) ** 2) - 0.5, 0.05);
  const body = line(Math.max(Math.abs(x) - 0.24, Math.abs(y - 0.24) - 0.26), 0.04);
  const window_ = line(Math.max(Math.abs(x) - 0.15, Math.abs(y - 0.34) - 0.09), 0.035);
  const strokes = [-0.5, -0.72].map((row) =>
    Math.abs(x) < 0.7 && Math.abs(y - row) < 0.07 ? line(((x * 9 + 40) % 1) - 0.5, 0.2) : 0,
  );
  return Math.max(ring, body, window_, ...strokes);
}

/** A plate that looks along +z, engraved, with its rim. */
function addPlate(s: Solid, centre: Vec, width: number, height: number, depth: number, cells: number): void {
  const h = (u: number, v: number) => -depth * engraved(u * 2 - 1, 1 - v * 2);
  addGrid(s, cells, cells, (u, v) => {
    const e = 0.5 / cells;
    const dx = (h(u + e, v) - h(u - e, v)) / (2 * e * width);
    const dy = (h(u, v + e) - h(u, v - e)) / (2 * e * height);
    return { p: [centre[0] + (u - 0.5) * width, centre[1] + (0.5 - v) * height, centre[2] + h(u, v)], n: [-dx, dy, 1] };
  });
}

function primitiveOf(w: GlbWriter, s: Solid, material: number) {
  return {
    attributes: {
      POSITION: w.floats(Float32Array.from(s.positions), 'VEC3', true),
      NORMAL: w.floats(Float32Array.from(s.normals), 'VEC3'),
    },
    indices: w.indices(Uint32Array.from(s.indices)),
    material,
  };
}

const plain = (
  w: GlbWriter,
  name: string,
  baseColorFactor: number[],
  metallicFactor: number,
  roughnessFactor: number,
) => w.material({ name, pbrMetallicRoughness: { baseColorFactor, metallicFactor, roughnessFactor } });

const BODY: Vec = [0.3, 1.1, 0.2];
const HEAD: Vec = [0.36, 0.34, 0.24];
const HEAD_Y = 1.22;

/** The ticket post with its bevels, bolts and engraved plate. @param cells finer makes more triangles */
export function buildPostHigh(cells = 44): Uint8Array {
  const w = new GlbWriter();
  const enamel = plain(w, 'PostEnamel', [0.03, 0.16, 0.17, 1], 0, 0.35);
  const steel = plain(w, 'PostSteel', [0.45, 0.45, 0.43, 1], 1, 0.4);
  const brass = plain(w, 'PostBrass', [0.6, 0.42, 0.13, 1], 1, 0.3);
  const shell = solid();
  addRounded(shell, [0, 0.05 + BODY[1] / 2, 0], BODY, 0.018, cells);
  addRounded(shell, [0, HEAD_Y, 0], HEAD, 0.03, cells);
  const fittings = solid();
  addRounded(fittings, [0, 0.03, 0], [0.4, 0.06, 0.3], 0.012, Math.round(cells / 2));
  for (const x of [-0.115, 0.115])
    for (const y of [0.16, 0.62, 1.0]) addBolt(fittings, [x, y, BODY[2] / 2], 0.014, 0.009);
  // The coin slot's guard: a low frame.
  for (const [x, y, sx, sy] of [
    [0, HEAD_Y + 0.07, 0.2, 0.016],
    [0, HEAD_Y - 0.03, 0.2, 0.016],
    [-0.092, HEAD_Y + 0.02, 0.016, 0.1],
    [0.092, HEAD_Y + 0.02, 0.016, 0.1],
  ])
    addRounded(fittings, [x, y, HEAD[2] / 2 + 0.002], [sx, sy, 0.014], 0.004, 10);
  const plate = solid();
  addPlate(plate, [0, 0.78, BODY[2] / 2 + 0.004], 0.2, 0.24, 0.004, cells * 4);
  addRounded(plate, [0, 0.78, BODY[2] / 2 - 0.003], [0.206, 0.246, 0.012], 0.003, 12);
  w.node({ name: 'ticket post_high', mesh: w.mesh('ticket post shell', [primitiveOf(w, shell, enamel)]) });
  w.node({
    name: 'ticket post_high fittings',
    mesh: w.mesh('ticket post fittings', [primitiveOf(w, fittings, steel)]),
  });
  w.node({ name: 'ticket post_high plate', mesh: w.mesh('ticket post plate', [primitiveOf(w, plate, brass)]) });
  return w.glb();
}

/** A box of which only five sides are seen, in charts. */
const boxCharts = (centre: Vec, size: Vec): Chart[] => {
  const [x, y, z] = size.map((v) => v / 2);
  const at = (dx: number, dy: number, dz: number): Vec => [centre[0] + dx, centre[1] + dy, centre[2] + dz];
  return [
    rectangle(at(-x, y, z), [2 * x, 0, 0], [0, -2 * y, 0]),
    rectangle(at(x, y, -z), [-2 * x, 0, 0], [0, -2 * y, 0]),
    rectangle(at(x, y, z), [0, 0, -2 * z], [0, -2 * y, 0]),
    rectangle(at(-x, y, -z), [0, 0, 2 * z], [0, -2 * y, 0]),
    rectangle(at(-x, y, -z), [2 * x, 0, 0], [0, 0, 2 * z]),
  ];
};

/** The low-poly of the ticket post: three boxes. */
export function buildPostLow(): Uint8Array {
  const w = new GlbWriter();
  const material = plain(w, 'TicketPost', [0.5, 0.5, 0.5, 1], 0, 0.6);
  const charts = [
    ...boxCharts([0, 0.05 + BODY[1] / 2, 0], BODY),
    ...boxCharts([0, HEAD_Y, 0], HEAD),
    ...boxCharts([0, 0.03, 0], [0.4, 0.06, 0.3]),
  ];
  const [mesh] = layCharts([charts], 0.012);
  const primitive = {
    attributes: {
      POSITION: w.floats(mesh.positions, 'VEC3', true),
      NORMAL: w.floats(mesh.normals, 'VEC3'),
      TEXCOORD_0: w.floats(mesh.uvs, 'VEC2'),
    },
    indices: w.indices(mesh.indices),
    material,
  };
  w.node({ name: 'ticket post_low', mesh: w.mesh('ticket post', [primitive]) });
  return w.glb();
}

/** Profile of a lamp head, from its top down: radius and height, m. */
const LAMP: readonly [number, number][] = [
  [0.02, 0.3],
  [0.07, 0.27],
  [0.13, 0.16],
  [0.15, 0.04],
  [0.15, 0],
];

const lampAt = (t: number): [number, number] => {
  const k = Math.min(LAMP.length - 2, Math.floor(t * (LAMP.length - 1)));
  const f = t * (LAMP.length - 1) - k;
  return [0, 1].map((i) => LAMP[k][i] + (LAMP[k + 1][i] - LAMP[k][i]) * f) as [number, number];
};

/** Way from the low-polys of the lamp heads to their high-polys, m. */
export const LAMP_MOVE: Vec = [1.6, 0, 0];

/** Two lamp heads: at the left their low-polys, at the right, moved by `LAMP_MOVE`, their high-polys; no name says which is which. */
export function buildLamps(sides = 160): Uint8Array {
  const w = new GlbWriter();
  const low = plain(w, 'LampHead', [0.5, 0.5, 0.5, 1], 0, 0.6);
  const iron = plain(w, 'LampIron', [0.09, 0.1, 0.1, 1], 1, 0.45);
  const copper = plain(w, 'LampCopper', [0.5, 0.2, 0.1, 1], 1, 0.35);
  const places: Vec[] = [
    [0, 0, 0],
    [0.5, 0, 0],
  ];
  const surfaces = layCharts(
    places.map((p) => [...lathe(p, [...LAMP], 16), disc(p, 0.15, '-y', 16)]),
    0.02,
  );
  places.forEach((p, i) => {
    const s = surfaces[i];
    const primitive = {
      attributes: {
        POSITION: w.floats(s.positions, 'VEC3', true),
        NORMAL: w.floats(s.normals, 'VEC3'),
        TEXCOORD_0: w.floats(s.uvs, 'VEC2'),
      },
      indices: w.indices(s.indices),
      material: low,
    };
    w.node({ name: `lamp head ${i + 1}`, mesh: w.mesh(`lamp head ${i + 1}`, [primitive]) });
    const detailed = solid();
    const at: Vec = [p[0] + LAMP_MOVE[0], p[1] + LAMP_MOVE[1], p[2] + LAMP_MOVE[2]];
    const ribs = i === 0 ? 12 : 20;
    const radius = (a: number, t: number) =>
      lampAt(t)[0] + 0.006 * Math.max(0, Math.cos(ribs * a)) ** 8 * Math.sin(Math.PI * t);
    addGrid(detailed, sides, Math.round(sides / 2), (u, v) => {
      const a = 2 * Math.PI * u;
      const t = Math.min(0.9999, v);
      const e = 1e-3;
      const place = (b: number, s: number): Vec => {
        const q = Math.max(0, Math.min(0.9999, s));
        const r = radius(b, q);
        return [at[0] + r * Math.sin(b), at[1] + lampAt(q)[1], at[2] + r * Math.cos(b)];
      };
      const [p0, p1] = [place(a - e, t), place(a + e, t)];
      const [q0, q1] = [place(a, t - e), place(a, t + e)];
      const du = p1.map((c, k) => c - p0[k]);
      const dv = q1.map((c, k) => c - q0[k]);
      const n: Vec = [du[1] * dv[2] - du[2] * dv[1], du[2] * dv[0] - du[0] * dv[2], du[0] * dv[1] - du[1] * dv[0]];
      return { p: place(a, t), n: n.map((c) => -c) as Vec };
    });
    addGrid(detailed, sides, 8, (u, v) => {
      const a = 2 * Math.PI * u;
      const r = 0.15 * (1 - v);
      return { p: [at[0] + r * Math.sin(a), at[1], at[2] + r * Math.cos(a)], n: [0, -1, 0] };
    });
    w.node({
      name: `lamp head ${i + 1} detailed`,
      mesh: w.mesh(`lamp head ${i + 1} detailed`, [primitiveOf(w, detailed, i === 0 ? iron : copper)]),
    });
  });
  return w.glb();
}
