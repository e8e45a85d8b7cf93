import type { Change } from '../../decisions/recipe/look.ts';
import { labToLinear, linearToLab } from '../../image/oklab.ts';
import { linearOf } from '../../image/srgb.ts';
import { CHANGED, S, STATE_VALUES, type State } from './state.ts';

/** Changes the values that begin at `o`, by a share. */
type Changer = (values: Float32Array, o: number, m: number) => void;

const withinUnit = (v: number) => (v < 0 ? 0 : v > 1 ? 1 : v);

/** Lines that change what is there. */
export class ChangeLayer {
  private readonly change: Changer;
  private readonly bit: number;

  constructor(change: Change) {
    this.change = changerOf(change);
    const orm = change.change === 'roughen' || (change.change === 'levels' && change.channel !== 'color');
    this.bit = orm ? CHANGED.orm : CHANGED.color;
  }

  lay({ values, changed }: State, count: number, mask: Float32Array): void {
    for (let i = 0; i < count; i++) {
      if (mask[i] === 0) continue;
      this.change(values, i * STATE_VALUES, mask[i]);
      changed[i] |= this.bit;
    }
  }
}

function changerOf(change: Change): Changer {
  switch (change.change) {
    case 'multiply': {
      const by = linearOf(change.color);
      return eachColour((v, m, c) => v * (1 + (by[c] - 1) * m));
    }
    case 'lighten':
      return eachColour((v, m) => v + (1 - v) * change.by * m);
    case 'darken':
      return eachColour((v, m) => v * (1 - change.by * m));
    case 'roughen':
      return (values, o, m) => {
        values[o + S.roughness] = withinUnit(values[o + S.roughness] + change.by * m);
      };
    case 'levels':
      return levels(change);
    case 'tint': {
      const wanted = [0, 0, 0];
      linearToLab(...linearOf(change.color), wanted);
      return inLab((lab) => {
        lab[1] = wanted[1];
        lab[2] = wanted[2];
      });
    }
    case 'hue': {
      const angle = (change.degrees * Math.PI) / 180;
      const [cos, sin] = [Math.cos(angle) * change.chroma, Math.sin(angle) * change.chroma];
      return inLab((lab) => {
        const [l, a, b] = lab;
        lab[0] = l + change.lightness;
        lab[1] = cos * a - sin * b;
        lab[2] = sin * a + cos * b;
      });
    }
  }
}

const eachColour =
  (of: (v: number, m: number, channel: number) => number): Changer =>
  (values, o, m) => {
    for (let c = 0; c < 3; c++) values[o + c] = withinUnit(of(values[o + c], m, c));
  };

/** A change of the colour in OKLab, blended in linear light. @param change of the three values in place */
function inLab(change: (lab: [number, number, number]) => void): Changer {
  const lab: [number, number, number] = [0, 0, 0];
  return (values, o, m) => {
    linearToLab(values[o], values[o + 1], values[o + 2], lab);
    change(lab);
    const to = labToLinear(lab);
    for (let c = 0; c < 3; c++) values[o + c] += (withinUnit(to[c]) - values[o + c]) * m;
  };
}

function levels(change: Extract<Change, { change: 'levels' }>): Changer {
  const { black, white, gamma } = change;
  const span = Math.max(1e-6, white - black);
  const of = (v: number) => withinUnit((v - black) / span) ** (1 / gamma);
  const first = change.channel === 'color' ? S.color : S[change.channel];
  const count = change.channel === 'color' ? 3 : 1;
  return (values, o, m) => {
    for (let k = o + first; k < o + first + count; k++) values[k] += (of(values[k]) - values[k]) * m;
  };
}
