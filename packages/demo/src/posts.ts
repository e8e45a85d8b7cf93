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
function addGrid(solid: Solid, columns: number, rows: number, at: (u: number, v: number) => { p: Vec; n: Vec }): void {
  const base = solid.positions.length / 3;
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      const { p: vec, n } = at(i / columns, j / rows);
      const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2);
      solid.positions.push(...vec);
      solid.normals.push(n[0] / l, n[1] / l, n[2] / l);
    }
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const a = base + j * (columns + 1) + i;
      const b = a + columns + 1;
      solid.indices.push(a, b, a + 1, a + 1, b, b + 1);
    }
}

/** A box with rounded edges. @param cells of each side */
function addRounded(solid: Solid, centre: Vec, size: Vec, radius: number, cells: number): void {
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
    addGrid(solid, cells, cells, (u, v) => {
      const vec: Vec = [0, 0, 0];
      vec[x] = bend(u, half[x]) * sign;
      vec[y] = bend(1 - v, half[y]);
      vec[z] = half[z] * sign;
      const core = vec.map((c, k) => Math.max(-half[k] + radius, Math.min(half[k] - radius, c))) as Vec;
      const n = vec.map((c, k) => c - core[k]) as Vec;
      const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2) || 1;
      return { p: core.map((c, k) => centre[k] + c + (n[k] / l) * radius) as Vec, n };
    });
}

