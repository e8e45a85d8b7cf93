import type { RecipeLine } from '../decisions/recipe/recipe.ts';
import { ChangeLayer } from './blend/changes.ts';
import { LookLayer } from './blend/lay-look.ts';
import { addRelief } from './blend/relief.ts';
import { CHANGED, S, STATE_VALUES, type State } from './blend/state.ts';
import { compileCondition, type Field } from './conditions/compile.ts';
import type { RecipeJob } from './job.ts';
import { AT, LOOK_VALUES, LookReader } from './looks/reader.ts';
import { BATCH, type PxSteps, Samples } from './samples.ts';

/** Places around a point at which a soft shadow is looked up: its middle and three rings (Vogel 1979), at so many points. */
const SHADOW_TAPS = 16;
const GOLDEN = Math.PI * (3 - Math.sqrt(5));
const DISC = Array.from({ length: SHADOW_TAPS }, (_, k) => {
  const r = Math.sqrt((k + 0.5) / SHADOW_TAPS);
  return [r * Math.cos(k * GOLDEN), r * Math.sin(k * GOLDEN)] as const;
});

/** One line of a recipe, ready to be laid; one object a line and worker. */
export class LineEvaluator {
  private readonly line: RecipeLine;
  private readonly where: Field | null;
  private readonly reader: LookReader | null = null;
  private readonly look: LookLayer | null = null;
  private readonly change: ChangeLayer | null = null;
  private readonly ownAlpha: boolean = false;
  private readonly plane: Pick<RecipeJob, 'steps' | 'surface'>;
  private readonly mask = new Float32Array(BATCH);
  private readonly moved = new Samples();
  private readonly dx = new Float64Array(BATCH);
  private readonly dy = new Float64Array(BATCH);

  /** @param slot of the worker */
  constructor(job: RecipeJob, number: number, slot: number) {
    this.line = job.recipe.lines[number];
    this.plane = job;
    const { what, where, how } = this.line;
    const context = { surface: job.surface, inputs: job.inputs, shared: job.recipe.conditions, slot };
    this.where = where ? compileCondition(where, context) : null;
    if (!('look' in what)) {
      this.change = new ChangeLayer(what);
      return;
    }
    const look = job.looks[number];
    const channels = what.channels ?? look.channels.filter((channel) => channel !== 'alpha');
    const heights = how.relief?.from === 'height';
    this.reader = new LookReader({
      look,
      lay: what.lay,
      surface: job.surface,
      lods: job.lods,
      slot,
      channels,
      heights,
    });
    this.look = new LookLayer(channels, how);
    this.ownAlpha = channels.includes('alpha');
  }

  /** Lays the line over the samples. @returns how much of each it covers */
  apply(samples: Samples, state: State): Float32Array {
    const { mask, reader, look, change } = this;
    const { how } = this.line;
    if (how.shadow) this.castShadow(samples, state);
    const any = this.cover(samples, mask, false);
    if (!any) return mask;
    if (change) change.lay(state, samples.count, mask);
    if (look && reader) look.lay(state, samples, reader.values, mask, reader.coverage);
    if (how.relief) this.raise(samples, state);
    return mask;
  }

  /**
   * How much of each sample the line covers. @param alone the look's own values are not needed
   * @returns whether it covers any
   */
  private cover(samples: Samples, out: Float32Array, alone: boolean): boolean {
    const { where, reader, line } = this;
    const { strength } = line.how;
    if (where) where(samples, out);
    else out.fill(1, 0, samples.count);
    let any = false;
    for (let i = 0; i < samples.count; i++) {
      out[i] *= strength;
      any ||= out[i] > 0;
    }
    if (!any || !reader) return any;
    reader.read(samples, alone, out);
    // A look that writes opacity is there wherever it is laid; else its alpha says where it is.
    any = false;
    for (let i = 0; i < samples.count; i++) {
      if (!this.ownAlpha) out[i] *= reader.coverage[i];
      any ||= out[i] > 0;
    }
    return any;
  }

