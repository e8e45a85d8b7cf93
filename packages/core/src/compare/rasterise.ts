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
  /** x, y (px, y down) and nearness by corner. */
  screen: Float64Array;
}

/**
 * Draws the scene from one direction: orthographic, each model fitted to its cell by `bounds`, 4×4 coverage samples a pixel,
 * shaded once per pixel and triangle at the middle of the covered samples, trilinear textures. Alpha-tested faces are tested
 * at every sample; alpha-blended ones are laid over by nearness. Equal nearness goes to the earlier triangle.
 */
export function renderView(
  scene: DrawScene,
  textures: TextureTable,
  eye: [number, number, number],
  bounds: Float64Array[],
  size: number,
): ViewPictures {
  const frame = viewFrame(eye);
  const fits = scene.cells.map((cell, i) => fitCell(cell, bounds[i], frame));
  const projected = scene.draws.map((d) => project(d, fits[d.cell], frame));
  const out: ViewPictures = {
    size,
    unlit: new Uint8Array(new SharedArrayBuffer(size * size * 3)),
    lit: new Uint8Array(new SharedArrayBuffer(size * size * 3)),
    coverage: new Uint8Array(new SharedArrayBuffer(size * size)),
  };
  const shader = new PointShader(textures, frame.toward);
  const bands = binBands(projected, size);
  const samples = size * GRID * BAND * GRID;
  const depth = new Float64Array(samples);
  const hitDraw = new Int32Array(samples);
  const hitTriangle = new Int32Array(samples);
  for (let b = 0; b < bands.length; b++) {
    depth.fill(-Infinity);
    hitDraw.fill(-1);
    const y0 = b * BAND;
    const blended: [number, number][] = [];
    for (const [d, t] of bands[b]) {
      const p = projected[d];
      if (p.draw.look.alphaMode === 'BLEND') blended.push([d, t]);
      else cover(p, d, t, y0, size, depth, hitDraw, hitTriangle, shader);
    }
    const layers = blended.length > 0 ? blendLayers(projected, blended, y0, size, depth) : null;
    resolve(projected, y0, size, hitDraw, hitTriangle, layers, shader, out);
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
  return { draw, screen };
}

/** Twice the signed area on screen; negative for faces that show their front (y runs down). */
function screenArea(s: Float64Array, o: number): number {
  return (s[o + 3] - s[o]) * (s[o + 7] - s[o + 1]) - (s[o + 6] - s[o]) * (s[o + 4] - s[o + 1]);
}

function facesBack(p: Projected, t: number): boolean {
  const a = screenArea(p.screen, t * 9);
  return p.draw.mirrored ? a < 0 : a > 0;
}

function binBands(projected: Projected[], size: number): [number, number][][] {
  const bands: [number, number][][] = Array.from({ length: Math.ceil(size / BAND) }, () => []);
  projected.forEach((p, d) => {
    const s = p.screen;
    for (let o = 0, t = 0; o < s.length; o += 9, t++) {
      if (screenArea(s, o) === 0) continue;
      if (!p.draw.look.doubleSided && facesBack(p, t)) continue;
      const lo = Math.max(0, Math.floor(Math.min(s[o + 1], s[o + 4], s[o + 7]) / BAND));
      const hi = Math.min(bands.length - 1, Math.floor(Math.max(s[o + 1], s[o + 4], s[o + 7]) / BAND));
      for (let b = lo; b <= hi; b++) bands[b].push([d, t]);
    }
  });
  return bands;
}

/** Calls `visit` for each coverage sample of a triangle inside the band. */
function eachSample(
  s: Float64Array,
  o: number,
  y0: number,
  size: number,
  visit: (index: number, a: number, b: number, c: number) => void,
): void {
  const ax = s[o] * GRID - 0.5;
  const ay = (s[o + 1] - y0) * GRID - 0.5;
  const bx = s[o + 3] * GRID - 0.5;
  const by = (s[o + 4] - y0) * GRID - 0.5;
  const cx = s[o + 6] * GRID - 0.5;
  const cy = (s[o + 7] - y0) * GRID - 0.5;
  const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  if (det === 0) return;
  const w = size * GRID;
  const yl = Math.max(0, Math.ceil(Math.min(ay, by, cy)));
  const yh = Math.min(BAND * GRID - 1, Math.floor(Math.max(ay, by, cy)));
  const xl = Math.max(0, Math.ceil(Math.min(ax, bx, cx)));
  const xh = Math.min(w - 1, Math.floor(Math.max(ax, bx, cx)));
  const inv = 1 / det;
  for (let y = yl; y <= yh; y++)
    for (let x = xl; x <= xh; x++) {
      const b = ((x - ax) * (cy - ay) - (cx - ax) * (y - ay)) * inv;
      const c = ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) * inv;
      const a = 1 - b - c;
      if (a >= 0 && b >= 0 && c >= 0) visit(y * w + x, a, b, c);
    }
}

