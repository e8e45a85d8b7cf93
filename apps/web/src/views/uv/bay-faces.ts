import type { PlotIndex } from '../../contract/plots.ts';
import type { GatheredIslands } from '../../project/packing/use-islands.ts';
import type { FaceLayer, LitFaces } from '../../stage/placed.ts';

type Islands = Pick<GatheredIslands, 'index' | 'faces'>;

/** A bay: position of its sheet, and its id there. */
export interface BayAt {
  sheet: number;
  id: number;
}

/** The bay of each face of a model, by part. */
export function baysOfFaces(islands: Islands | null, model: number): Map<number, Map<number, BayAt>> {
  const out = new Map<number, Map<number, BayAt>>();
  eachIsland(islands, model, (sheet, id, part, faces) => {
    const of = out.get(part) ?? new Map<number, BayAt>();
    out.set(part, of);
    for (const face of faces) of.set(face, { sheet, id });
  });
  return out;
}

/**
 * The faces of a model that lie on some bays.
 * @param reduced the copy in sight has other triangles: there whole parts stand for their faces
 */
export function facesOfBays(
  islands: Islands | null,
  model: number,
  wanted: (sheet: number, id: number) => boolean,
  reduced: boolean,
): LitFaces {
  const lists = new Map<number, Uint32Array[]>();
  eachIsland(islands, model, (sheet, id, part, faces) => {
    if (!wanted(sheet, id)) return;
    const list = lists.get(part);
    if (list) list.push(faces);
    else lists.set(part, [faces]);
  });
  return new Map([...lists].map(([part, list]) => [part, reduced ? 'all' : joined(list)]));
}

/** Colours of the bays of a sheet over the faces of a model. */
export function bayLayers(
  islands: Islands | null,
  model: number,
  sheet: number,
  colour: (id: number) => string,
): FaceLayer[] {
  const lists = new Map<string, Map<number, Uint32Array[]>>();
  eachIsland(islands, model, (s, id, part, faces) => {
    if (s !== sheet) return;
    const c = colour(id);
    const parts = lists.get(c) ?? new Map<number, Uint32Array[]>();
    lists.set(c, parts);
    const list = parts.get(part);
    if (list) list.push(faces);
    else parts.set(part, [faces]);
  });
  return [...lists].map(([c, parts]) => ({
    faces: new Map([...parts].map(([part, list]) => [part, joined(list)])),
    colour: c,
    opacity: 0.85,
  }));
}

/** Ids of all plots that have faces of a part that some plots have faces of. */
export function ofSameParts(plots: PlotIndex['sheets'][number], ids: ReadonlySet<number>): number[] {
  const keys = (plotEntry: PlotIndex['sheets'][number][number]) =>
    plotEntry.islands.map(([model, part]) => `${model} ${part}`);
  const parts = new Set(plots.filter((plot) => ids.has(plot.id)).flatMap(keys));
  return plots.filter((plot) => keys(plot).some((k) => parts.has(k))).map((plot) => plot.id);
}

function eachIsland(
  islands: Islands | null,
  model: number,
  visit: (sheet: number, id: number, part: number, faces: Uint32Array) => void,
): void {
  islands?.index.sheets.forEach((plots, sheet) => {
    for (const plot of plots)
      for (const [m, part, first, count] of plot.islands)
        if (m === model) visit(sheet, plot.id, part, islands.faces.subarray(first, first + count));
  });
}

function joined(lists: readonly Uint32Array[]): Uint32Array {
  const out = new Uint32Array(lists.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of lists) {
    out.set(list, at);
    at += list.length;
  }
  return out;
}
