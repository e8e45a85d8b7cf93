import { Wrap } from '@wembrel/kernels/sample';
import { LevelSampler } from '@wembrel/kernels/sampler';
import { type Condition, MASK_CHANNELS, type SingleCondition } from '../../decisions/recipe/condition.ts';
import { chosenIds } from '../inputs/id-picture.ts';
import { type RecipeInputs, readMap, texelAt } from '../inputs/input-maps.ts';
import { colourCode, distanceNeed } from '../inputs/needs.ts';
import { NO_PERIOD, type NoisePeriod, noiseAt } from '../noise/noise.ts';
import { BoxProjection } from '../projection/box.ts';
import { newPlaces } from '../projection/places.ts';
import { repeatSize } from '../projection/repeat.ts';
import { BATCH, type Samples } from '../samples.ts';
import type { RecipeSurface } from '../surface.ts';
import { byChance, byName, byPoint, type TriangleValues } from './by-triangle.ts';
import { belongs } from './ramp.ts';
import { StrokeField } from './strokes.ts';

/** How far the sides of a mask that is laid as a box are blended. */
const MASK_BLEND = 0.2;

/** Layers of the noise by which borders wander. */
const WANDER_LAYERS = 3;

/**
 * Fills `out` with a value from 0 to 1 for each sample. Where `needed` is given and 0, nobody asks: what takes long is left out there, and any value may stand.
 */
export type Field = (samples: Samples, out: Float32Array, needed?: Float32Array) => void;

/** What conditions are compiled for. */
export interface ConditionContext {
  surface: RecipeSurface;
  inputs: RecipeInputs;
  shared: Readonly<Record<string, Condition>>;
  /** Of the worker among those that read the same pictures. */
  slot: number;
}

type Of<K extends SingleCondition['of']> = Extract<SingleCondition, { of: K }>;

/** A condition that cannot be asked, for want of what it reads, is nowhere. */
const NOWHERE: Field = (samples, out) => {
  out.fill(0, 0, samples.count);
};

/** A condition as a function of samples. */
export function compileCondition(condition: Condition, context: ConditionContext): Field {
  if ('use' in condition) return compileCondition(context.shared[condition.use], context);
  if ('not' in condition) return inverted(compileCondition(condition.not, context));
  if ('all' in condition) {
    // What is quick goes first: where it is 0 the others need not be asked.
    const ordered = [...condition.all].sort((a, b) => Number(isSlow(a)) - Number(isSlow(b)));
    const fields = ordered.map((one) => compileCondition(one, context));
    return condition.by === 'product' ? allOf(fields, (a, b) => a * b) : allOf(fields, (a, b) => (a < b ? a : b));
  }
  if ('any' in condition) return greatestOf(condition.any.map((one) => compileCondition(one, context)));
  return compileSingle(condition, context);
}

const isSlow = (condition: Condition): boolean =>
  !('of' in condition) || condition.of === 'noise' || condition.of === 'mask' || condition.of === 'strokes';

function inverted(field: Field): Field {
  return (samples, out, needed) => {
    field(samples, out, needed);
    for (let i = 0; i < samples.count; i++) out[i] = 1 - out[i];
  };
}

/** All at once: their product or the least, which are 0 where one of them is. */
function allOf([first, ...others]: readonly Field[], join: (a: number, b: number) => number): Field {
  const own = new Float32Array(BATCH);
  return (samples, out, needed) => {
    first(samples, out, needed);
    if (needed) for (let i = 0; i < samples.count; i++) if (needed[i] === 0) out[i] = 0;
    for (const field of others) {
      if (!anyOf(out, samples.count)) return;
      field(samples, own, out);
      for (let i = 0; i < samples.count; i++) if (out[i] > 0) out[i] = join(out[i], own[i]);
    }
  };
}

function anyOf(values: Float32Array, count: number): boolean {
  for (let i = 0; i < count; i++) if (values[i] > 0) return true;
  return false;
}

function greatestOf([first, ...others]: readonly Field[]): Field {
  const own = new Float32Array(BATCH);
  return (samples, out, needed) => {
    first(samples, out, needed);
    for (const field of others) {
      field(samples, own, needed);
      for (let i = 0; i < samples.count; i++) if (own[i] > out[i]) out[i] = own[i];
    }
  };
}

