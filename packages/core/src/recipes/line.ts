import type { RecipeLine } from '../decisions/recipe/recipe.ts';
import { ChangeLayer } from './blend/changes.ts';
import { LookLayer } from './blend/lay-look.ts';
import { addRelief } from './blend/relief.ts';
import { CHANGED, S, STATE_VALUES, type State } from './blend/state.ts';
import { compileCondition } from './conditions/compile.ts';
import type { Field } from './conditions/field.ts';
import type { RecipeJob } from './job.ts';
import { AT, LOOK_VALUES, LookReader } from './looks/reader.ts';
import { laidChannels } from './prepare.ts';
import { BATCH, type PxSteps, Samples } from './samples.ts';

/** Places around a point at which a soft shadow is looked up: a spiral (Vogel 1979) of so many. */
const SHADOW_TAPS = 9;
/** How far beside a sample its height is looked up, px. */
const STEP = 0.5;
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
  private readonly beside = new Float32Array(BATCH);
  private readonly first = new Uint16Array(BATCH);
  private readonly moved = new Samples();
  private readonly one = new Samples();
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
    const channels = laidChannels(what.channels, look);
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

  /** How much of each sample the line covers: its condition, its strength, and where its look is there. */
  coverage(samples: Samples, out: Float32Array): void {
    if (!this.cover(samples, out, true)) out.fill(0, 0, samples.count);
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
   * How much of each sample the line covers. @param alone the look's own values are not needed @param needed nobody asks where it is 0
   * @returns whether it covers any
   */
  private cover(samples: Samples, out: Float32Array, alone: boolean, needed?: Float32Array): boolean {
    const { where, reader, line } = this;
    const { strength } = line.how;
    if (where) where(samples, out, needed);
    else out.fill(1, 0, samples.count);
    let any = false;
    for (let i = 0; i < samples.count; i++) {
      out[i] = needed && needed[i] === 0 ? 0 : out[i] * strength;
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

  /** Bends normals by how the line's height changes to the right and down. What it does not cover is left alone. */
  private raise(samples: Samples, state: State): void {
    const here = this.heights(samples, this.mask, this.reader?.values ?? null);
    const beside = (dx: number, dy: number) => {
      const cover = this.beside;
      this.moved.moved(samples, this.plane, this.dx.fill(dx), this.dy.fill(dy));
      this.cover(this.moved, cover, this.line.how.relief?.from !== 'height', this.mask);
      return this.heights(samples, cover, this.reader?.values ?? null);
    };
    addRelief(state, samples, this.plane.steps, { step: STEP, here, right: beside(STEP, 0), below: beside(0, STEP) });
  }

  /** Heights of the line, m. @param cover how much of each sample it covers @param values of its look */
  private heights({ count }: Samples, cover: Float32Array, values: Float32Array | null): Float32Array {
    const { relief } = this.line.how;
    const depth = (relief?.depth ?? 0) / 1000;
    const out = new Float32Array(count);
    for (let i = 0; i < count; i++)
      out[i] = cover[i] * depth * (relief?.from === 'height' && values ? values[i * LOOK_VALUES + AT.height] : 1);
    return out;
  }

  /**
   * Darkens what the line's shadow falls on: the line as it lies some way off, softened over a disc. Samples of one texel share their shadow, since looking it up takes
   * long and it changes slowly.
   */
  private castShadow(samples: Samples, state: State): void {
    const { shadow } = this.line.how;
    if (!shadow) return;
    const first = this.firstOfTexels(samples);
    const { one, beside } = this;
    const sum = new Float64Array(one.count);
    const taps = shadow.soft > 0 ? DISC : [[0, 0] as const];
    for (const [u, v] of taps) {
      this.moveTowardsLight(one, u, v);
      this.moved.moved(one, this.plane, this.dx, this.dy);
      this.cover(this.moved, beside, true);
      for (let i = 0; i < one.count; i++) sum[i] += beside[i] / taps.length;
    }
    for (let i = 0; i < samples.count; i++) {
      if (sum[first[i]] === 0) continue;
      const k = 1 - shadow.strength * sum[first[i]];
      for (let c = 0; c < 3; c++) state.values[i * STATE_VALUES + S.color + c] *= k;
      state.changed[i] |= CHANGED.color;
    }
  }

  /** Takes the first sample of each texel into `one`. @returns for each sample which of them is its texel's */
  private firstOfTexels(samples: Samples): Uint16Array {
    const { one, first } = this;
    one.count = 0;
    for (let i = 0; i < samples.count; i++) {
      if (i === 0 || samples.texel[i] !== samples.texel[i - 1]) one.take(samples, i);
      first[i] = one.count - 1;
    }
    return first;
  }

  /** Steps in px from each sample against the shadow's way, and to a point of the disc around it. */
  private moveTowardsLight(samples: Samples, u: number, v: number): void {
    const shadow = this.line.how.shadow as NonNullable<RecipeLine['how']['shadow']>;
    const [x, y, z] = shadow.towards;
    const far = shadow.distance / 1000;
    const wide = shadow.soft / 2000;
    const px = new Float64Array(2);
    for (let i = 0; i < samples.count; i++) {
      // The way along the surface, in the frame of the sample.
      let a = x * samples.tx[i] + y * samples.ty[i] + z * samples.tz[i];
      let b = x * samples.bx[i] + y * samples.by[i] + z * samples.bz[i];
      const l = Math.sqrt(a * a + b * b);
      const k = l > 1e-6 ? -far / l : 0;
      a *= k;
      b *= k;
      a += u * wide;
      b += v * wide;
      inPx(
        this.plane.steps,
        samples.triangle[i],
        a * samples.tx[i] + b * samples.bx[i],
        a * samples.ty[i] + b * samples.by[i],
        a * samples.tz[i] + b * samples.bz[i],
        px,
      );
      this.dx[i] = px[0];
      this.dy[i] = px[1];
    }
  }
}

/** Px of the sheet that lead as far as a way (x, y, z) on the plane of a triangle. */
function inPx(steps: PxSteps, t: number, x: number, y: number, z: number, out: Float64Array): void {
  const o = t * 6;
  const ax = steps[o];
  const ay = steps[o + 1];
  const az = steps[o + 2];
  const bx = steps[o + 3];
  const by = steps[o + 4];
  const bz = steps[o + 5];
  const aa = ax * ax + ay * ay + az * az;
  const ab = ax * bx + ay * by + az * bz;
  const bb = bx * bx + by * by + bz * bz;
  const det = aa * bb - ab * ab;
  if (!(det > 0)) {
    out[0] = out[1] = 0;
    return;
  }
  const p = ax * x + ay * y + az * z;
  const q = bx * x + by * y + bz * z;
  out[0] = (p * bb - q * ab) / det;
  out[1] = (q * aa - p * ab) / det;
}
