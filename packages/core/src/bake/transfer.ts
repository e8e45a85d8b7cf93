import { barycentrics, nearestOnTriangle } from '../math/barycentrics.ts';
import { COPIED_UP_TO, footprint } from './footprint.ts';
import { SampleShader } from './sample-shader.ts';
import { subSamples, TILE, type Tile, TileCover } from './tile-cover.ts';
import type { TransferInput } from './transfer-input.ts';
import { type BakeTriangles, BEYOND } from './triangles.ts';

export type { SheetMaps, TransferInput } from './transfer-input.ts';

/**
 * Materials → sheet: for every texel that an island covers, look up the source materials and write all maps of the sheet.
 * Method: reference, "Materials → sheet (transfer)".
 */

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
  readonly cover = new TileCover();
  readonly shader = new SampleShader();

  /** @param slot of this worker among those that bake the same input */
  constructor(readonly slot = 0) {}
}

/**
 * Bakes one tile of a sheet for one material. Texels of other materials in the tile are left alone.
 * @param number of the tile, row by row @param list triangles that may cover some of its texels
 */
export function transferTile(input: TransferInput, number: number, list: Uint32Array, scratch: TransferScratch): void {
  const { cover, shader } = scratch;
  shader.open(input, scratch.slot);
  const { perTriangle, copied } = samplingOf(input, list, shader);
  const { width, height } = input.maps;
  const across = Math.ceil(width / TILE);
  const x = (number % across) * TILE;
  const y = Math.floor(number / across) * TILE;
  const tile = {
    x,
    y,
    width: Math.min(TILE, width - x),
    height: Math.min(TILE, height - y),
    list,
    perTriangle,
    grid: perTriangle.reduce((most, n) => Math.max(most, n), 1),
  };
  cover.find(input.triangles, tile);
  const painter = new TilePainter(input, tile, copied, scratch);
  for (let ty = 0; ty < tile.height; ty++) for (let tx = 0; tx < tile.width; tx++) painter.paint(tx, ty);
  shader.flush();
}

/** How the triangles of a list are read: samples an axis of each, and whether some texture is copied on it. */
function samplingOf(
  { triangles, samples }: TransferInput,
  list: Uint32Array,
  { readers }: SampleShader,
): { perTriangle: Uint8Array; copied: Uint8Array } {
  const perTriangle = new Uint8Array(list.length);
  const copied = new Uint8Array(list.length);
  list.forEach((t, i) => {
    let [least, most] = [Infinity, 0];
    for (const reader of readers) {
      const foot = footprint(triangles, t, reader);
      least = Math.min(least, foot);
      most = Math.max(most, foot);
    }
    perTriangle[i] = samplesPerAxis(most, samples);
    // A triangle without area says nothing of what lies beside it.
    copied[i] = Number(least > 0 && least <= COPIED_UP_TO);
  });
  return { perTriangle, copied };
}

/** Hands the samples of a tile's texels to the shader. */
class TilePainter {
  private readonly bary = new Float64Array(3);
  private readonly own = new Float64Array(3);
  private readonly subCount: number;

  constructor(
    private readonly input: TransferInput,
    private readonly tile: Tile,
    private readonly copied: Uint8Array,
    private readonly scratch: TransferScratch,
  ) {
    this.subCount = subSamples(tile);
  }

