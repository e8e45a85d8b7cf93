import { type Surface, sideEnds } from '../mesh/surface.ts';
import { Laplacian } from './laplacian.ts';

/** A flattened piece of a surface. */
export interface Flat {
  triangles: Uint32Array;
  /** Places of the surface that it uses, and where they lie flat, (u, v), m. */
  places: Uint32Array;
  uv: Float64Array;
  /** Corners of its triangles as positions in `places`. */
  local: Uint32Array;
}

/** How far a flat piece is from the surface. */
export interface Stretch {
  /** L2 stretch (Sander, Snyder, Gortler and Hoppe 2001), 1 where nothing is stretched; scaled to equal area. */
  l2: number;
  /** Density along each face, √(area flat / area), by area: 5 % and 95 %. */
  low: number;
  high: number;
  flipped: number;
  area: number;
}

const LEAST_COT = 0.02;

/** Flat pieces start from what is known: places and where they lie. */
export function flatOf(surface: Surface, triangles: Uint32Array, known: (place: number) => [number, number]): Flat {
  const number = new Map<number, number>();
  const local = new Uint32Array(triangles.length * 3);
  for (let i = 0; i < triangles.length; i++)
    for (let k = 0; k < 3; k++) {
      const v = surface.corners[triangles[i] * 3 + k];
      let n = number.get(v);
      if (n === undefined) {
        n = number.size;
        number.set(v, n);
      }
      local[i * 3 + k] = n;
    }
  const places = Uint32Array.from(number.keys());
  const uv = new Float64Array(places.length * 2);
  places.forEach((v, i) => {
    uv.set(known(v), i * 2);
  });
  return { triangles, places, uv, local };
}

/** A flat piece seen along the mean of its normals. */
export function projected(surface: Surface, triangles: Uint32Array): Flat {
  const [u, v] = axesAcross(meanNormal(surface, triangles));
  const { points } = surface;
  return flatOf(surface, triangles, (p) => [
    points[p * 3] * u[0] + points[p * 3 + 1] * u[1] + points[p * 3 + 2] * u[2],
    points[p * 3] * v[0] + points[p * 3 + 1] * v[1] + points[p * 3 + 2] * v[2],
  ]);
}

/** Unit mean of normals, by area; up when they cancel out. */
export function meanNormal(surface: Surface, triangles: ArrayLike<number>): [number, number, number] {
  let [x, y, z] = [0, 0, 0];
  for (let i = 0; i < triangles.length; i++) {
    const triangle = triangles[i];
    const a = surface.areas[triangle];
    x += surface.normals[triangle * 3] * a;
    y += surface.normals[triangle * 3 + 1] * a;
    z += surface.normals[triangle * 3 + 2] * a;
  }
  const l = Math.sqrt(x * x + y * y + z * z);
  return l > 1e-12 ? [x / l, y / l, z / l] : [0, 1, 0];
}

/**
 * Right and up across a direction, seen against it, so that (right, up, direction) is right-handed: up is +y, on floors −z and under
 * ceilings +z.
 */
export function axesAcross([x, y, z]: readonly number[]): [number[], number[]] {
  const up = Math.abs(y) < LEVEL * Math.sqrt(x * x + y * y + z * z) ? [0, 1, 0] : [0, 0, y > 0 ? -1 : 1];
  const cross = (a: readonly number[], b: readonly number[]) => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ];
  const u = cross(up, [x, y, z]);
  const l = Math.sqrt(u[0] ** 2 + u[1] ** 2 + u[2] ** 2) || 1;
  const unit = u.map((c) => c / l);
  return [unit, cross([x, y, z], unit)];
}

/** Cosine from which a surface is a floor or a ceiling. */
const LEVEL = 0.9;

/** Each triangle laid flat by itself: (x1, x2, y2) with the first corner at 0 and the second on the x axis. */
function laidOut(surface: Surface, triangles: Uint32Array): Float64Array {
  const { points, corners } = surface;
  const out = new Float64Array(triangles.length * 3);
  for (let i = 0; i < triangles.length; i++) {
    const [a, b, c] = [0, 1, 2].map((k) => corners[triangles[i] * 3 + k] * 3);
    const e = [points[b] - points[a], points[b + 1] - points[a + 1], points[b + 2] - points[a + 2]];
    const f = [points[c] - points[a], points[c + 1] - points[a + 1], points[c + 2] - points[a + 2]];
    const l = Math.sqrt(e[0] ** 2 + e[1] ** 2 + e[2] ** 2);
    const x = l > 0 ? (e[0] * f[0] + e[1] * f[1] + e[2] * f[2]) / l : 0;
    const ff = f[0] ** 2 + f[1] ** 2 + f[2] ** 2;
    out[i * 3] = l;
    out[i * 3 + 1] = x;
    out[i * 3 + 2] = Math.sqrt(Math.max(0, ff - x * x));
  }
  return out;
}

