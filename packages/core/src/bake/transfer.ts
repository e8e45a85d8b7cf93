import { barycentrics, nearestOnTriangle, TOUCH } from '../math/barycentrics.ts';
import { COPIED_UP_TO, footprint, SampleShader } from './sample-shader.ts';
import type { TransferInput } from './transfer-input.ts';
import type { BakeTriangles } from './triangles.ts';

export type { SheetMaps, TransferInput } from './transfer-input.ts';

/**
 * Materials → sheet: for every texel that an island covers, look up the source materials and write all maps of the sheet.
 * Method: reference, "Materials → sheet (transfer)".
 */

/** Side of the square of texels that one worker takes at a time. */
export const TILE = 64;

/** Finest sampling per axis when minifying; beyond it mips take over. */
const MAX_PER_AXIS = 8;

/** Lists, for each tile of the sheet, the triangles that may cover some of its texels. */
export function binTriangles(
  triangles: Pick<BakeTriangles, 'place' | 'count'>,
  width: number,
  height: number,
): Map<number, Uint32Array> {
  const across = Math.ceil(width / TILE);
  const down = Math.ceil(height / TILE);
  const lists = new Map<number, number[]>();
  const { place } = triangles;
  for (let t = 0; t < triangles.count; t++) {
    const o = t * 6;
    const clampTile = (v: number, tiles: number) => Math.max(0, Math.min(tiles - 1, Math.floor(v / TILE)));
    const x0 = clampTile(Math.min(place[o], place[o + 2], place[o + 4]) - 1, across);
    const x1 = clampTile(Math.max(place[o], place[o + 2], place[o + 4]) + 1, across);
    const y0 = clampTile(Math.min(place[o + 1], place[o + 3], place[o + 5]) - 1, down);
    const y1 = clampTile(Math.max(place[o + 1], place[o + 3], place[o + 5]) + 1, down);
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const key = y * across + x;
        const list = lists.get(key);
        if (list) list.push(t);
        else lists.set(key, [t]);
      }
  }
  return new Map([...lists].map(([k, l]) => [k, Uint32Array.from(l)]));
}

/** Working memory of one worker. */
export class TransferScratch {
  readonly centre = new Int32Array(TILE * TILE);
  readonly near = new Int32Array(TILE * TILE);
  readonly nearDistance = new Float64Array(TILE * TILE);
  /** The triangle that covers a texel wholly, as the first that touches it. */
  readonly whole = new Int32Array(TILE * TILE);
  readonly touched = new Uint8Array(TILE * TILE);
  sub = new Int32Array(0);
  readonly shader = new SampleShader();

  /** @param slot of this worker among those that bake the same input */
  constructor(readonly slot = 0) {}
}

