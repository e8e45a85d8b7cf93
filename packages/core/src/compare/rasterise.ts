import { encodeByte } from '../image/srgb.ts';
import type { Draw, DrawScene, TextureTable } from './scene.ts';
import { PointShader } from './shade.ts';
import { viewFrame } from './views.ts';

/** Pictures of one view, three bytes a pixel, over mid grey, with the share of each pixel that is covered. */
export interface ViewPictures {
  size: number;
  unlit: Uint8Array;
  lit: Uint8Array;
  coverage: Uint8Array;
}

/** Coverage samples along each axis of a pixel. */
const GRID = 4;
const BAND = 32;
const BACKGROUND = 0.2159;

interface Projected {
  draw: Draw;
  /** Number of its first triangle among all; a sample keeps one such number. */
  first: number;
  /** x, y (px, y down) and nearness by corner. */
  screen: Float64Array;
}

/**
 * Draws the scene from one direction: orthographic, each model fitted to its cell by `bounds`, 4×4 coverage samples a pixel,
 * shaded once per pixel and triangle at the middle of the covered samples, trilinear textures. Alpha-tested faces are tested
 * at every sample; alpha-blended ones are laid over by nearness. Equal nearness goes to the earlier triangle.
 *
 * @param overGrey false leaves the colour of half-covered pixels as it is, for pictures that are laid over something
 */
export function renderView(
  scene: DrawScene,
  textures: TextureTable,
  eye: [number, number, number],
  bounds: Float64Array[],
  size: number,
  overGrey = true,
): ViewPictures {
  const frame = viewFrame(eye);
  const fits = scene.cells.map((cell, i) => fitCell(cell, bounds[i], frame));
  const projected = scene.draws.map((draw) => project(draw, fits[draw.cell], frame));
  let triangles = 0;
  for (const p of projected) {
    p.first = triangles;
    triangles += p.screen.length / 9;
  }
  const drawOf = new Uint32Array(triangles);
  projected.forEach((projected, d) => {
    drawOf.fill(d, projected.first, projected.first + projected.screen.length / 9);
  });
  const out: ViewPictures = {
    size,
    unlit: new Uint8Array(new SharedArrayBuffer(size * size * 3)),
    lit: new Uint8Array(new SharedArrayBuffer(size * size * 3)),
    coverage: new Uint8Array(new SharedArrayBuffer(size * size)),
  };
  out.unlit.fill(encodeByte(BACKGROUND));
  out.lit.fill(encodeByte(BACKGROUND));
  const shader = new PointShader(textures, frame.toward);
  const bands = binBands(projected, size);
  const samples = size * GRID * BAND * GRID;
  const depth = new Float64Array(samples);
  const hit = new Int32Array(samples);
  for (let b = 0; b < bands.length; b++) {
    if (bands[b].length === 0) continue;
    const columns = bandColumns(projected, bands[b], size);
    for (let row = 0; row < BAND * GRID; row++) {
      const from = (row * size + columns[0]) * GRID;
      const to = (row * size + columns[1] + 1) * GRID;
      depth.fill(-Infinity, from, to);
      hit.fill(-1, from, to);
    }
    const y0 = b * BAND;
    const blended: [number, number][] = [];
    for (const [d, t] of bands[b]) {
      const p = projected[d];
      if (p.draw.look.alphaMode === 'BLEND') blended.push([d, t]);
      else cover(p, t, y0, size, depth, hit, shader);
    }
    const layers = blended.length > 0 ? blendLayers(projected, blended, y0, size, depth) : null;
    resolve(projected, drawOf, y0, size, columns, hit, layers, shader, out, overGrey);
  }
  return out;
}

interface Fit {
  scale: number;
  x: number;
  y: number;
}

function fitCell(cell: { x: number; y: number; side: number }, b: Float64Array, f: ReturnType<typeof viewFrame>): Fit {
  let lx = Infinity;
  let hx = -Infinity;
  let ly = Infinity;
  let hy = -Infinity;
  for (let k = 0; k < 8; k++) {
    const p = [b[k & 1 ? 3 : 0], b[k & 2 ? 4 : 1], b[k & 4 ? 5 : 2]];
    const x = p[0] * f.right[0] + p[1] * f.right[1] + p[2] * f.right[2];
    const y = p[0] * f.up[0] + p[1] * f.up[1] + p[2] * f.up[2];
    lx = Math.min(lx, x);
    hx = Math.max(hx, x);
    ly = Math.min(ly, y);
    hy = Math.max(hy, y);
  }
  const span = Math.max(hx - lx, hy - ly, 1e-9);
  const scale = (cell.side * 0.94) / span;
  return {
    scale,
    x: cell.x + cell.side / 2 - ((lx + hx) / 2) * scale,
    y: cell.y + cell.side / 2 + ((ly + hy) / 2) * scale,
  };
}