/** A domed bolt head on the front, looking along +z. */
function addBolt(solid: Solid, at: Vec, radius: number, height: number): void {
  addGrid(solid, 32, 10, (u, v) => {
    const [a, t] = [2 * Math.PI * u, (Math.PI / 2) * v];
    const vec: Vec = [Math.sin(t) * Math.cos(a), Math.sin(t) * Math.sin(a), Math.cos(t)];
    return {
      p: [at[0] + vec[0] * radius, at[1] + vec[1] * radius, at[2] + vec[2] * height],
      n: [vec[0] * height, vec[1] * height, vec[2] * radius],
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
function addPlate(solid: Solid, centre: Vec, width: number, height: number, depth: number, cells: number): void {
  const h = (u: number, v: number) => -depth * engraved(u * 2 - 1, 1 - v * 2);
  addGrid(solid, cells, cells, (u, v) => {
    const e = 0.5 / cells;
    const dx = (h(u + e, v) - h(u - e, v)) / (2 * e * width);
    const dy = (h(u, v + e) - h(u, v - e)) / (2 * e * height);
    return { p: [centre[0] + (u - 0.5) * width, centre[1] + (0.5 - v) * height, centre[2] + h(u, v)], n: [-dx, dy, 1] };
  });
}

function primitiveOf(glbWriter: GlbWriter, solid: Solid, material: number) {
  return {
    attributes: {
      POSITION: glbWriter.floats(Float32Array.from(solid.positions), 'VEC3', true),
      NORMAL: glbWriter.floats(Float32Array.from(solid.normals), 'VEC3'),
    },
    indices: glbWriter.indices(Uint32Array.from(solid.indices)),
    material,
  };
}

const plain = (
  glbWriter: GlbWriter,
  name: string,
  baseColorFactor: number[],
  metallicFactor: number,
  roughnessFactor: number,
) => glbWriter.material({ name, pbrMetallicRoughness: { baseColorFactor, metallicFactor, roughnessFactor } });

const BODY: Vec = [0.3, 1.1, 0.2];
const HEAD: Vec = [0.36, 0.34, 0.24];
const HEAD_Y = 1.22;

/** The ticket post with its bevels, bolts and engraved plate. @param cells finer makes more triangles */
export function buildPostHigh(cells = 44): Uint8Array {
  const glbWriter = new GlbWriter();
  const enamel = plain(glbWriter, 'PostEnamel', [0.03, 0.16, 0.17, 1], 0, 0.35);
  const steel = plain(glbWriter, 'PostSteel', [0.45, 0.45, 0.43, 1], 1, 0.4);
  const brass = plain(glbWriter, 'PostBrass', [0.6, 0.42, 0.13, 1], 1, 0.3);
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
  glbWriter.node({
    name: 'ticket post_high',
    mesh: glbWriter.mesh('ticket post shell', [primitiveOf(glbWriter, shell, enamel)]),
  });
  glbWriter.node({
    name: 'ticket post_high fittings',
    mesh: glbWriter.mesh('ticket post fittings', [primitiveOf(glbWriter, fittings, steel)]),
  });
  glbWriter.node({
    name: 'ticket post_high plate',
    mesh: glbWriter.mesh('ticket post plate', [primitiveOf(glbWriter, plate, brass)]),
  });
  return glbWriter.glb();
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
  const glbWriter = new GlbWriter();
  const material = plain(glbWriter, 'TicketPost', [0.5, 0.5, 0.5, 1], 0, 0.6);
  const charts = [
    ...boxCharts([0, 0.05 + BODY[1] / 2, 0], BODY),
    ...boxCharts([0, HEAD_Y, 0], HEAD),
    ...boxCharts([0, 0.03, 0], [0.4, 0.06, 0.3]),
  ];
  const [mesh] = layCharts([charts], 0.012);
  const primitive = {
    attributes: {
      POSITION: glbWriter.floats(mesh.positions, 'VEC3', true),
      NORMAL: glbWriter.floats(mesh.normals, 'VEC3'),
      TEXCOORD_0: glbWriter.floats(mesh.uvs, 'VEC2'),
    },
    indices: glbWriter.indices(mesh.indices),
    material,
  };
  glbWriter.node({ name: 'ticket post_low', mesh: glbWriter.mesh('ticket post', [primitive]) });
  return glbWriter.glb();
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
  const glbWriter = new GlbWriter();
  const low = plain(glbWriter, 'LampHead', [0.5, 0.5, 0.5, 1], 0, 0.6);
  const iron = plain(glbWriter, 'LampIron', [0.09, 0.1, 0.1, 1], 1, 0.45);
  const copper = plain(glbWriter, 'LampCopper', [0.5, 0.2, 0.1, 1], 1, 0.35);
  const places: Vec[] = [
    [0, 0, 0],
    [0.5, 0, 0],
  ];
  const surfaces = layCharts(
    places.map((place) => [...lathe(place, [...LAMP], 16), disc(place, 0.15, '-y', 16)]),
    0.02,
  );
  places.forEach((p, i) => {
    const surface = surfaces[i];
    const primitive = {
      attributes: {
        POSITION: glbWriter.floats(surface.positions, 'VEC3', true),
        NORMAL: glbWriter.floats(surface.normals, 'VEC3'),
        TEXCOORD_0: glbWriter.floats(surface.uvs, 'VEC2'),
      },
      indices: glbWriter.indices(surface.indices),
      material: low,
    };
    glbWriter.node({ name: `lamp head ${i + 1}`, mesh: glbWriter.mesh(`lamp head ${i + 1}`, [primitive]) });
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
      const vec: Vec = [du[1] * dv[2] - du[2] * dv[1], du[2] * dv[0] - du[0] * dv[2], du[0] * dv[1] - du[1] * dv[0]];
      return { p: place(a, t), n: vec.map((c) => -c) as Vec };
    });
    addGrid(detailed, sides, 8, (u, v) => {
      const a = 2 * Math.PI * u;
      const r = 0.15 * (1 - v);
      return { p: [at[0] + r * Math.sin(a), at[1], at[2] + r * Math.cos(a)], n: [0, -1, 0] };
    });
    glbWriter.node({
      name: `lamp head ${i + 1} detailed`,
      mesh: glbWriter.mesh(`lamp head ${i + 1} detailed`, [primitiveOf(glbWriter, detailed, i === 0 ? iron : copper)]),
    });
  });
  return glbWriter.glb();
}