function compileSingle(condition: SingleCondition, context: ConditionContext): Field {
  const { surface } = context;
  switch (condition.of) {
    case 'slot':
    case 'part':
    case 'model':
    case 'group':
      return ofTriangle(byName(surface, condition.of, condition.names));
    case 'island':
      return ofTriangle(byPoint(surface, condition.at));
    case 'random':
      return ofTriangle(byChance(surface, condition.per, condition.seed).map((v) => belongs(v, condition)));
    case 'id':
      return idField(condition, context);
    case 'uv-border':
    case 'id-border':
      return distanceField(condition, context);
    case 'position':
      return positionField(condition, surface);
    case 'facing':
      return facingField(condition);
    case 'noise':
      return noiseField(condition, surface);
    case 'mask':
      return maskField(condition, context);
    case 'strokes':
      return strokeField(condition);
    default:
      return mapField(condition, context);
  }
}

const ofTriangle =
  (values: TriangleValues): Field =>
  ({ count, triangle }, out) => {
    for (let i = 0; i < count; i++) out[i] = values[triangle[i]];
  };

function mapField(
  condition: Extract<SingleCondition, { of: keyof RecipeInputs['maps'] }>,
  context: ConditionContext,
): Field {
  const map = context.inputs.maps[condition.of];
  const { width, height, wraps } = context.surface;
  if (!map) return NOWHERE;
  return ({ count, px, py }, out) => {
    for (let i = 0; i < count; i++)
      out[i] = belongs(readMap(map, [width, height], px[i], py[i], wraps !== null), condition);
  };
}

function idField(condition: Of<'id'>, context: ConditionContext): Field {
  const { inputs, surface } = context;
  const size = [surface.width, surface.height] as const;
  const need = distanceNeed(condition);
  if (need) {
    const distances = inputs.distances[need.key];
    if (!distances) return NOWHERE;
    const map = { data: distances, scale: 1, offset: 0 };
    const stretch = { from: null, to: 0, soft: condition.soft };
    return ({ count, px, py }, out) => {
      for (let i = 0; i < count; i++)
        out[i] = belongs(readMap(map, size, px[i], py[i], surface.wraps !== null), stretch);
    };
  }
  const ids = inputs.ids[condition.picture ?? ''];
  if (!ids) return NOWHERE;
  const chosen = chosenIds(ids, { ...condition, colours: condition.colours.map(colourCode) });
  return ({ count, px, py }, out) => {
    for (let i = 0; i < count; i++)
      out[i] = Number(chosen.has(ids.texels[texelAt(size, px[i], py[i], surface.wraps !== null)]));
  };
}

/** What noise adds to a value in mm at a sample, or null. */
function wandering(
  wander: Of<'position'>['wander'],
  { wraps }: RecipeSurface,
): ((samples: Samples, i: number) => number) | null {
  if (!wander) return null;
  const place = noisePlace(wander.size / 1000, wraps);
  const settings = { kind: 'value' as const, layers: WANDER_LAYERS, seed: wander.seed };
  return ({ x, y, z }, i) =>
    wander.by * (2 * noiseAt(x[i] * place.x, y[i] * place.y, z[i] * place.z, settings, place.period) - 1);
}

function distanceField(condition: Of<'uv-border' | 'id-border'>, { inputs, surface }: ConditionContext): Field {
  const wander = wandering(condition.wander, surface);
  const data = inputs.distances[distanceNeed(condition)?.key ?? ''];
  if (!data) return NOWHERE;
  const map = { data, scale: 1, offset: 0 };
  const size = [surface.width, surface.height] as const;
  return (samples, out) => {
    const { count, px, py } = samples;
    for (let i = 0; i < count; i++)
      out[i] = belongs(readMap(map, size, px[i], py[i], false) + (wander?.(samples, i) ?? 0), condition);
  };
}