function project(draw: Draw, fit: Fit, f: ReturnType<typeof viewFrame>): Projected {
  const p = draw.positions;
  const screen = new Float64Array(p.length);
  for (let i = 0; i < p.length; i += 3) {
    screen[i] = fit.x + fit.scale * (p[i] * f.right[0] + p[i + 1] * f.right[1] + p[i + 2] * f.right[2]);
    screen[i + 1] = fit.y - fit.scale * (p[i] * f.up[0] + p[i + 1] * f.up[1] + p[i + 2] * f.up[2]);
    screen[i + 2] = fit.scale * (p[i] * f.toward[0] + p[i + 1] * f.toward[1] + p[i + 2] * f.toward[2]);
  }
  return { draw, first: 0, screen };
}

/** Twice the signed area on screen; negative for faces that show their front (y runs down). */
function screenArea(s: Float64Array, o: number): number {
  return (s[o + 3] - s[o]) * (s[o + 7] - s[o + 1]) - (s[o + 6] - s[o]) * (s[o + 4] - s[o + 1]);
}

function facesBack(projected: Projected, t: number): boolean {
  const a = screenArea(projected.screen, t * 9);
  return projected.draw.mirrored ? a < 0 : a > 0;
}

function binBands(projected: Projected[], size: number): [number, number][][] {
  const bands: [number, number][][] = Array.from({ length: Math.ceil(size / BAND) }, () => []);
  projected.forEach((projected, d) => {
    const s = projected.screen;
    for (let o = 0, t = 0; o < s.length; o += 9, t++) {
      if (screenArea(s, o) === 0) continue;
      if (!projected.draw.look.doubleSided && facesBack(projected, t)) continue;
      const lo = Math.max(0, Math.floor(Math.min(s[o + 1], s[o + 4], s[o + 7]) / BAND));
      const hi = Math.min(bands.length - 1, Math.floor(Math.max(s[o + 1], s[o + 4], s[o + 7]) / BAND));
      for (let b = lo; b <= hi; b++) bands[b].push([d, t]);
    }
  });
  return bands;
}

/** First and last column of pixels that triangles of a band may touch. */
function bandColumns(projected: Projected[], band: [number, number][], size: number): [number, number] {
  let lo = size;
  let hi = -1;
  for (const [d, t] of band) {
    const s = projected[d].screen;
    const o = t * 9;
    lo = Math.min(lo, s[o], s[o + 3], s[o + 6]);
    hi = Math.max(hi, s[o], s[o + 3], s[o + 6]);
  }
  return [Math.max(0, Math.floor(lo) - 1), Math.min(size - 1, Math.ceil(hi) + 1)];
}

/** The sample rows of a triangle in a band, and how its barycentrics change along them. */
class SampleRows {
  first = 0;
  last = -1;
  bStep = 0;
  cStep = 0;
  /** Of the present row: columns that may be covered, and b and c at column 0. */
  lo = 0;
  hi = -1;
  b0 = 0;
  c0 = 0;
  private ax = 0;
  private ay = 0;
  private bx = 0;
  private by = 0;
  private cx = 0;
  private cy = 0;
  private inv = 0;
  private left = 0;
  private right = -1;

  /** False when the triangle has no area on screen. */
  open(s: Float64Array, o: number, y0: number, size: number): boolean {
    this.ax = s[o] * GRID - 0.5;
    this.ay = (s[o + 1] - y0) * GRID - 0.5;
    this.bx = s[o + 3] * GRID - 0.5;
    this.by = (s[o + 4] - y0) * GRID - 0.5;
    this.cx = s[o + 6] * GRID - 0.5;
    this.cy = (s[o + 7] - y0) * GRID - 0.5;
    const { ax, ay, bx, by, cx, cy } = this;
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (det === 0) return false;
    this.inv = 1 / det;
    this.bStep = (cy - ay) * this.inv;
    this.cStep = -(by - ay) * this.inv;
    this.first = Math.max(0, Math.ceil(Math.min(ay, by, cy)));
    this.last = Math.min(BAND * GRID - 1, Math.floor(Math.max(ay, by, cy)));
    this.left = Math.max(0, Math.ceil(Math.min(ax, bx, cx)));
    this.right = Math.min(size * GRID - 1, Math.floor(Math.max(ax, bx, cx)));
    return true;
  }