/** Bakes one tile of a sheet for one material. Texels of other materials in the tile are left alone. */
export function transferTile(input: TransferInput, tile: number, list: Uint32Array, scratch: TransferScratch): void {
  const { triangles, maps } = input;
  const { width, height } = maps;
  const { place } = triangles;
  const across = Math.ceil(width / TILE);
  const tx = (tile % across) * TILE;
  const ty = Math.floor(tile / across) * TILE;
  const w = Math.min(TILE, width - tx);
  const h = Math.min(TILE, height - ty);
  const { shader } = scratch;
  shader.open(input, scratch.slot);
  // The finest grid that any triangle here needs.
  const perTriangle = new Uint8Array(list.length);
  let grid = 1;
  list.forEach((t, i) => {
    let foot = 0;
    for (const reader of shader.readers) foot = Math.max(foot, footprint(triangles, t, reader));
    const n = samplesPerAxis(foot, input.samples);
    perTriangle[i] = n;
    if (n > grid) grid = n;
  });
  const { centre, near, nearDistance, whole, touched } = scratch;
  whole.fill(-1);
  touched.fill(0);
  centre.fill(-1);
  near.fill(-1);
  nearDistance.fill(Infinity);
  const subCount = grid > 1 ? grid * grid : 0;
  if (scratch.sub.length < TILE * TILE * subCount) scratch.sub = new Int32Array(TILE * TILE * subCount);
  const { sub } = scratch;
  sub.fill(-1, 0, TILE * TILE * subCount);
  const bary = new Float64Array(3);

  list.forEach((t, li) => {
    const o = t * 6;
    const ax = place[o];
    const ay = place[o + 1];
    const bx = place[o + 2];
    const by = place[o + 3];
    const cx = place[o + 4];
    const cy = place[o + 5];
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx) - 1) - tx);
    const x1 = Math.min(w - 1, Math.ceil(Math.max(ax, bx, cx) + 1) - tx);
    const y0 = Math.max(0, Math.floor(Math.min(ay, by, cy) - 1) - ty);
    const y1 = Math.min(h - 1, Math.ceil(Math.max(ay, by, cy) + 1) - ty);
    const flip = det < 0 ? -1 : 1;
    // How much an edge function changes from the middle of a texel to its corners, and a little more than rounding can.
    const near0 = halfStep(bx - ax, by - ay);
    const near1 = halfStep(cx - bx, cy - by);
    const near2 = halfStep(ax - cx, ay - cy);
    const inside = (x: number, y: number): boolean =>
      det !== 0 &&
      flip * ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) >= -1e-9 &&
      flip * ((cx - bx) * (y - by) - (x - bx) * (cy - by)) >= -1e-9 &&
      flip * ((ax - cx) * (y - cy) - (x - cx) * (ay - cy)) >= -1e-9;
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const i = y * TILE + x;
        const px = tx + x + 0.5;
        const py = ty + y + 0.5;
        const e0 = flip * ((bx - ax) * (py - ay) - (px - ax) * (by - ay));
        const e1 = flip * ((cx - bx) * (py - by) - (px - bx) * (cy - by));
        const e2 = flip * ((ax - cx) * (py - cy) - (px - cx) * (ay - cy));
        const all = det !== 0 && e0 > near0 && e1 > near1 && e2 > near2;
        if (all || inside(px, py)) {
          if (centre[i] < 0) centre[i] = li;
        } else if (centre[i] < 0) {
          const d = nearestOnTriangle(place, o, px, py, bary);
          if (d < nearDistance[i] && d <= TOUCH * TOUCH) {
            nearDistance[i] = d;
            near[i] = li;
          }
        }
        if (perTriangle[li] === 1 || subCount === 0 || e0 < -near0 || e1 < -near1 || e2 < -near2) continue;
        if (all && !touched[i]) whole[i] = li;
        touched[i] = 1;
        for (let s = i * subCount, k = 0; k < subCount; s++, k++) {
          if (sub[s] >= 0) continue;
          if (all) sub[s] = li;
          else {
            const sx = tx + x + ((k % grid) + 0.5) / grid;
            const sy = ty + y + (Math.floor(k / grid) + 0.5) / grid;
            if (inside(sx, sy)) sub[s] = li;
          }
        }
      }
  });

  /** Barycentrics of a texel's middle in a triangle that covers it, or of the nearest point of one that does not. */
  const middle = new Float64Array(3);
  const middleOf = (li: number, i: number): Float64Array => {
    const px = tx + (i % TILE) + 0.5;
    const py = ty + Math.floor(i / TILE) + 0.5;
    if (centre[i] === li) barycentrics(place, list[li] * 6, px, py, middle);
    else nearestOnTriangle(place, list[li] * 6, px, py, middle);
    return middle;
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * TILE + x;
      let main = centre[i] >= 0 ? centre[i] : near[i];
      let any = false;
      const at = (ty + y) * width + tx + x;
      if (main >= 0 && whole[i] === main && perTriangle[main] > 1) {
        shader.addWhole(at, triangles.plot[list[main]] + 1, list[main], grid, perTriangle[main], tx + x, ty + y, bary);
        continue;
      }
      shader.texel(at, Math.max(1, subCount));
      if (subCount > 0 && (main < 0 || perTriangle[main] > 1))
        for (let s = 0; s < subCount; s++) {
          const li = sub[i * subCount + s];
          if (li < 0) continue;
          if (main < 0) main = li;
          if (!any && shader.mixed) shader.middleAt(list[main], middleOf(main, i));
          const sx = tx + x + ((s % grid) + 0.5) / grid;
          const sy = ty + y + (Math.floor(s / grid) + 0.5) / grid;
          barycentrics(place, list[li] * 6, sx, sy, bary);
          shader.add(list[li], perTriangle[li], bary, triangles.plot[list[main]] + 1);
          any = true;
        }
      if (main < 0 || any) continue;
      const point = middleOf(main, i);
      if (shader.mixed) shader.middleAt(list[main], point);
      shader.add(list[main], perTriangle[main], point, triangles.plot[list[main]] + 1);
    }
  shader.flush();
}

/** Half the change of an edge's function over one texel, plus what rounding may take. */
const halfStep = (dx: number, dy: number): number => (Math.abs(dx) + Math.abs(dy)) * 0.5 + 1e-6;

/** One sample where the source is not minified, so that it is copied and not blurred; more where it is. */
function samplesPerAxis(foot: number, samples: number): number {
  if (samples === 1 || foot <= COPIED_UP_TO) return 1;
  return Math.min(MAX_PER_AXIS, Math.max(Math.round(Math.sqrt(samples)), Math.ceil(foot)));
}
