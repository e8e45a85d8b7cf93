import { MAP_CONDITIONS, type MapCondition } from '../../decisions/recipe/condition.ts';
import { hexOf } from '../../image/hex.ts';
import { State } from '../blend/state.ts';
import { readMap } from '../inputs/input-maps.ts';
import type { RecipeJob } from '../job.ts';
import { LineEvaluator } from '../line.ts';
import type { TexelBatches } from './batches.ts';

/** What is known of one texel. */
export interface TexelReading {
  /** m, in object space, and the way its surface looks. */
  point: [number, number, number];
  normal: [number, number, number];
  part: string;
  slot: string;
  model: string;
  group: string | null;
  island: number;
  /** Of the maps that conditions read, as far as they are there: curvature −1 … 1, heights mm, others 0 … 1. */
  values: Partial<Record<MapCondition, number>>;
  /** IDs by the file of their picture, those that are baked under ''. */
  ids: Record<string, { colour: string; name: string | null }>;
  /** Lines that reach it, in their order, and by how much, 0 … 1. */
  lines: { line: string; amount: number }[];
}

/** Reads what is known of a texel, px of the sheet; null beside the islands. */
export function readTexel(job: RecipeJob, batches: TexelBatches, x: number, y: number): TexelReading | null {
  const { surface, inputs, recipe } = job;
  const samples = batches.at(Math.floor(x), Math.floor(y));
  if (!samples) return null;
  const t = samples.triangle[0];
  const part = surface.parts[surface.part[t]];
  const group = surface.group?.[t] ?? -1;
  const values: TexelReading['values'] = {};
  const size = [surface.width, surface.height] as const;
  for (const kind of MAP_CONDITIONS) {
    const map = inputs.maps[kind];
    if (map) values[kind] = readMap(map, size, samples.px[0], samples.py[0], surface.wraps !== null);
  }
  const ids: TexelReading['ids'] = {};
  for (const [picture, map] of Object.entries(inputs.ids)) {
    const code = map.texels[samples.texel[0]];
    ids[picture] = { colour: hexOf([code & 255, (code >> 8) & 255, code >> 16]), name: map.names[code] ?? null };
  }
  const state = new State();
  state.load(job.maps, samples);
  const lines = job.lines.flatMap((number) => {
    const [amount] = new LineEvaluator(job, number, 0).apply(samples, state);
    return amount > 0 ? [{ line: recipe.lines[number].name, amount }] : [];
  });
  return {
    point: [samples.x[0], samples.y[0], samples.z[0]],
    normal: [samples.nx[0], samples.ny[0], samples.nz[0]],
    part: part.name,
    slot: part.slot,
    model: part.model,
    group: group < 0 ? null : (surface.groups[group] ?? null),
    island: surface.island[t],
    values,
    ids,
    lines,
  };
}
