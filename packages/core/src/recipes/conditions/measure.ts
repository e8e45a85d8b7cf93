import { Wrap } from '@wembrel/kernels/sample';
import { LevelSampler } from '@wembrel/kernels/sampler';
import { MASK_CHANNELS, type SingleCondition } from '../../decisions/recipe/condition.ts';
import { type RecipeInputs, readMap } from '../inputs/input-maps.ts';
import { distanceNeed } from '../inputs/needs.ts';
import { NO_PERIOD, type NoisePeriod, noiseAt } from '../noise/noise.ts';
import { BoxProjection } from '../projection/box.ts';
import { newPlaces } from '../projection/places.ts';
import { repeatSize } from '../projection/repeat.ts';
import { BATCH, type Samples } from '../samples.ts';
import type { RecipeSurface } from '../surface.ts';
import { byChance } from './by-triangle.ts';
import { type ConditionContext, type Field, ofTriangle } from './field.ts';

/** How far the sides of a mask that is laid as a box are blended. */
const MASK_BLEND = 0.2;

/** Layers of the noise by which borders wander. */
const WANDER_LAYERS = 3;

type Of<K extends SingleCondition['of']> = Extract<SingleCondition, { of: K }>;

/** Conditions that are a stretch of some measure. */
export type MeasuredCondition = Extract<SingleCondition, { from: number | null }>;

/** What a condition measures, before it is asked whether that lies in its stretch: in the unit of the stretch. Null where what it reads is not there. */
export function measureOf(condition: MeasuredCondition, context: ConditionContext): Field | null {
  const { surface } = context;
  switch (condition.of) {
    case 'random':
      return ofTriangle(byChance(surface, condition.per, condition.seed));
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
    default:
      return mapField(condition, context);
  }
}

function mapField(
  condition: Extract<SingleCondition, { of: keyof RecipeInputs['maps'] }>,
  context: ConditionContext,
): Field | null {
  const map = context.inputs.maps[condition.of];
  const { width, height, wraps } = context.surface;
  if (!map) return null;
  return ({ count, px, py }, out) => {
    for (let i = 0; i < count; i++) out[i] = readMap(map, [width, height], px[i], py[i], wraps !== null);
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

function distanceField(condition: Of<'uv-border' | 'id-border'>, { inputs, surface }: ConditionContext): Field | null {
  const wander = wandering(condition.wander, surface);
  const data = inputs.distances[distanceNeed(condition)?.key ?? ''];
  if (!data) return null;
  const map = { data, scale: 1, offset: 0 };
  const size = [surface.width, surface.height] as const;
  return (samples, out) => {
    const { count, px, py } = samples;
    for (let i = 0; i < count; i++) out[i] = readMap(map, size, px[i], py[i], false) + (wander?.(samples, i) ?? 0);
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
      out[i] = at + rise * p[i] + moved;
    }
  };
}

function facingField(condition: Of<'facing'>): Field {
  const [x, y, z] = condition.direction;
  const l = Math.sqrt(x * x + y * y + z * z);
  return ({ count, nx, ny, nz }, out) => {
    for (let i = 0; i < count; i++) {
      const cosine = (nx[i] * x + ny[i] * y + nz[i] * z) / l;
      out[i] = (Math.acos(Math.min(1, Math.max(-1, cosine))) * 180) / Math.PI;
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
        out[i] = noiseAt(x[i] * place.x, y[i] * place.y, z[i] * place.z, condition, place.period);
  };
}

function maskField(condition: Of<'mask'>, { inputs, surface, slot }: ConditionContext): Field | null {
  const set = inputs.masks[condition.picture];
  if (!set) return null;
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
      for (let i = 0; i < count; i++) out[i] = values[i * 4 + channel];
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
    for (let i = 0; i < samples.count; i++) out[i] = sums[i];
  };
}