  /** Texel (x, y) of the tile. */
  paint(x: number, y: number): void {
    const { input, tile, subCount } = this;
    const { cover, shader } = this.scratch;
    const { list, perTriangle, grid } = tile;
    const { plot } = input.triangles;
    const i = y * TILE + x;
    const near = cover.near[i];
    const main = cover.centre[i] >= 0 ? cover.centre[i] : near >= 0 && cover.touches(i) ? near : -1;
    const at = (tile.y + y) * input.maps.width + tile.x + x;
    if (main >= 0 && cover.whole[i] === main && perTriangle[main] > 1) {
      const owner = plot[list[main]] + 1;
      shader.addWhole(at, owner, list[main], grid, perTriangle[main], tile.x + x, tile.y + y, this.bary);
      return;
    }
    shader.texel(at, Math.max(1, subCount));
    if (subCount > 0 && (main < 0 || perTriangle[main] > 1) && this.addSamples(x, y, main)) return;
    if (main >= 0) this.addMiddle(x, y, main, plot[list[main]] + 1);
    else if (shader.blends && near >= 0 && this.copied[near] && input.maps.owner[at] === 0)
      this.addMiddle(x, y, near, beyond(plot[list[near]]) + 1);
  }

  /** The samples of a texel that lie on some triangle. @returns false when there is none */
  private addSamples(x: number, y: number, main: number): boolean {
    const { tile, subCount, bary } = this;
    const { cover, shader } = this.scratch;
    const { list, perTriangle, grid } = tile;
    const { place, plot } = this.input.triangles;
    const i = y * TILE + x;
    let first = -1;
    for (let s = 0; s < subCount; s++) {
      const li = cover.sub[i * subCount + s];
      if (li < 0) continue;
      if (first < 0) {
        first = main < 0 ? li : main;
        if (shader.mixed) shader.middleAt(list[first], this.ownMiddle(x, y, first));
      }
      const sx = tile.x + x + ((s % grid) + 0.5) / grid;
      const sy = tile.y + y + (Math.floor(s / grid) + 0.5) / grid;
      barycentrics(place, list[li] * 6, sx, sy, bary);
      shader.add(list[li], perTriangle[li], bary, plot[list[first]] + 1);
    }
    return first >= 0;
  }

  /** One sample for the whole texel. */
  private addMiddle(x: number, y: number, li: number, owner: number): void {
    const { list, perTriangle } = this.tile;
    const { shader } = this.scratch;
    const own = this.ownMiddle(x, y, li);
    if (shader.mixed) shader.middleAt(list[li], own);
    // Where some textures are minified and others are not, those that are copied have `own` from `middleAt`.
    const allCopied = this.copied[li] && perTriangle[li] === 1 && this.input.samples > 1;
    shader.add(list[li], perTriangle[li], allCopied || !shader.mixed ? own : this.nearestPoint(x, y, li), owner);
  }

  /**
   * Barycentrics of a texel's middle on the plane of a triangle. What is copied is read there, beside the triangle as well: blending at its border
   * then reads the texels that it reads in the source.
   */
  private ownMiddle(x: number, y: number, li: number): Float64Array {
    if (!this.copied[li]) return this.nearestPoint(x, y, li);
    const { tile, own } = this;
    barycentrics(this.input.triangles.place, tile.list[li] * 6, tile.x + x + 0.5, tile.y + y + 0.5, own);
    return own;
  }

  /** Barycentrics of the point of a triangle that is nearest to a texel's middle. */
  private nearestPoint(x: number, y: number, li: number): Float64Array {
    const { tile, bary } = this;
    const { place } = this.input.triangles;
    const o = tile.list[li] * 6;
    if (this.scratch.cover.centre[y * TILE + x] === li)
      barycentrics(place, o, tile.x + x + 0.5, tile.y + y + 0.5, bary);
    else nearestOnTriangle(place, o, tile.x + x + 0.5, tile.y + y + 0.5, bary);
    return bary;
  }
}

/** The owner that marks a texel beside a plot as a continuation of what the plot shows. */
const beyond = (plot: number): number => (plot >= BEYOND ? plot : plot + BEYOND);

/** One sample where the source is not minified, so that it is copied and not blurred; more where it is. */
function samplesPerAxis(foot: number, samples: number): number {
  if (samples === 1 || foot <= COPIED_UP_TO) return 1;
  return Math.min(MAX_PER_AXIS, Math.max(Math.round(Math.sqrt(samples)), Math.ceil(foot)));
}
