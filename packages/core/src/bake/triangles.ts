import { Wrap } from '@wembrel/kernels/sample';
import type { PlacedPlot } from '../layout/layout.ts';
import { placePoint } from '../layout/place.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { type ImageSizes, layoutUse, referenceSize } from '../plan/layout-texture.ts';
import type { RoutedMaterial } from '../plan/route.ts';
import { type TextureUse, uvSetsUsed } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';
import type { TargetPart } from './target.ts';

/** Added to the owner of texels that continue a repeating texture beyond its bay: written as padding is, and no part of any bay. */
export const BEYOND = 0x80000000;

/**
 * The triangles of one material that are baked, in shared memory: each stacked island once. Arrays run by corner.
 */
export interface BakeTriangles {
  count: number;
  /** px on the sheet, x y. */
  place: Float64Array;
  /** Plot id of each triangle. */
  plot: Uint32Array;
  /** UV set `sets[k]` at k · count · 6. */
  sets: number[];
  uv: Float32Array;
  /** Linear R G B A, or null. */
  color: Float32Array | null;
  /** Frames, when the material has a normal map: normal (3), source tangent (4), target tangent (4). */
  frames: Float32Array | null;
}

const alloc = (floats: number) => new Float32Array(new SharedArrayBuffer(floats * 4));

/**
 * Gathers the triangles of one material from its placed plots.
 * @param pxScale px of the baked sheet per px of the layout (¼ for a proof)
 * @param margin least gap between bays, px of the layout; repeating textures are continued into half of it
 */
export function bakeTriangles(
  models: Model[],
  material: RoutedMaterial,
  plots: PlacedPlot[],
  targets: ReadonlyMap<string, TargetPart>,
  sizes: ImageSizes,
  pxScale: number,
  margin: number,
): BakeTriangles {
  const use = layoutUse(material, sizes);
  const size = referenceSize(material, sizes);
  const countOf = (p: PlacedPlot) => (p.kind === 'plot' ? p.shapeTriangle.length : p.kind === 'swatch' ? 2 : 4);
  const count = plots.reduce((n, p) => n + countOf(p), 0);
  const sets = uvSetsUsed(material.look);
  const place = new Float64Array(new SharedArrayBuffer(count * 48));
  const plot = new Uint32Array(new SharedArrayBuffer(count * 4));
  const uv = alloc(Math.max(1, sets.length * count * 6));
  const colored = plots.some(
    (p) => p.kind === 'plot' && p.islands.some((i) => models[i.model].parts[i.part].colors !== null),
  );
  const color = colored ? alloc(count * 12).fill(1) : null;
  const frames = material.look.normal ? alloc(count * 33) : null;
  const layoutOf = new Map<string, Float64Array>();
  let at = 0;
  for (const p of plots) {
    if (p.kind === 'swatch') {
      const s = p.boxWidth;
      const corners = [0, 0, s, 0, s, s, 0, 0, s, s, 0, s];
      for (let k = 0; k < 12; k += 2) {
        place[at * 6 + k] = (p.x + corners[k]) * pxScale;
        place[at * 6 + k + 1] = (p.y + corners[k + 1]) * pxScale;
      }
      plot[at] = plot[at + 1] = p.id;
      if (frames) for (let c = 0; c < 6; c++) frames.set([0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1], (at * 3 + c) * 11);
      at += 2;
      continue;
    }
    if (p.kind !== 'plot' && use) {
      for (const beyond of [false, true]) {
        const box = wholeBox(p, use, size, beyond ? margin / 2 : 0);
        wholeCorners(box).forEach(([x, y], k) => {
          const o = at * 3 + k;
          place[o * 2] = (p.x + x * p.scale) * pxScale;
          place[o * 2 + 1] = (p.y + y * p.scale) * pxScale;
          sets.forEach((_, set) => {
            uv.set(sourceUv(use, x / size[0], y / size[1]), set * count * 6 + o * 2);
          });
          frames?.set([0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1], o * 11);
        });
        plot[at] = plot[at + 1] = beyond ? p.id + BEYOND : p.id;
        at += 2;
      }
      continue;
    }
    for (let i = 0; i < p.shapeTriangle.length; i++, at++) {
      const island = p.islands[p.shapeIsland[i]];
      const part = models[island.model].parts[island.part];
      const key = `${island.model}:${island.part}`;
      const target = targets.get(key) as TargetPart;
      let xy = layoutOf.get(key);
      if (!xy && use) {
        xy = layoutCoordinates(part, use, size);
        layoutOf.set(key, xy);
      }
      plot[at] = p.id;
      for (let c = 0; c < 3; c++) {
        const corner = p.shapeTriangle[i] * 3 + c;
        const v = part.indices[corner];
        const o = at * 3 + c;
        const lx = xy ? xy[v * 2] - island.shiftX : 0;
        const ly = xy ? xy[v * 2 + 1] - island.shiftY : 0;
        const [px, py] = placePoint(p, lx, ly);
        place[o * 2] = px * pxScale;
        place[o * 2 + 1] = py * pxScale;
        sets.forEach((s, k) => {
          const values = part.uvs[s] as Float32Array;
          uv[k * count * 6 + o * 2] = values[v * 2];
          uv[k * count * 6 + o * 2 + 1] = values[v * 2 + 1];
        });
        if (color && part.colors) for (let k = 0; k < 4; k++) color[o * 4 + k] = part.colors[v * 4 + k];
        if (frames && target.tangents && target.sourceTangents) {
          const nv = target.indices[corner];
          for (let k = 0; k < 3; k++) frames[o * 11 + k] = target.normals[nv * 3 + k];
          for (let k = 0; k < 4; k++) {
            frames[o * 11 + 3 + k] = target.sourceTangents[corner * 4 + k];
            frames[o * 11 + 7 + k] = target.tangents[nv * 4 + k];
          }
        }
      }
    }
  }
  return { count, place, plot, sets, uv, color, frames };
}

type Box = [left: number, top: number, right: number, bottom: number];

/** What is baked of a strip or cell, texels; `beyond` px farther where the texture repeats. A strip's width is that of the sheet already. */
function wholeBox(p: PlacedPlot, use: TextureUse, size: readonly [number, number], beyond: number): Box {
  const more = beyond / p.scale;
  const w = p.kind === 'strip' ? p.boxWidth / p.scale : p.shape[2];
  const h = p.shape[5];
  const x = use.wrapS === Wrap.clamp || p.kind === 'strip' ? 0 : more;
  const y = use.wrapT === Wrap.clamp ? 0 : more;
  return [-Math.min(x, size[0]), -Math.min(y, size[1]), w + Math.min(x, size[0]), h + Math.min(y, size[1])];
}

const wholeCorners = ([l, t, r, b]: Box): [number, number][] => [
  [l, t],
  [r, t],
  [r, b],
  [l, t],
  [r, b],
  [l, b],
];

/** UV of the source at which its texture transform leads to (s, t). */
function sourceUv(use: TextureUse, s: number, t: number): [number, number] {
  const [a, b, c, d, e, f] = use.transform;
  const det = a * d - b * c;
  return [(d * (s - e) - c * (t - f)) / det, (a * (t - f) - b * (s - e)) / det];
}