  /** Sets the row: where each of a, b, c is not negative, widened by one sample; the caller tests exactly. */
  row(y: number): void {
    const { ax, ay, by, cx, cy, bx, inv, bStep, cStep } = this;
    const b0 = (-ax * (cy - ay) - (cx - ax) * (y - ay)) * inv;
    const c0 = ((bx - ax) * (y - ay) + ax * (by - ay)) * inv;
    let lo = this.left;
    let hi = this.right;
    for (let k = 0; k < 3; k++) {
      const v0 = k === 0 ? 1 - b0 - c0 : k === 1 ? b0 : c0;
      const step = k === 0 ? -bStep - cStep : k === 1 ? bStep : cStep;
      if (step > 0) lo = Math.max(lo, Math.floor(-v0 / step) - 1);
      else if (step < 0) hi = Math.min(hi, Math.ceil(-v0 / step) + 1);
      else if (v0 < 0) hi = -1;
    }
    this.b0 = b0;
    this.c0 = c0;
    this.lo = lo;
    this.hi = hi;
  }
}

const rows = new SampleRows();

/** Calls `visit` for each coverage sample of a triangle inside the band. */
function eachSample(
  s: Float64Array,
  o: number,
  y0: number,
  size: number,
  visit: (index: number, a: number, b: number, c: number) => void,
): void {
  if (!rows.open(s, o, y0, size)) return;
  const w = size * GRID;
  for (let y = rows.first; y <= rows.last; y++) {
    rows.row(y);
    for (let x = rows.lo; x <= rows.hi; x++) {
      const b = rows.b0 + x * rows.bStep;
      const c = rows.c0 + x * rows.cStep;
      const a = 1 - b - c;
      if (a >= 0 && b >= 0 && c >= 0) visit(y * w + x, a, b, c);
    }
  }
}

function cover(
  projected: Projected,
  t: number,
  y0: number,
  size: number,
  depth: Float64Array,
  hit: Int32Array,
  shader: PointShader,
): void {
  const s = projected.screen;
  const o = t * 9;
  const { look } = projected.draw;
  const id = projected.first + t;
  const za = s[o + 2];
  const zb = s[o + 5];
  const zc = s[o + 8];
  if (look.alphaMode === 'MASK') {
    shader.begin(projected.draw, t, s, o);
    eachSample(s, o, y0, size, (i, a, b, c) => {
      const z = a * za + b * zb + c * zc;
      if (z <= depth[i] || shader.alphaAt(a, b, c) < look.alphaCutoff) return;
      depth[i] = z;
      hit[i] = id;
    });
    return;
  }
  // The opaque case is nearly all of the work: the same walk as `eachSample`, without a call for each sample.
  if (!rows.open(s, o, y0, size)) return;
  const w = size * GRID;
  const { bStep, cStep } = rows;
  for (let y = rows.first; y <= rows.last; y++) {
    rows.row(y);
    const { b0, c0, hi } = rows;
    for (let x = rows.lo; x <= hi; x++) {
      const b = b0 + x * bStep;
      const c = c0 + x * cStep;
      const a = 1 - b - c;
      if (a < 0 || b < 0 || c < 0) continue;
      const z = a * za + b * zb + c * zc;
      const i = y * w + x;
      if (z <= depth[i]) continue;
      depth[i] = z;
      hit[i] = id;
    }
  }
}

interface Layer {
  draw: number;
  triangle: number;
  count: number;
  near: number;
  /** Sum of sample positions, px. */
  x: number;
  y: number;
}

function blendLayers(
  projected: Projected[],
  blended: [number, number][],
  y0: number,
  size: number,
  depth: Float64Array,
): Map<number, Layer[]> {
  const out = new Map<number, Layer[]>();
  const w = size * GRID;
  for (const [d, t] of blended) {
    const s = projected[d].screen;
    const o = t * 9;
    const mine = new Map<number, Layer>();
    eachSample(s, o, y0, size, (i, a, b, c) => {
      const z = a * s[o + 2] + b * s[o + 5] + c * s[o + 8];
      if (z <= depth[i]) return;
      const sx = i % w;
      const sy = Math.floor(i / w);
      const pixel = Math.floor(sy / GRID) * size + Math.floor(sx / GRID);
      let layer = mine.get(pixel);
      if (!layer) {
        layer = { draw: d, triangle: t, count: 0, near: 0, x: 0, y: 0 };
        mine.set(pixel, layer);
      }
      layer.count++;
      layer.near += z;
      layer.x += (sx + 0.5) / GRID;
      layer.y += (sy + 0.5) / GRID + y0;
    });
    for (const [pixel, layer] of mine) {
      const list = out.get(pixel);
      if (list) list.push(layer);
      else out.set(pixel, [layer]);
    }
  }
  for (const list of out.values()) list.sort((a, b) => a.near / a.count - b.near / b.count);
  return out;
}

