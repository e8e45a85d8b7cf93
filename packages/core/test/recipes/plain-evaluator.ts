import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { RecipeSurface } from '@wembrel/core/recipes/surface';

/**
 * A recipe evaluated from its definitions: one texel after another, in double precision, with nothing shared with the evaluator that ships. It knows the conditions and
 * looks that random recipes are made of; one sample a texel.
 */
export interface PlainPicture {
  width: number;
  height: number;
  /** Linear R G B A of a texel. */
  at: (x: number, y: number) => readonly number[];
  metres: number;
}

type Vec = readonly [number, number, number];

interface Point {
  p: Vec;
  n: Vec;
  part: number;
  px: number;
  py: number;
}

const clamp = (v: number) => Math.min(1, Math.max(0, v));
const toLinear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const toSrgb = (v: number) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);
const linearHex = (hex: string) => [1, 3, 5].map((i) => toLinear(Number.parseInt(hex.slice(i, i + 2), 16) / 255));

export function plainColours(
  recipe: Recipe,
  surface: RecipeSurface,
  picture: PlainPicture,
  ao: (x: number, y: number) => number,
  maps: SheetMaps,
): { colours: Uint8Array; covered: Uint8Array } {
  const colours = new Uint8Array(surface.width * surface.height * 3);
  const covered = new Uint8Array(surface.width * surface.height);
  for (let y = 0; y < surface.height; y++)
    for (let x = 0; x < surface.width; x++) {
      const point = pointAt(surface, x + 0.5, y + 0.5);
      if (!point) continue;
      const i = y * surface.width + x;
      covered[i] = 1;
      let colour = [0, 1, 2].map((c) => toLinear(maps.baseColor[i * 4 + c] / 255));
      for (const line of recipe.lines) {
        if (line.off) continue;
        const where = line.where ? clamp(value(line.where, recipe, surface, point, ao)) : 1;
        colour = laid(line, colour, where * line.how.strength, point, picture);
      }
      colour.forEach((v, c) => {
        colours[i * 3 + c] = Math.round(255 * toSrgb(clamp(v)));
      });
    }
  return { colours, covered };
}

/** The point that the middle of a texel shows; none where two triangles are about as near, or none is. */
function pointAt(surface: RecipeSurface, px: number, py: number): Point | null {
  const { place: q, positions, normals } = surface;
  for (let t = 0; t < surface.count; t++) {
    const [ax, ay, bx, by, cx, cy] = q.subarray(t * 6, t * 6 + 6);
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const b = ((px - ax) * (cy - ay) - (cx - ax) * (py - ay)) / det;
    const c = ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) / det;
    if (b < 0 || c < 0 || b + c > 1) continue;
    const mix = (values: Float32Array) =>
      [0, 1, 2].map((k) => (1 - b - c) * values[t * 9 + k] + b * values[t * 9 + 3 + k] + c * values[t * 9 + 6 + k]);
    const n = mix(normals);
    const length = Math.hypot(...n);
    return {
      p: mix(positions) as unknown as Vec,
      n: n.map((v) => v / length) as unknown as Vec,
      part: surface.part[t],
      px,
      py,
    };
  }
  return null;
}

