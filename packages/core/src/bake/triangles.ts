import { Wrap } from '@wembrel/kernels/sample';
import type { PlacedPlot } from '../layout/layout.ts';
import { placePoint } from '../layout/place.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { type ImageSizes, layoutUse, referenceSize } from '../plan/layout-texture.ts';
import type { RoutedMaterial } from '../plan/route.ts';
import { type TextureUse, uvSetsUsed } from '../scene/material.ts';
import type { Model, Part } from '../scene/model.ts';
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

/** What the triangles of one material are gathered from. */
export interface MaterialPlots {
  models: Model[];
  material: RoutedMaterial;
  plots: PlacedPlot[];
  /** By `${model}:${part}`. */
  targets: ReadonlyMap<string, TargetPart>;
  sizes: ImageSizes;
  /** Px of the baked sheet per px of the layout (¼ for a proof). */
  pxScale: number;
  /** Least gap between bays, px of the layout; repeating textures are continued into half of it. */
  margin: number;
}

/** Gathers the triangles of one material from its placed plots. */
export function bakeTriangles(of: MaterialPlots): BakeTriangles {
  const gatherer = new TriangleGatherer(of);
  for (const plot of of.plots) gatherer.add(plot);
  return gatherer.out;
}

/** Frames of what has none: normal, source tangent and target tangent of a plane square to the view. */
const FLAT_FRAMES = [0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1];

class TriangleGatherer {
  readonly out: BakeTriangles;
  private readonly use: TextureUse | null;
  private readonly size: [number, number];
  private readonly layoutOf = new Map<string, Float64Array>();
  /** Triangles that are gathered. */
  private at = 0;

  constructor(private readonly of: MaterialPlots) {
    const { models, material, plots, sizes } = of;
    this.use = layoutUse(material, sizes);
    this.size = referenceSize(material, sizes);
    const countOf = (placedPlot: PlacedPlot) =>
      placedPlot.kind === 'plot' ? placedPlot.shapeTriangle.length : placedPlot.kind === 'swatch' ? 2 : 4;
    const count = plots.reduce((sum, plot) => sum + countOf(plot), 0);
    const sets = uvSetsUsed(material.look);
    const colored = plots.some(
      (plot) => plot.kind === 'plot' && plot.islands.some((i) => models[i.model].parts[i.part].colors !== null),
    );
    this.out = {
      count,
      place: new Float64Array(new SharedArrayBuffer(count * 48)),
      plot: new Uint32Array(new SharedArrayBuffer(count * 4)),
      sets,
      uv: alloc(Math.max(1, sets.length * count * 6)),
      color: colored ? alloc(count * 12).fill(1) : null,
      frames: material.look.normal ? alloc(count * 33) : null,
    };
  }

  add(placedPlot: PlacedPlot): void {
    if (placedPlot.kind === 'swatch') this.addSwatch(placedPlot);
    else if (placedPlot.kind !== 'plot' && this.use) this.addWhole(placedPlot, this.use);
    else this.addIslands(placedPlot);
  }

  /** A square that shows one colour. */
  private addSwatch(placedPlot: PlacedPlot): void {
    const { place, plot, frames } = this.out;
    const { pxScale } = this.of;
    const boxWidth = placedPlot.boxWidth;
    const corners = [0, 0, boxWidth, 0, boxWidth, boxWidth, 0, 0, boxWidth, boxWidth, 0, boxWidth];
    for (let k = 0; k < 12; k += 2) {
      place[this.at * 6 + k] = (placedPlot.x + corners[k]) * pxScale;
      place[this.at * 6 + k + 1] = (placedPlot.y + corners[k + 1]) * pxScale;
    }
    plot[this.at] = plot[this.at + 1] = placedPlot.id;
    if (frames) for (let c = 0; c < 6; c++) frames.set(FLAT_FRAMES, (this.at * 3 + c) * 11);
    this.at += 2;
  }