function resolve(
  projected: Projected[],
  drawOf: Uint32Array,
  y0: number,
  size: number,
  columns: [number, number],
  hit: Int32Array,
  layers: Map<number, Layer[]> | null,
  shader: PointShader,
  out: ViewPictures,
  overGrey: boolean,
): void {
  const w = size * GRID;
  const all = GRID * GRID;
  const ids = new Int32Array(all);
  const sums = new Float64Array(all * 3);
  const height = Math.min(BAND, size - y0);
  for (let py = 0; py < height; py++)
    for (let px = columns[0]; px <= columns[1]; px++) {
      const o = (y0 + py) * size + px;
      const first = py * GRID * w + px * GRID;
      const lead = hit[first];
      let kinds = 0;
      let covered = 0;
      let same = true;
      for (let sy = 0; sy < GRID && same; sy++) {
        const r = first + sy * w;
        same = hit[r] === lead && hit[r + 1] === lead && hit[r + 2] === lead && hit[r + 3] === lead;
      }
      const over = layers?.get(py * size + px);
      if (same) {
        if (lead < 0 && !over) continue;
        if (lead >= 0) {
          ids[0] = lead;
          sums[0] = (px + 0.5) * all;
          sums[1] = (y0 + py + 0.5) * all;
          sums[2] = all;
          kinds = 1;
          covered = all;
        }
      } else
        for (let sy = 0; sy < GRID; sy++)
          for (let sx = 0; sx < GRID; sx++) {
            const id = hit[first + sy * w + sx];
            if (id < 0) continue;
            let k = 0;
            while (k < kinds && ids[k] !== id) k++;
            if (k === kinds) {
              ids[k] = id;
              sums[k * 3] = sums[k * 3 + 1] = sums[k * 3 + 2] = 0;
              kinds++;
            }
            sums[k * 3] += px + (sx + 0.5) / GRID;
            sums[k * 3 + 1] += y0 + py + (sy + 0.5) / GRID;
            sums[k * 3 + 2]++;
            covered++;
          }
      // The weight of one sample: with the background all 16 count, without it the covered ones alone.
      const parts = overGrey || covered === 0 ? all : covered;
      const behind = overGrey || covered === 0 ? (BACKGROUND * (all - covered)) / all : 0;
      let ur = behind;
      let ug = behind;
      let ub = behind;
      let lr = behind;
      let lg = behind;
      let lb = behind;
      for (let k = 0; k < kinds; k++) {
        const n = sums[k * 3 + 2];
        const p = projected[drawOf[ids[k]]];
        const { unlit, lit } = shadeAt(p, ids[k] - p.first, sums[k * 3] / n, sums[k * 3 + 1] / n, shader);
        const share = n / parts;
        ur += unlit[0] * share;
        ug += unlit[1] * share;
        ub += unlit[2] * share;
        lr += lit[0] * share;
        lg += lit[1] * share;
        lb += lit[2] * share;
      }
      let shown = covered;
      if (over)
        for (const layer of over) {
          const n = layer.count;
          const { unlit, lit, alpha } = shadeAt(
            projected[layer.draw],
            layer.triangle,
            layer.x / n,
            layer.y / n,
            shader,
          );
          const k = (alpha * n) / all;
          ur += (unlit[0] - ur) * k;
          ug += (unlit[1] - ug) * k;
          ub += (unlit[2] - ub) * k;
          lr += (lit[0] - lr) * k;
          lg += (lit[1] - lg) * k;
          lb += (lit[2] - lb) * k;
          shown = Math.max(shown, n);
        }
      out.coverage[o] = Math.round((shown / all) * 255);
      out.unlit[o * 3] = encodeByte(ur);
      out.unlit[o * 3 + 1] = encodeByte(ug);
      out.unlit[o * 3 + 2] = encodeByte(ub);
      out.lit[o * 3] = encodeByte(lr);
      out.lit[o * 3 + 1] = encodeByte(lg);
      out.lit[o * 3 + 2] = encodeByte(lb);
    }
}

function shadeAt(projected: Projected, t: number, x: number, y: number, shader: PointShader) {
  const s = projected.screen;
  const o = t * 9;
  const det = screenArea(s, o);
  const b = ((x - s[o]) * (s[o + 7] - s[o + 1]) - (s[o + 6] - s[o]) * (y - s[o + 1])) / det;
  const c = ((s[o + 3] - s[o]) * (y - s[o + 1]) - (x - s[o]) * (s[o + 4] - s[o + 1])) / det;
  shader.begin(projected.draw, t, s, o);
  return shader.shade(1 - b - c, b, c, facesBack(projected, t));
}