function value(
  condition: Condition,
  recipe: Recipe,
  surface: RecipeSurface,
  point: Point,
  ao: (x: number, y: number) => number,
): number {
  const again = (one: Condition) => value(one, recipe, surface, point, ao);
  if ('use' in condition) return again(recipe.conditions[condition.use]);
  if ('not' in condition) return 1 - again(condition.not);
  if ('all' in condition) {
    const values = condition.all.map(again);
    return condition.by === 'product' ? values.reduce((a, b) => a * b, 1) : Math.min(...values);
  }
  if ('any' in condition) return Math.max(...condition.any.map(again));
  const stretch = (v: number, { from, to, soft }: { from: number | null; to: number | null; soft: number }) => {
    const smooth = (t: number) => clamp(t) ** 2 * (3 - 2 * clamp(t));
    const up = from === null ? 1 : soft > 0 ? smooth((v - from) / soft + 0.5) : Number(v >= from);
    const down = to === null ? 1 : soft > 0 ? smooth((to - v) / soft + 0.5) : Number(v <= to);
    return up * down;
  };
  const { p, n, part } = point;
  const own = surface.parts[part];
  switch (condition.of) {
    case 'slot':
      return Number(condition.names.includes(own.slot));
    case 'part':
      return Number(condition.names.includes(own.name));
    case 'facing': {
      const cosine = n.reduce((sum, v, k) => sum + v * condition.direction[k], 0) / Math.hypot(...condition.direction);
      return stretch((Math.acos(clamp((cosine + 1) / 2) * 2 - 1) * 180) / Math.PI, condition);
    }
    case 'position': {
      const axis = { x: 0, y: 1, z: 2 }[condition.axis];
      if (condition.within === 'world') return stretch(p[axis] * 1000, condition);
      const box = condition.within === 'part' ? own.box : surface.boxes[own.model];
      const [low, high] = [box[axis], box[axis + 3]];
      const metres = condition.end === 'low' ? p[axis] - low : high - p[axis];
      return stretch(condition.unit === 'mm' ? metres * 1000 : high > low ? metres / (high - low) : 0, condition);
    }
    case 'ao':
      return stretch(ao(point.px, point.py), condition);
    case 'noise':
      return stretch(
        noise(
          p.map((v) => v / (condition.size / 1000)),
          condition,
        ),
        condition,
      );
    case 'strokes':
      return Math.max(
        ...condition.points.map(({ at, radius }) => {
          const r = radius / 1000;
          const length = Math.hypot(p[0] - at[0], p[1] - at[1], p[2] - at[2]);
          const t = condition.falloff > 0 ? clamp((r - length) / (r * condition.falloff)) : Number(length <= r);
          return t * t * (3 - 2 * t);
        }),
      );
    default:
      throw new Error(`the plain evaluator does not know ${condition.of}`);
  }
}

/** Value noise as the docs describe it: layers of blended random corners, each half as wide and half as strong. */
function noise(
  cells: readonly number[],
  { kind, layers, seed }: { kind: string; layers: number; seed: number },
): number {
  const corner = (x: number, y: number, z: number, s: number) => {
    let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(z, 0x5bd1e995) ^ Math.imul(s, 0x9e3779b1);
    h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
    h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
    return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32;
  };
  let [sum, total] = [0, 0];
  for (let layer = 0; layer < layers; layer++) {
    const at = cells.map((v) => v * 2 ** layer + layer * 17.31);
    const whole = at.map(Math.floor);
    const s = seed + layer * 7919;
    let v = kind === 'cellular' ? Infinity : 0;
    if (kind === 'cellular') {
      for (let i = 0; i < 27; i++) {
        const [x, y, z] = whole.map((w, k) => w + (Math.floor(i / 3 ** k) % 3) - 1);
        const d = [x, y, z].map((w, k) => w + corner(x, y, z, s + 101 * k) - at[k]);
        v = Math.min(v, Math.hypot(...d));
      }
      v = Math.min(1, v);
    } else
      for (let i = 0; i < 8; i++) {
        const bits = [i & 1, (i >> 1) & 1, (i >> 2) & 1];
        const weight = bits.reduce((w, bit, k) => {
          const f = at[k] - whole[k];
          const fade = f ** 3 * (f * (f * 6 - 15) + 10);
          return w * (bit ? fade : 1 - fade);
        }, 1);
        v += weight * corner(whole[0] + bits[0], whole[1] + bits[1], whole[2] + bits[2], s);
      }
    const strength = 0.5 ** layer;
    sum += strength * (kind === 'ridged' ? 1 - Math.abs(2 * v - 1) : v);
    total += strength;
  }
  return kind === 'value' ? clamp(0.5 + (sum / total - 0.5) * 1.9) : sum / total;
}

