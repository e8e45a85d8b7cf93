import type { Condition, SingleCondition, Stretch } from '../../decisions/recipe/condition.ts';
import { chosenIds } from '../inputs/id-picture.ts';
import { readMap, texelAt } from '../inputs/input-maps.ts';
import { colourCode, distanceNeed } from '../inputs/needs.ts';
import { BATCH } from '../samples.ts';
import { byName, byPoint } from './by-triangle.ts';
import { type ConditionContext, type Field, ofTriangle } from './field.ts';
import { measureOf } from './measure.ts';
import { belongs } from './ramp.ts';
import { StrokeField } from './strokes.ts';

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
    case 'id':
      return idField(condition, context);
    case 'strokes':
      return strokeField(condition);
    default:
      return stretched(measureOf(condition, context), condition);
  }
}

/** How much what is measured belongs to a stretch. */
function stretched(measure: Field | null, { from, to, soft }: Stretch): Field {
  if (!measure) return NOWHERE;
  // An object of its own: one of one shape is read faster than conditions of every kind.
  const stretch: Stretch = { from, to, soft };
  return (samples, out, needed) => {
    measure(samples, out, needed);
    for (let i = 0; i < samples.count; i++) out[i] = belongs(out[i], stretch);
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

function strokeField(condition: Of<'strokes'>): Field {
  const strokes = new StrokeField(condition);
  return ({ count, x, y, z }, out, needed) => {
    for (let i = 0; i < count; i++) if (!needed || needed[i] > 0) out[i] = strokes.at(x[i], y[i], z[i]);
  };
}
