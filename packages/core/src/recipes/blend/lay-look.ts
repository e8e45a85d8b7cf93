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
  private readonly moved: Moved[];
  private readonly mode: BlendMode;
  private readonly normals: How['normals'] | null;
  private readonly alpha: boolean;
  private readonly bent = new Float64Array(3);

  /** @param channels that are written */
  constructor(channels: readonly RecipeChannel[], how: How) {
    this.moved = channels.flatMap((channel) => MOVED[channel] ?? []);
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
    for (let i = 0; i < samples.count; i++) {
      const m = mask[i];
      if (m === 0) continue;
      const [o, q] = [i * STATE_VALUES, i * LOOK_VALUES];
      for (const { from, to, bit } of this.moved) {
        const v = blended(this.mode, values[o + to], look[q + from], m);
        values[o + to] = bit === CHANGED.emissive ? Math.max(0, v) : withinUnit(v);
        changed[i] |= bit;
      }
      if (this.alpha) {
        values[o + S.alpha] = withinUnit(blended(this.mode, values[o + S.alpha], alpha[i], m));
        changed[i] |= CHANGED.color;
      }
      if (this.normals) this.bend(state, samples, i, look, m);
    }
  }

  private bend(state: State, samples: Samples, i: number, look: Float32Array, m: number): void {
    const { bent } = this;
    const o = i * STATE_VALUES + S.normal;
    const q = i * LOOK_VALUES + AT.tilt;
    const { values } = state;
    const detail = tangentNormal(samples, i, look[q], look[q + 1], look[q + 2], this.normals === 'combine' ? m : 1);
    if (this.normals === 'combine') reoriented([values[o], values[o + 1], values[o + 2]], detail, bent);
    else mixed([values[o], values[o + 1], values[o + 2]], detail, m, bent);
    for (let c = 0; c < 3; c++) values[o + c] = bent[c];
    state.changed[i] |= CHANGED.normal;
  }
}

/** A tilt in object space as a normal of length 1 in a sample's frame. @param share of the tilt */
export function tangentNormal(samples: Samples, i: number, x: number, y: number, z: number, share: number): number[] {
  const u = share * (x * samples.tx[i] + y * samples.ty[i] + z * samples.tz[i]);
  const v = share * (x * samples.bx[i] + y * samples.by[i] + z * samples.bz[i]);
  const l = Math.sqrt(u * u + v * v + 1);
  return [u / l, v / l, 1 / l];
}

/** Between two directions, of length 1. */
function mixed(a: readonly number[], b: readonly number[], m: number, out: Float64Array): void {
  let l = 0;
  for (let c = 0; c < 3; c++) {
    out[c] = a[c] + (b[c] - a[c]) * m;
    l += out[c] * out[c];
  }
  l = Math.sqrt(l) || 1;
  for (let c = 0; c < 3; c++) out[c] /= l;
}