function positionField(condition: Of<'position'>, surface: RecipeSurface): Field {
  const axis = 'xyz'.indexOf(condition.axis);
  // Of each part: the value at 0 m, and by how much it rises with a metre.
  const lines = surface.parts.map((part) => {
    if (condition.within === 'world') return { at: 0, rise: 1000 };
    const box = condition.within === 'part' ? part.box : surface.boxes[part.model];
    const [low, high] = [box[axis], box[axis + 3]];
    const unit = condition.unit === 'mm' ? 1000 : high > low ? 1 / (high - low) : 0;
    return condition.end === 'low' ? { at: -low * unit, rise: unit } : { at: high * unit, rise: -unit };
  });
  const { part } = surface;
  const wander = wandering(condition.wander, surface);
  return (samples, out) => {
    const p = axis === 0 ? samples.x : axis === 1 ? samples.y : samples.z;
    for (let i = 0; i < samples.count; i++) {
      const { at, rise } = lines[part[samples.triangle[i]]];
      // What wanders does so in mm, whatever the position is told in.
      const moved = wander ? (wander(samples, i) * Math.abs(rise)) / 1000 : 0;
      out[i] = belongs(at + rise * p[i] + moved, condition);
    }
  };
}

function facingField(condition: Of<'facing'>): Field {
  const [x, y, z] = condition.direction;
  const l = Math.sqrt(x * x + y * y + z * z);
  return ({ count, nx, ny, nz }, out) => {
    for (let i = 0; i < count; i++) {
      const cosine = (nx[i] * x + ny[i] * y + nz[i] * z) / l;
      out[i] = belongs((Math.acos(Math.min(1, Math.max(-1, cosine))) * 180) / Math.PI, condition);
    }
  };
}

/** How places become cells of noise: on a cell, so many whole ones that it goes on at the opposite edge. @param size of a cell, m */
function noisePlace(
  size: number,
  wraps: RecipeSurface['wraps'],
): { x: number; y: number; z: number; period: NoisePeriod } {
  const plain = 1 / size;
  if (!wraps) return { x: plain, y: plain, z: plain, period: NO_PERIOD };
  const cells = wraps.map((side) => Math.max(1, Math.round(side / size)));
  return { x: cells[0] / wraps[0], y: cells[1] / wraps[1], z: plain, period: [cells[0], cells[1], 0] };
}

function noiseField(condition: Of<'noise'>, { wraps }: RecipeSurface): Field {
  const place = noisePlace(condition.size / 1000, wraps);
  return ({ count, x, y, z }, out, needed) => {
    for (let i = 0; i < count; i++)
      if (!needed || needed[i] > 0)
        out[i] = belongs(noiseAt(x[i] * place.x, y[i] * place.y, z[i] * place.z, condition, place.period), condition);
  };
}

function strokeField(condition: Of<'strokes'>): Field {
  const strokes = new StrokeField(condition);
  return ({ count, x, y, z }, out, needed) => {
    for (let i = 0; i < count; i++) if (!needed || needed[i] > 0) out[i] = strokes.at(x[i], y[i], z[i]);
  };
}

function maskField(condition: Of<'mask'>, { inputs, surface, slot }: ConditionContext): Field {
  const set = inputs.masks[condition.picture];
  if (!set) return NOWHERE;
  const sampler = new LevelSampler(set, slot);
  const channel = MASK_CHANNELS.indexOf(condition.channel);
  const { uv, values } = sampler;
  const { width, height } = surface;
  if (condition.metres === null)
    return ({ count, px, py }, out) => {
      for (let i = 0; i < count; i++) {
        uv[i * 2] = px[i] / width;
        uv[i * 2 + 1] = py[i] / height;
      }
      sampler.read(0, count, 0, Wrap.repeat, Wrap.repeat, false);
      for (let i = 0; i < count; i++) out[i] = belongs(values[i * 4 + channel], condition);
    };
  const box = new BoxProjection(MASK_BLEND);
  const places = newPlaces();
  const [across, down] = repeatSize(condition.metres, set.height / set.width, surface.wraps);
  const sums = new Float64Array(BATCH);
  return (samples, out, needed) => {
    sums.fill(0, 0, samples.count);
    for (let axis = 0, more = true; more; axis++) {
      more = box.fill(samples, axis, places, needed ?? null);
      for (let k = 0; k < places.count; k++) {
        uv[k * 2] = places.s[k] / across;
        uv[k * 2 + 1] = places.t[k] / down;
      }
      sampler.read(0, places.count, 0, Wrap.repeat, Wrap.repeat, false);
      for (let k = 0; k < places.count; k++) sums[places.of[k]] += places.weight[k] * values[k * 4 + channel];
    }
    for (let i = 0; i < samples.count; i++) out[i] = belongs(sums[i], condition);
  };
}