  /** A strip or cell: its texture, then once more a little larger where the texture repeats. */
  private addWhole(placedPlot: PlacedPlot, use: TextureUse): void {
    const { count, place, plot, sets, uv, frames } = this.out;
    const { size, of } = this;
    for (const beyond of [false, true]) {
      const box = wholeBox(placedPlot, use, size, beyond ? of.margin / 2 : 0);
      wholeCorners(box).forEach(([x, y], k) => {
        const o = this.at * 3 + k;
        place[o * 2] = (placedPlot.x + x * placedPlot.scale) * of.pxScale;
        place[o * 2 + 1] = (placedPlot.y + y * placedPlot.scale) * of.pxScale;
        sets.forEach((_, set) => {
          uv.set(sourceUv(use, x / size[0], y / size[1]), set * count * 6 + o * 2);
        });
        frames?.set(FLAT_FRAMES, o * 11);
      });
      plot[this.at] = plot[this.at + 1] = beyond ? placedPlot.id + BEYOND : placedPlot.id;
      this.at += 2;
    }
  }

  private addIslands(placedPlot: PlacedPlot): void {
    const { models, targets } = this.of;
    for (let i = 0; i < placedPlot.shapeTriangle.length; i++, this.at++) {
      const island = placedPlot.islands[placedPlot.shapeIsland[i]];
      const part = models[island.model].parts[island.part];
      const key = `${island.model}:${island.part}`;
      const xy = this.layoutCoordinatesOf(key, part);
      this.out.plot[this.at] = placedPlot.id;
      for (let c = 0; c < 3; c++) {
        const corner = placedPlot.shapeTriangle[i] * 3 + c;
        const v = part.indices[corner];
        const lx = xy ? xy[v * 2] - island.shiftX : 0;
        const ly = xy ? xy[v * 2 + 1] - island.shiftY : 0;
        this.addCorner(this.at * 3 + c, placePoint(placedPlot, lx, ly), part, v);
        this.addFrames(this.at * 3 + c, targets.get(key) as TargetPart, corner);
      }
    }
  }

  private layoutCoordinatesOf(key: string, part: Part): Float64Array | undefined {
    let xy = this.layoutOf.get(key);
    if (!xy && this.use) {
      xy = layoutCoordinates(part, this.use, this.size);
      this.layoutOf.set(key, xy);
    }
    return xy;
  }

  /** Place, UVs and colour of corner `o`, which is vertex `v` of a part. */
  private addCorner(o: number, [px, py]: readonly [number, number], part: Part, v: number): void {
    const { count, place, sets, uv, color } = this.out;
    place[o * 2] = px * this.of.pxScale;
    place[o * 2 + 1] = py * this.of.pxScale;
    sets.forEach((set, k) => {
      const values = part.uvs[set] as Float32Array;
      uv[k * count * 6 + o * 2] = values[v * 2];
      uv[k * count * 6 + o * 2 + 1] = values[v * 2 + 1];
    });
    if (color && part.colors) for (let k = 0; k < 4; k++) color[o * 4 + k] = part.colors[v * 4 + k];
  }

  private addFrames(o: number, target: TargetPart, corner: number): void {
    const { frames } = this.out;
    if (!frames || !target.tangents || !target.sourceTangents) return;
    const nv = target.indices[corner];
    for (let k = 0; k < 3; k++) frames[o * 11 + k] = target.normals[nv * 3 + k];
    for (let k = 0; k < 4; k++) {
      frames[o * 11 + 3 + k] = target.sourceTangents[corner * 4 + k];
      frames[o * 11 + 7 + k] = target.tangents[nv * 4 + k];
    }
  }
}

type Box = [left: number, top: number, right: number, bottom: number];

/** What is baked of a strip or cell, texels; `beyond` px farther where the texture repeats. A strip's width is that of the sheet already. */
function wholeBox(placedPlot: PlacedPlot, use: TextureUse, size: readonly [number, number], beyond: number): Box {
  const more = beyond / placedPlot.scale;
  const w = placedPlot.kind === 'strip' ? placedPlot.boxWidth / placedPlot.scale : placedPlot.shape[2];
  const h = placedPlot.shape[5];
  const x = use.wrapS === Wrap.clamp || placedPlot.kind === 'strip' ? 0 : more;
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