  /** Heights of the line beside the samples, and their slopes. */
  private raise(samples: Samples, state: State): void {
    const sides = { left: [-0.5, 0], right: [0.5, 0], above: [0, -0.5], below: [0, 0.5] } as const;
    const at = (side: keyof typeof sides) => this.heights(samples, sides[side][0], sides[side][1]);
    const heights = { left: at('left'), right: at('right'), above: at('above'), below: at('below') };
    addRelief(state, samples, this.plane.steps, heights);
  }

  /** Heights of the line, m, at samples that are moved by so many px. */
  private heights(samples: Samples, dx: number, dy: number): Float32Array {
    const { relief } = this.line.how;
    const depth = (relief?.depth ?? 0) / 1000;
    const out = new Float32Array(samples.count);
    this.moved.moved(samples, this.plane, this.dx.fill(dx), this.dy.fill(dy));
    const fromLook = relief?.from === 'height' && this.reader !== null;
    if (!this.cover(this.moved, out, !fromLook)) return out;
    for (let i = 0; i < out.length; i++)
      out[i] *= depth * (fromLook ? (this.reader as LookReader).values[i * LOOK_VALUES + AT.height] : 1);
    return out;
  }

  /** Darkens what the line's shadow falls on: the line as it lies some way off, softened over a disc. */
  private castShadow(samples: Samples, state: State): void {
    const { shadow } = this.line.how;
    if (!shadow) return;
    const sum = new Float64Array(samples.count);
    const own = new Float32Array(samples.count);
    const taps = shadow.soft > 0 ? DISC : [[0, 0] as const];
    for (const [u, v] of taps) {
      this.moveTowardsLight(samples, u, v);
      this.moved.moved(samples, this.plane, this.dx, this.dy);
      this.cover(this.moved, own, true);
      for (let i = 0; i < own.length; i++) sum[i] += own[i] / taps.length;
    }
    for (let i = 0; i < samples.count; i++) {
      if (sum[i] === 0) continue;
      const k = 1 - shadow.strength * sum[i];
      for (let c = 0; c < 3; c++) state.values[i * STATE_VALUES + S.color + c] *= k;
      state.changed[i] |= CHANGED.color;
    }
  }

  /** Steps in px from each sample against the shadow's way, and to a point of the disc around it. */
  private moveTowardsLight(samples: Samples, u: number, v: number): void {
    const shadow = this.line.how.shadow as NonNullable<RecipeLine['how']['shadow']>;
    const [x, y, z] = shadow.towards;
    const far = shadow.distance / 1000;
    const wide = shadow.soft / 2000;
    for (let i = 0; i < samples.count; i++) {
      // The way along the surface, in the frame of the sample.
      let a = x * samples.tx[i] + y * samples.ty[i] + z * samples.tz[i];
      let b = x * samples.bx[i] + y * samples.by[i] + z * samples.bz[i];
      const l = Math.sqrt(a * a + b * b);
      [a, b] = l > 1e-6 ? [(-a / l) * far, (-b / l) * far] : [0, 0];
      a += u * wide;
      b += v * wide;
      const d = [0, 1, 2].map(
        (k) =>
          a * (k === 0 ? samples.tx[i] : k === 1 ? samples.ty[i] : samples.tz[i]) +
          b * (k === 0 ? samples.bx[i] : k === 1 ? samples.by[i] : samples.bz[i]),
      );
      [this.dx[i], this.dy[i]] = inPx(this.plane.steps, samples.triangle[i], d);
    }
  }
}

/** Px of the sheet that lead as far as a way on the plane of a triangle. */
function inPx(steps: PxSteps, t: number, d: readonly number[]): [number, number] {
  const [ax, ay, az, bx, by, bz] = steps.subarray(t * 6, t * 6 + 6);
  const aa = ax * ax + ay * ay + az * az;
  const ab = ax * bx + ay * by + az * bz;
  const bb = bx * bx + by * by + bz * bz;
  const det = aa * bb - ab * ab;
  if (!(det > 0)) return [0, 0];
  const p = ax * d[0] + ay * d[1] + az * d[2];
  const q = bx * d[0] + by * d[1] + bz * d[2];
  return [(p * bb - q * ab) / det, (q * aa - p * ab) / det];
}
