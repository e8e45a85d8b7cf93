import type { LightMesh } from '../light-mesh.ts';

/** Triangles around each vertex: those of vertex v are `list[from[v]]` to `list[from[v + 1] − 1]`. */
export interface Rings {
  from: Uint32Array;
  list: Uint32Array;
}

export function ringsOf({ positions, indices }: LightMesh): Rings {
  const count = positions.length / 3;
  const from = new Uint32Array(count + 1);
  for (let i = 0; i < indices.length; i++) from[indices[i] + 1]++;
  for (let v = 0; v < count; v++) from[v + 1] += from[v];
  const list = new Uint32Array(indices.length);
  const next = from.slice(0, count);
  for (let i = 0; i < indices.length; i++) list[next[indices[i]]++] = Math.floor(i / 3);
  return { from, list };
}

/** Normal of a triangle, as long as twice its area, with one vertex at another place. @param moved −1: none is */
export function triangleNormal(
  p: ArrayLike<number>,
  [a, b, c]: readonly [number, number, number],
  moved: number,
  to: ArrayLike<number>,
  out: number[],
): number {
  const at = (v: number, k: number) => (v === moved ? to[k] : p[v * 3 + k]);
  const [ax, ay, az] = [at(a, 0), at(a, 1), at(a, 2)];
  const [ux, uy, uz] = [at(b, 0) - ax, at(b, 1) - ay, at(b, 2) - az];
  const [vx, vy, vz] = [at(c, 0) - ax, at(c, 1) - ay, at(c, 2) - az];
  out[0] = uy * vz - uz * vy;
  out[1] = uz * vx - ux * vz;
  out[2] = ux * vy - uy * vx;
  return Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2]);
}