function laid(
  line: Recipe['lines'][number],
  colour: number[],
  mask: number,
  point: Point,
  picture: PlainPicture,
): number[] {
  const { what, how } = line;
  if ('change' in what) {
    if (what.change === 'multiply') return colour.map((v, c) => v * (1 + (linearHex(what.color)[c] - 1) * mask));
    if (what.change === 'lighten') return colour.map((v) => v + (1 - v) * what.by * mask);
    if (what.change === 'darken') return colour.map((v) => v * (1 - what.by * mask));
    throw new Error(`the plain evaluator does not know ${what.change}`);
  }
  const { look, lay } = what;
  let [own, alpha] = [[0, 0, 0], 1];
  if (look.from === 'values') own = linearHex(look.color as string);
  else if (lay.by === 'box') own = boxed(point, picture, lay.blend, lay.metres ?? picture.metres);
  else if (lay.by === 'side') [own, alpha] = fromSide(point, picture, lay);
  const m = mask * alpha;
  return colour.map((v, c) => {
    const to = own[c];
    if (how.mode === 'replace') return v + (to - v) * m;
    if (how.mode === 'multiply') return v * (1 + (to - 1) * m);
    if (how.mode === 'add') return clamp(v + to * m);
    const other = how.mode === 'lighten' ? Math.max(v, to) : Math.min(v, to);
    return v + (other - v) * m;
  });
}

/** A picture seen from the sides that the normal faces, each weighed by the square of how far it exceeds the rest. */
function boxed({ p, n }: Point, picture: PlainPicture, blend: number, metres: number): number[] {
  const most = Math.max(...n.map(Math.abs));
  const weights = n.map((v) => (blend > 0 ? Math.max(0, (Math.abs(v) / most - (1 - blend)) / blend) ** 2 : 0));
  if (blend === 0) weights[[2, 0, 1].find((k) => Math.abs(n[k]) === most) as number] = 1;
  const total = weights[0] + weights[1] + weights[2];
  const sum = [0, 0, 0];
  const [x, y, z] = p;
  const sign = n.map((v) => (v < 0 ? -1 : 1));
  const places = [
    [-z * sign[0], -y],
    [x, z * sign[1]],
    [x * sign[2], -y],
  ];
  weights.forEach((w, k) => {
    if (w === 0) return;
    const texel = bilinear(
      picture,
      places[k][0] / metres,
      places[k][1] / ((metres * picture.height) / picture.width),
      true,
    );
    for (let c = 0; c < 3; c++) sum[c] += (w / total) * texel[c];
  });
  return sum;
}

function fromSide(
  { p, n }: Point,
  picture: PlainPicture,
  lay: { at: Vec; direction: Vec; up: Vec; width: number; height: number; depth: number; facing: number; turn: number },
): [number[], number] {
  const unit = (v: readonly number[]) => v.map((x) => x / Math.hypot(...v)) as unknown as Vec;
  const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const out = unit(lay.direction);
  const up = unit(lay.up.map((v, k) => v - dot(lay.up, out) * out[k]));
  const right = [up[1] * out[2] - up[2] * out[1], up[2] * out[0] - up[0] * out[2], up[0] * out[1] - up[1] * out[0]];
  const angle = (lay.turn * Math.PI) / 180;
  const r = right.map((v, k) => v * Math.cos(angle) + up[k] * Math.sin(angle));
  const u = up.map((v, k) => v * Math.cos(angle) - right[k] * Math.sin(angle));
  const d = p.map((v, k) => v - lay.at[k]);
  const [s, t] = [dot(d, r) / lay.width + 0.5, 0.5 - dot(d, u) / lay.height];
  const inside = s >= 0 && s <= 1 && t >= 0 && t <= 1 && Math.abs(dot(d, out)) <= lay.depth;
  if (!inside || dot(n, out) < Math.cos((lay.facing * Math.PI) / 180)) return [[0, 0, 0], 0];
  const texel = bilinear(picture, s, t, false);
  return [texel.slice(0, 3), texel[3]];
}

function bilinear({ width, height, at }: PlainPicture, u: number, v: number, repeats: boolean): number[] {
  const [x, y] = [u * width - 0.5, v * height - 0.5];
  const [fx, fy] = [x - Math.floor(x), y - Math.floor(y)];
  const fit = (i: number, n: number) => (repeats ? ((i % n) + n) % n : Math.min(n - 1, Math.max(0, i)));
  const out = [0, 0, 0, 0];
  for (const j of [0, 1])
    for (const i of [0, 1]) {
      const w = (i ? fx : 1 - fx) * (j ? fy : 1 - fy);
      at(fit(Math.floor(x) + i, width), fit(Math.floor(y) + j, height)).forEach((value, c) => {
        out[c] += w * value;
      });
    }
  return out;
}