function cover(
  p: Projected,
  d: number,
  t: number,
  y0: number,
  size: number,
  depth: Float64Array,
  hitDraw: Int32Array,
  hitTriangle: Int32Array,
  shader: PointShader,
): void {
  const s = p.screen;
  const o = t * 9;
  const { look } = p.draw;
  const test = look.alphaMode === 'MASK';
  if (test) shader.begin(p.draw, t, s, o);
  eachSample(s, o, y0, size, (i, a, b, c) => {
    const z = a * s[o + 2] + b * s[o + 5] + c * s[o + 8];
    if (z <= depth[i]) return;
    if (test && shader.alphaAt(a, b, c) < look.alphaCutoff) return;
    depth[i] = z;
    hitDraw[i] = d;
    hitTriangle[i] = t;
  });
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
  y0: number,
  size: number,
  hitDraw: Int32Array,
  hitTriangle: Int32Array,
  layers: Map<number, Layer[]> | null,
  shader: PointShader,
  out: ViewPictures,
): void {
  const w = size * GRID;
  const ids = new Int32Array(GRID * GRID * 2);
  const sums = new Float64Array(GRID * GRID * 3);
  const unlit = new Float64Array(3);
  const lit = new Float64Array(3);
  const rows = Math.min(BAND, size - y0);
  for (let py = 0; py < rows; py++)
    for (let px = 0; px < size; px++) {
      let kinds = 0;
      let covered = 0;
      for (let sy = 0; sy < GRID; sy++)
        for (let sx = 0; sx < GRID; sx++) {
          const i = (py * GRID + sy) * w + px * GRID + sx;
          const d = hitDraw[i];
          if (d < 0) continue;
          const t = hitTriangle[i];
          let k = 0;
          while (k < kinds && (ids[k * 2] !== d || ids[k * 2 + 1] !== t)) k++;
          if (k === kinds) {
            ids[k * 2] = d;
            ids[k * 2 + 1] = t;
            sums[k * 3] = sums[k * 3 + 1] = sums[k * 3 + 2] = 0;
            kinds++;
          }
          sums[k * 3] += px + (sx + 0.5) / GRID;
          sums[k * 3 + 1] += y0 + py + (sy + 0.5) / GRID;
          sums[k * 3 + 2]++;
          covered++;
        }
      const over = layers?.get(py * size + px);
      const o = (y0 + py) * size + px;
      unlit.fill((BACKGROUND * (GRID * GRID - covered)) / (GRID * GRID));
      lit.set(unlit);
      for (let k = 0; k < kinds; k++) {
        const n = sums[k * 3 + 2];
        const s = shadeAt(projected[ids[k * 2]], ids[k * 2 + 1], sums[k * 3] / n, sums[k * 3 + 1] / n, shader);
        for (let c = 0; c < 3; c++) {
          unlit[c] += (s.unlit[c] * n) / (GRID * GRID);
          lit[c] += (s.lit[c] * n) / (GRID * GRID);
        }
      }
      let shown = covered;
      if (over)
        for (const layer of over) {
          const n = layer.count;
          const s = shadeAt(projected[layer.draw], layer.triangle, layer.x / n, layer.y / n, shader);
          const k = (s.alpha * n) / (GRID * GRID);
          for (let c = 0; c < 3; c++) {
            unlit[c] += (s.unlit[c] - unlit[c]) * k;
            lit[c] += (s.lit[c] - lit[c]) * k;
          }
          shown = Math.max(shown, n);
        }
      out.coverage[o] = Math.round((shown / (GRID * GRID)) * 255);
      for (let c = 0; c < 3; c++) {
        out.unlit[o * 3 + c] = encodeByte(unlit[c]);
        out.lit[o * 3 + c] = encodeByte(lit[c]);
      }
    }
}

function shadeAt(p: Projected, t: number, x: number, y: number, shader: PointShader) {
  const s = p.screen;
  const o = t * 9;
  const det = screenArea(s, o);
  const b = ((x - s[o]) * (s[o + 7] - s[o + 1]) - (s[o + 6] - s[o]) * (y - s[o + 1])) / det;
  const c = ((s[o + 3] - s[o]) * (y - s[o + 1]) - (x - s[o]) * (s[o + 4] - s[o + 1])) / det;
  shader.begin(p.draw, t, s, o);
  return shader.shade(1 - b - c, b, c, facesBack(p, t));
}