/**
 * As-rigid-as-possible flattening (Liu, Zhang, Xu, Gotsman and Gortler 2008): each triangle finds the turn that fits it best, then all places
 * follow, over and over; the linear system is solved by conjugate gradients from where it stands. Weights are cotangents, kept above 0.
 * @param steps most steps of the conjugate gradients in a round
 * @param hopeless asked after every round whether to stop
 * @returns the same piece with other (u, v)
 */
export function relaxFlat(
  surface: Surface,
  flat: Flat,
  rounds: number,
  steps: number,
  hopeless?: (after: Flat, round: number) => boolean,
): Flat {
  const { triangles, local } = flat;
  const shape = laidOut(surface, triangles);
  const n = flat.places.length;
  const cot = new Float64Array(triangles.length * 3);
  for (let i = 0; i < triangles.length; i++) {
    const [l, x, y] = [shape[i * 3], shape[i * 3 + 1], shape[i * 3 + 2]];
    // The cotangent opposite each side: side k runs from corner k to the next.
    const twice = Math.max(l * y, 1e-18);
    const dots = [x * (x - l) + y * y, l * l - x * l, x * l];
    // Opposite of side 0 is corner 2, of side 1 corner 0, of side 2 corner 1.
    const opposite = [dots[0], dots[2], dots[1]];
    for (let k = 0; k < 3; k++) {
      cot[i * 3 + k] = Math.min(50, Math.max(LEAST_COT, opposite[k] / twice / 2));
    }
  }
  const system = new Laplacian(n, local, cot);
  let uv: Float64Array = flat.uv.slice();
  const right = new Float64Array(n * 2);
  for (let round = 0; round < rounds; round++) {
    right.fill(0);
    for (let i = 0; i < triangles.length; i++) {
      const [l, x, y] = [shape[i * 3], shape[i * 3 + 1], shape[i * 3 + 2]];
      const px = [0, l, x];
      const py = [0, 0, y];
      let c = 0;
      let s = 0;
      for (let k = 0; k < 3; k++) {
        const m = (k + 1) % 3;
        const [a, b] = [local[i * 3 + k] * 2, local[i * 3 + m] * 2];
        const w = cot[i * 3 + k];
        const [ex, ey] = [px[k] - px[m], py[k] - py[m]];
        const [fx, fy] = [uv[a] - uv[b], uv[a + 1] - uv[b + 1]];
        c += w * (ex * fx + ey * fy);
        s += w * (ex * fy - ey * fx);
      }
      const r = Math.sqrt(c * c + s * s);
      if (r > 0) {
        c /= r;
        s /= r;
      } else c = 1;
      for (let k = 0; k < 3; k++) {
        const m = (k + 1) % 3;
        const [a, b] = [local[i * 3 + k] * 2, local[i * 3 + m] * 2];
        const w = cot[i * 3 + k];
        const [ex, ey] = [px[k] - px[m], py[k] - py[m]];
        const [rx, ry] = [w * (c * ex - s * ey), w * (s * ex + c * ey)];
        right[a] += rx;
        right[a + 1] += ry;
        right[b] -= rx;
        right[b + 1] -= ry;
      }
    }
    uv = system.solve(right, uv, steps);
    if (hopeless?.({ ...flat, uv }, round)) break;
  }
  return { ...flat, uv };
}

/** The same piece scaled to as much area as the surface has. */
export function toArea(surface: Surface, flat: Flat): Flat {
  const { triangles, local, uv } = flat;
  let world = 0;
  let area = 0;
  for (let i = 0; i < triangles.length; i++) {
    world += surface.areas[triangles[i]];
    area += Math.abs(signedArea(uv, local, i));
  }
  if (!(area > 0) || !(world > 0)) return flat;
  const k = Math.sqrt(world / area);
  return { ...flat, uv: uv.map((v) => v * k) };
}

function signedArea(uv: Float64Array, local: Uint32Array, i: number): number {
  const [a, b, c] = [local[i * 3] * 2, local[i * 3 + 1] * 2, local[i * 3 + 2] * 2];
  return ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
}

