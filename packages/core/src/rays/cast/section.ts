import type { RayMesh } from '../target/ray-mesh.ts';

/** The plane of a cut through surfaces, m: x along the surface, y along the way out; the picked point is the origin. */
export interface SectionPlane {
  origin: readonly [number, number, number];
  /** Unit, square to each other. */
  along: readonly [number, number, number];
  up: readonly [number, number, number];
}

/** Lines in which a plane cuts a mesh, within a square of so many m about the origin: x1 y1 x2 y2 of each. */
export function cutMesh(mesh: Pick<RayMesh, 'indices' | 'positions'>, plane: SectionPlane, half: number): Float32Array {
  const { origin: o, along: a, up: u } = plane;
  const n = [a[1] * u[2] - a[2] * u[1], a[2] * u[0] - a[0] * u[2], a[0] * u[1] - a[1] * u[0]];
  const lines: number[] = [];
  const { indices, positions: p } = mesh;
  const side = [0, 0, 0];
  for (let t = 0; t < indices.length; t += 3) {
    let above = 0;
    for (let k = 0; k < 3; k++) {
      const v = indices[t + k] * 3;
      side[k] = (p[v] - o[0]) * n[0] + (p[v + 1] - o[1]) * n[1] + (p[v + 2] - o[2]) * n[2];
      if (side[k] >= 0) above++;
    }
    if (above === 0 || above === 3) continue;
    const ends: number[] = [];
    for (let k = 0; k < 3; k++) {
      const j = k === 2 ? 0 : k + 1;
      if (side[k] >= 0 === side[j] >= 0) continue;
      const s = side[k] / (side[k] - side[j]);
      const v = indices[t + k] * 3;
      const w = indices[t + j] * 3;
      let x = 0;
      let y = 0;
      for (let c = 0; c < 3; c++) {
        const q = p[v + c] + (p[w + c] - p[v + c]) * s - o[c];
        x += q * a[c];
        y += q * u[c];
      }
      ends.push(x, y);
    }
    const [x1, y1, x2, y2] = ends;
    if (Math.min(x1, x2) > half || Math.max(x1, x2) < -half || Math.min(y1, y2) > half || Math.max(y1, y2) < -half)
      continue;
    lines.push(x1, y1, x2, y2);
  }
  return Float32Array.from(lines);
}
