import type { RecipeChannel } from '../../decisions/recipe/look.ts';
import type { BlendMode, How } from '../../decisions/recipe/recipe.ts';
import { AT, LOOK_VALUES } from '../looks/reader.ts';
import type { Samples } from '../samples.ts';
import { blended, reoriented } from './modes.ts';
import { CHANGED, S, STATE_VALUES, type State } from './state.ts';

/** Values that are blended one by one: where each stands in a look and in the state. */
interface Moved {
  from: number;
  to: number;
  bit: number;
}

const three = (from: number, to: number, bit: number): Moved[] =>
  [0, 1, 2].map((c) => ({ from: from + c, to: to + c, bit }));

const MOVED: Partial<Record<RecipeChannel, Moved[]>> = {
  color: three(AT.color, S.color, CHANGED.color),
  occlusion: [{ from: AT.occlusion, to: S.occlusion, bit: CHANGED.orm }],
  roughness: [{ from: AT.roughness, to: S.roughness, bit: CHANGED.orm }],
  metallic: [{ from: AT.metallic, to: S.metallic, bit: CHANGED.orm }],
  emissive: three(AT.emissive, S.emissive, CHANGED.emissive),
};

/** Values that stay within 0 … 1; emissive ones may be brighter. */
const withinUnit = (v: number) => (v < 0 ? 0 : v > 1 ? 1 : v);

/** Lays a look over what is there. */
export class LookLayer {
  /** Where each value that is blended stands in a look, and in the state. */
  private readonly from: Int32Array;
  private readonly to: Int32Array;
  private readonly bits: number;
  private readonly mode: BlendMode;
  private readonly normals: How['normals'] | null;
  private readonly alpha: boolean;
  private readonly bent = new Float64Array(3);
  private readonly detail = new Float64Array(3);

  /** @param channels that are written */
  constructor(channels: readonly RecipeChannel[], how: How) {
    const moved = channels.flatMap((channel) => MOVED[channel] ?? []);
    this.from = Int32Array.from(moved, ({ from }) => from);
    this.to = Int32Array.from(moved, ({ to }) => to);
    this.bits = moved.reduce((bits, { bit }) => bits | bit, 0);
    this.mode = how.mode;
    this.normals = channels.includes('normal') ? how.normals : null;
    this.alpha = channels.includes('alpha');
  }

  /**
   * @param look `LOOK_VALUES` a sample @param mask how much of it is laid @param alpha that it brings where it writes opacity; its place is then not
   * in the mask
   */
  lay(state: State, samples: Samples, look: Float32Array, mask: Float32Array, alpha: Float32Array): void {
    const { values, changed } = state;
    if (this.bits > 0) {
      if (this.mode === 'replace') this.replace(values, samples.count, look, mask);
      else this.blend(values, samples.count, look, mask);
      for (let i = 0; i < samples.count; i++) if (mask[i] > 0) changed[i] |= this.bits;
    }
    if (this.alpha)
      for (let i = 0; i < samples.count; i++) {
        if (mask[i] === 0) continue;
        const o = i * STATE_VALUES + S.alpha;
        values[o] = withinUnit(blended(this.mode, values[o], alpha[i], mask[i]));
        changed[i] |= CHANGED.color;
      }
    if (this.normals)
      for (let i = 0; i < samples.count; i++) if (mask[i] > 0) this.bend(state, samples, i, look, mask[i]);
  }

  /** The mode that nearly every line has: between what is there and the look. */
  private replace(values: Float32Array, count: number, look: Float32Array, mask: Float32Array): void {
    const { from, to } = this;
    const n = from.length;
    for (let i = 0; i < count; i++) {
      const m = mask[i];
      if (m === 0) continue;
      const q = i * LOOK_VALUES;
      const o = i * STATE_VALUES;
      for (let k = 0; k < n; k++) values[o + to[k]] += (look[q + from[k]] - values[o + to[k]]) * m;
    }
  }

  private blend(values: Float32Array, count: number, look: Float32Array, mask: Float32Array): void {
    for (let i = 0; i < count; i++) {
      if (mask[i] === 0) continue;
      for (let k = 0; k < this.from.length; k++) {
        const at = i * STATE_VALUES + this.to[k];
        const v = blended(this.mode, values[at], look[i * LOOK_VALUES + this.from[k]], mask[i]);
        values[at] = this.to[k] >= S.emissive ? Math.max(0, v) : withinUnit(v);
      }
    }
  }

  private bend({ values, changed }: State, samples: Samples, i: number, look: Float32Array, m: number): void {
    const { bent, detail, normals } = this;
    const o = i * STATE_VALUES;
    const q = i * LOOK_VALUES + AT.tilt;
    tangentNormal(samples, i, look[q], look[q + 1], look[q + 2], normals === 'combine' ? m : 1, detail);
    if (normals === 'combine') reoriented(values, o + S.detail, detail, 0, bent);
    else if (m < 1) mixed(values, o + S.detail, detail, m, bent);
    const laid = normals !== 'combine' && m === 1 ? detail : bent;
    values[o + S.detail] = laid[0];
    values[o + S.detail + 1] = laid[1];
    values[o + S.detail + 2] = laid[2];
    if (normals === 'replace') {
      mixed(values, o + S.shape, FLAT, m, bent);
      for (let c = 0; c < 3; c++) values[o + S.shape + c] = bent[c];
    }
    changed[i] |= CHANGED.normal;
  }
}

const FLAT = Float64Array.of(0, 0, 1);

/** A tilt in object space as a normal of length 1 in a sample's frame. @param share of the tilt */
export function tangentNormal(
  samples: Samples,
  i: number,
  x: number,
  y: number,
  z: number,
  share: number,
  out: Float64Array,
): void {
  const u = share * (x * samples.tx[i] + y * samples.ty[i] + z * samples.tz[i]);
  const v = share * (x * samples.bx[i] + y * samples.by[i] + z * samples.bz[i]);
  const scale = 1 / Math.sqrt(u * u + v * v + 1);
  out[0] = u * scale;
  out[1] = v * scale;
  out[2] = scale;
}

/** Between two directions, of length 1. @param o of the first of them in `a` */
function mixed(a: Float32Array, o: number, b: Float64Array, m: number, out: Float64Array): void {
  const x = a[o] + (b[0] - a[o]) * m;
  const y = a[o + 1] + (b[1] - a[o + 1]) * m;
  const z = a[o + 2] + (b[2] - a[o + 2]) * m;
  const scale = 1 / (Math.sqrt(x * x + y * y + z * z) || 1);
  out[0] = x * scale;
  out[1] = y * scale;
  out[2] = z * scale;
}