/** L2 stretch alone, at equal area; without end where a face is flipped. */
export function l2Of(surface: Surface, flat: Flat): number {
  const { triangles, local, uv } = flat;
  const { points, corners, areas } = surface;
  let sum = 0;
  let area = 0;
  let flatArea = 0;
  for (let i = 0; i < triangles.length; i++) {
    const triangle = triangles[i];
    const a = areas[triangle];
    if (!(a > 0)) continue;
    const s = signedArea(uv, local, i);
    if (!(s > 0)) return Infinity;
    // Squared singular values, summed, from the two metrics.
    const [p, q, r] = [corners[triangle * 3] * 3, corners[triangle * 3 + 1] * 3, corners[triangle * 3 + 2] * 3];
    const [pa, pb, pc] = [local[i * 3] * 2, local[i * 3 + 1] * 2, local[i * 3 + 2] * 2];
    const [u1, v1, u2, v2] = [uv[pb] - uv[pa], uv[pb + 1] - uv[pa + 1], uv[pc] - uv[pa], uv[pc + 1] - uv[pa + 1]];
    let ee = 0;
    let ff = 0;
    let ef = 0;
    for (let k = 0; k < 3; k++) {
      const e = points[q + k] - points[p + k];
      const f = points[r + k] - points[p + k];
      ee += e * e;
      ff += f * f;
      ef += e * f;
    }
    const squares = (ee * (u2 * u2 + v2 * v2) - 2 * ef * (u1 * u2 + v1 * v2) + ff * (u1 * u1 + v1 * v1)) / (4 * s * s);
    sum += (squares / 2) * a;
    area += a;
    flatArea += s;
  }
  return area > 0 ? Math.sqrt((sum / area) * (flatArea / area)) : 1;
}

/** Stretch of a piece as it lies; faces without area do not count. */
export function stretchOf(surface: Surface, flat: Flat): Stretch {
  const { triangles, local, uv } = flat;
  const shape = laidOut(surface, triangles);
  let sum = 0;
  let area = 0;
  let flatArea = 0;
  let flipped = 0;
  const densities = new Float64Array(triangles.length);
  const order: number[] = [];
  for (let i = 0; i < triangles.length; i++) {
    const a = surface.areas[triangles[i]];
    if (!(a > 0)) continue;
    const s = signedArea(uv, local, i);
    if (!(s > 0)) {
      flipped++;
      continue;
    }
    const [l, x, y] = [shape[i * 3], shape[i * 3 + 1], shape[i * 3 + 2]];
    const [pa, pb, pc] = [local[i * 3] * 2, local[i * 3 + 1] * 2, local[i * 3 + 2] * 2];
    const [u1, v1] = [uv[pb] - uv[pa], uv[pb + 1] - uv[pa + 1]];
    const [u2, v2] = [uv[pc] - uv[pa], uv[pc + 1] - uv[pa + 1]];
    // Derivatives of the surface by u and v, in the triangle's own plane.
    const det = 2 * s;
    const [su, tu] = [(l * v2 - x * v1) / det, (-y * v1) / det];
    const [sv, tv] = [(-l * u2 + x * u1) / det, (y * u1) / det];
    sum += ((su * su + tu * tu + sv * sv + tv * tv) / 2) * a;
    area += a;
    flatArea += s;
    densities[i] = Math.sqrt(s / a);
    order.push(i);
  }
  order.sort((p, q) => densities[p] - densities[q] || p - q);
  const at = (share: number) => {
    let seen = 0;
    for (const i of order) {
      seen += surface.areas[triangles[i]];
      if (seen >= share * area) return densities[i];
    }
    return order.length > 0 ? densities[order[order.length - 1]] : 1;
  };
  const l2 = area > 0 ? Math.sqrt(sum / area) * Math.sqrt(flatArea / area) : 1;
  return { l2, low: at(0.05), high: at(0.95), flipped, area };
}

/**
 * Whether the border of a piece crosses itself, or faces lie over each other around a corner. With no face flipped, nothing overlaps where neither
 * does.
 */
