import type { LightMesh } from '../light-mesh.ts';
import type { HullGrid } from './field.ts';

/** Corners of a cell: bit 0 is x, bit 1 is y, bit 2 is z. Its faces, counter-clockwise from outside. */
const FACES = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
];

/** Edges as pairs of corners, the lower first. */
const EDGES: readonly (readonly [number, number])[] = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((a) =>
  [1, 2, 4].filter((bit) => (a & bit) === 0).map((bit) => [a, a | bit] as const),
);
const EDGE_OF = new Map(EDGES.map(([a, b], e) => [a * 8 + b, e]));
const edgeBetween = (a: number, b: number): number => EDGE_OF.get(Math.min(a, b) * 8 + Math.max(a, b)) as number;

/** Crossings of a vertex with a grid edge keep clear of its ends by this share, so that no triangle loses its area. */
const CLEAR = 0.03;

/**
 * Loops around the inside corners of a cell, as its edges, for each of the 256 ways in which corners may be inside. On every face, each run of inside
 * corners is cut off by a segment of its own, whatever the neighbouring cell holds: so both cells of a face agree, every crossing lies on exactly one
 * loop of each of its four cells, and the surface is a closed manifold.
 */
const LOOPS: readonly (readonly number[])[][] = Array.from({ length: 256 }, (_, inside) => loopsOf(inside));

function loopsOf(inside: number): number[][] {
  const next = new Map<number, number>();
  const isIn = (corner: number) => (inside >> corner) & 1;
  for (const face of FACES)
    for (let i = 0; i < 4; i++) {
      if (isIn(face[i]) || !isIn(face[(i + 1) % 4])) continue;
      let j = (i + 1) % 4;
      while (isIn(face[(j + 1) % 4])) j = (j + 1) % 4;
      next.set(edgeBetween(face[i], face[(i + 1) % 4]), edgeBetween(face[j], face[(j + 1) % 4]));
    }
  const loops: number[][] = [];
  while (next.size > 0) {
    const [first] = next.keys();
    const loop: number[] = [];
    for (let e = first; next.has(e); ) {
      loop.push(e);
      const to = next.get(e) as number;
      next.delete(e);
      e = to;
    }
    loops.push(loop);
  }
  return loops;
}

/**
 * The surface where a field crosses 0, watertight and manifold: every edge lies on two triangles and the triangles around every vertex form one ring. Cells
 * whose loops have more than four crossings get a vertex in the middle of each. The field is positive on all sides of the grid.
 */
export function contour(grid: HullGrid, field: Float32Array): LightMesh {
  const [nx, ny, nz] = grid.size;
  const corner = Array.from({ length: 8 }, (_, c) => (c & 1) + ((c >> 1) & 1) * nx + (c >> 2) * nx * ny);
  const positions: number[] = [];
  const indices: number[] = [];
  const known = new Map<number, number>();
  const vertexAt = (node: number, edge: number): number => {
    const [a, b] = EDGES[edge];
    const from = node + corner[a];
    const key = from * 3 + [1, 2, 4].indexOf(a ^ b);
    let v = known.get(key);
    if (v === undefined) {
      v = positions.length / 3;
      known.set(key, v);
      positions.push(...crossing(grid, field, from, node + corner[b]));
    }
    return v;
  };
  for (let z = 0; z < nz - 1; z++)
    for (let y = 0; y < ny - 1; y++)
      for (let x = 0; x < nx - 1; x++) {
        const node = (z * ny + y) * nx + x;
        let inside = 0;
        for (let c = 0; c < 8; c++) if (field[node + corner[c]] <= 0) inside |= 1 << c;
        if (inside === 0 || inside === 255) continue;
        for (const loop of LOOPS[inside])
          addLoop(
            loop.map((edge) => vertexAt(node, edge)),
            positions,
            indices,
          );
      }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}

/** Where the field crosses 0 between two nodes. */
function crossing({ origin, cell, size }: HullGrid, field: Float32Array, a: number, b: number): number[] {
  const share = Math.max(CLEAR, Math.min(1 - CLEAR, field[a] / (field[a] - field[b])));
  const place = (i: number) => [i % size[0], Math.floor(i / size[0]) % size[1], Math.floor(i / (size[0] * size[1]))];
  const [p, q] = [place(a), place(b)];
  return [0, 1, 2].map((k) => origin[k] + cell * (p[k] + share * (q[k] - p[k])));
}

/** A loop as triangles: none of its inner edges may run along a face of the cell, where the neighbour could have the same. */
function addLoop(loop: readonly number[], positions: number[], indices: number[]): void {
  if (loop.length === 3) {
    indices.push(...loop);
    return;
  }
  if (loop.length === 4) {
    indices.push(loop[0], loop[1], loop[2], loop[0], loop[2], loop[3]);
    return;
  }
  const middle = positions.length / 3;
  positions.push(...[0, 1, 2].map((k) => loop.reduce((sum, v) => sum + positions[v * 3 + k], 0) / loop.length));
  loop.forEach((v, i) => {
    indices.push(v, loop[(i + 1) % loop.length], middle);
  });
}