export function bordersCross(surface: Surface, flat: Flat): boolean {
  const inside = new Set(flat.triangles);
  const edges: number[] = [];
  flat.triangles.forEach((triangle, i) => {
    for (let k = 0; k < 3; k++) {
      const other = surface.twin[triangle * 3 + k];
      if (other >= 0 && inside.has(Math.floor(other / 3))) continue;
      const [a, b] = sideEnds(surface.corners, triangle * 3 + k);
      if (a === b) continue;
      edges.push(flat.local[i * 3 + k], flat.local[i * 3 + ((k + 1) % 3)]);
    }
  });
  return edgesCross(flat.uv, edges) || cornersOverlap(flat);
}

/** Least angle by which faces around a corner overlap, radians. */
const OVERLAP = 1e-7;

/** Whether two faces around one corner lie over each other: on a side of three faces, no borders need to cross for that. */
function cornersOverlap({ local, uv, places }: Flat): boolean {
  const around: [from: number, angle: number][][] = Array.from({ length: places.length }, () => []);
  for (let i = 0; i < local.length; i++) {
    const first = i - (i % 3);
    const [a, b, c] = [local[i] * 2, local[first + ((i + 1) % 3)] * 2, local[first + ((i + 2) % 3)] * 2];
    const [bx, by, cx, cy] = [uv[b] - uv[a], uv[b + 1] - uv[a + 1], uv[c] - uv[a], uv[c + 1] - uv[a + 1]];
    const angle = Math.atan2(bx * cy - by * cx, bx * cx + by * cy);
    if (angle > 0) around[local[i]].push([Math.atan2(by, bx), angle]);
  }
  return around.some((list) => {
    if (list.length < 2) return false;
    list.sort((p, q) => p[0] - q[0]);
    return list.some(([from, angle], i) => {
      const next = i + 1 < list.length ? list[i + 1][0] : list[0][0] + 2 * Math.PI;
      return from + angle > next + OVERLAP;
    });
  });
}

/**
 * Whether any two of some edges cross, those that meet in a point of `uv` left out.
 * @param edges two points each; true for none
 * @param hair share of its length by which an edge has to reach over another one
 */
export function edgesCross(uv: ArrayLike<number>, edges: readonly number[], hair = 0): boolean {
  const count = edges.length / 2;
  if (count === 0) return true;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const v of edges) {
    x0 = Math.min(x0, uv[2 * v]);
    x1 = Math.max(x1, uv[2 * v]);
    y0 = Math.min(y0, uv[2 * v + 1]);
    y1 = Math.max(y1, uv[2 * v + 1]);
  }
  const side = Math.max(1, Math.ceil(Math.sqrt(count)));
  const step = Math.max((x1 - x0) / side, (y1 - y0) / side, 1e-12);
  const cells = new Map<number, number[]>();
  for (let e = 0; e < count; e++) {
    const [a, b] = [edges[2 * e] * 2, edges[2 * e + 1] * 2];
    const cx0 = Math.floor((Math.min(uv[a], uv[b]) - x0) / step);
    const cx1 = Math.floor((Math.max(uv[a], uv[b]) - x0) / step);
    const cy0 = Math.floor((Math.min(uv[a + 1], uv[b + 1]) - y0) / step);
    const cy1 = Math.floor((Math.max(uv[a + 1], uv[b + 1]) - y0) / step);
    for (let y = cy0; y <= cy1; y++)
      for (let x = cx0; x <= cx1; x++) {
        const key = y * (side + 2) + x;
        const list = cells.get(key);
        if (!list) {
          cells.set(key, [e]);
          continue;
        }
        for (const o of list) if (crosses(uv, edges, e, o, hair)) return true;
        list.push(e);
      }
  }
  return false;
}

function crosses(uv: ArrayLike<number>, edges: readonly number[], e: number, o: number, hair: number): boolean {
  const [a, b, c, d] = [edges[2 * e], edges[2 * e + 1], edges[2 * o], edges[2 * o + 1]];
  if (a === c || a === d || b === c || b === d) return false;
  const side = (p: number, q: number, r: number) =>
    (uv[2 * q] - uv[2 * p]) * (uv[2 * r + 1] - uv[2 * p + 1]) -
    (uv[2 * q + 1] - uv[2 * p + 1]) * (uv[2 * r] - uv[2 * p]);
  const [s, t, v, w] = [side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)];
  if (!(s * t < 0 && v * w < 0)) return false;
  // How far the ends reach over the other edge, as shares of what crosses it.
  return (
    Math.min(Math.abs(s), Math.abs(t)) > hair * Math.abs(s - t) &&
    Math.min(Math.abs(v), Math.abs(w)) > hair * Math.abs(v - w)
  );
}
