import { difference, type Lab, type Rgb, toLab, toRgb } from '../image/oklab.ts';

/** A surface of one look: its colour and what else a palette carries. */
interface Paint {
  /** sRGB, bytes. */
  colour: readonly [number, number, number];
  /** Bytes. */
  metallic: number;
  roughness: number;
  /** sRGB, bytes. */
  emissive: readonly [number, number, number];
}

export interface Painted extends Paint {
  /** How much of it there is, m². */
  area: number;
}

export interface Swatch extends Paint {
  area: number;
  /** Greatest ΔE OK × 100 of what it stands for. */
  error: number;
}

export interface Palette {
  swatches: Swatch[];
  /** Swatch of each paint given. */
  of: Uint32Array;
  /** ΔE OK × 100 over all paints, by area, and the greatest. */
  meanError: number;
  maxError: number;
}

const lab = (c: readonly [number, number, number]): Lab => toLab(c.map((v) => v / 255) as unknown as Rgb);

/** Looks that differ in these are never one swatch, unless they are as near as this, in bytes. */
const SAME_VALUE = 2;

/**
 * Gathers paints into at most so many swatches. Equal paints are one; where there are still too many, k-means in OKLab, weighted by area, from
 * the heaviest and then always the one that is farthest off (after Gonzalez 1985). Paints whose metallic, roughness or emissive differ stay
 * apart. Every swatch that stands for one paint alone has its colour to the byte.
 * @throws Error when the looks that must stay apart are more than the swatches
 */
export function gatherPalette(paints: readonly Painted[], most: number): Palette {
  const distinct = new Map<string, { paint: Painted; lab: Lab; members: number[] }>();
  paints.forEach((paint, i) => {
    const key = [...paint.colour, paint.metallic, paint.roughness, ...paint.emissive].join();
    const known = distinct.get(key);
    if (known) {
      known.members.push(i);
      known.paint = { ...known.paint, area: known.paint.area + paint.area };
    } else distinct.set(key, { paint: { ...paint }, lab: lab(paint.colour), members: [i] });
  });
  const all = [...distinct.values()];
  const looks = new Map<string, typeof all>();
  const round = (v: number) => Math.round(v / SAME_VALUE);
  for (const d of all) {
    const { metallic, roughness, emissive } = d.paint;
    const key = [round(metallic), round(roughness), ...emissive.map(round)].join();
    looks.set(key, [...(looks.get(key) ?? []), d]);
  }
  if (looks.size > most)
    throw new Error(`${looks.size} looks differ in metallic, roughness or emissive; ${most} swatches are too few`);
  const centres = startingCentres([...looks.values()], most);
  const groups = centres.map((centre) => ({ ...centre, members: [] as typeof all }));
  for (let round = 0; round < 40; round++) {
    for (const group of groups) group.members = [];
    for (const list of looks.values())
      for (const d of list) {
        const near = groups.filter((group) => group.look === list);
        const best = near.reduce((b, g) => (difference(g.centre, d.lab) < difference(b.centre, d.lab) ? g : b));
        best.members.push(d);
      }
    let moved = false;
    for (const group of groups) {
      const area = group.members.reduce((sum, member) => sum + member.paint.area, 0);
      if (group.members.length === 0) continue;
      const weight = (d: (typeof all)[number]) => (area > 0 ? d.paint.area / area : 1 / group.members.length);
      const next = [0, 1, 2].map((k) =>
        group.members.reduce((sum, member) => sum + member.lab[k] * weight(member), 0),
      ) as unknown as Lab;
      if (difference(next, group.centre) > 1e-4) moved = true;
      group.centre = next;
    }
    if (!moved) break;
  }
  const swatches: Swatch[] = [];
  const of = new Uint32Array(paints.length);
  let [sum, total, worst] = [0, 0, 0];
  for (const group of groups) {
    if (group.members.length === 0) continue;
    const single = group.members.length === 1 ? group.members[0].paint : null;
    const heaviest = group.members.reduce((a, member) => (member.paint.area > a.paint.area ? member : a)).paint;
    const colour = single?.colour ?? (toRgb(group.centre).map((v) => Math.round(v * 255)) as [number, number, number]);
    const to = lab(colour);
    const error = Math.max(...group.members.map((member) => difference(member.lab, to)));
    for (const member of group.members) {
      for (const i of member.members) of[i] = swatches.length;
      sum += difference(member.lab, to) * member.paint.area;
      total += member.paint.area;
    }
    worst = Math.max(worst, error);
    const area = group.members.reduce((sum, member) => sum + member.paint.area, 0);
    const { metallic, roughness, emissive } = heaviest;
    swatches.push({ colour, metallic, roughness, emissive, area, error });
  }
  return { swatches, of, meanError: total > 0 ? sum / total : 0, maxError: worst };
}

interface Entry {
  paint: Painted;
  lab: Lab;
  members: number[];
}

/** The heaviest paint of each look, then always that which is farthest from its nearest centre. */
function startingCentres(looks: Entry[][], most: number): { look: Entry[]; centre: Lab }[] {
  const out = looks.map((look) => ({
    look,
    centre: look.reduce((entry, b) => (b.paint.area > entry.paint.area ? b : entry)).lab,
  }));
  while (out.length < most) {
    let far = 0;
    let next: { look: Entry[]; centre: Lab } | null = null;
    for (const look of looks)
      for (const entry of look) {
        const own = out.filter((c) => c.look === look);
        const off = Math.min(...own.map((c) => difference(c.centre, entry.lab)));
        if (off > far + 1e-9) {
          far = off;
          next = { look, centre: entry.lab };
        }
      }
    if (!next) break;
    out.push(next);
  }
  return out;
}

export type SwatchOrder = 'hue' | 'use';

/** Chroma below which a colour has no hue to speak of. */
const GREY = 0.02;

/** Positions of swatches in order: greys by lightness first, then by hue in twelfths and lightness; or by how much each is used. */
export function orderSwatches(swatches: readonly Swatch[], order: SwatchOrder): number[] {
  const rank = swatches.map((swatch) => {
    const [L, a, b] = lab(swatch.colour);
    const grey = Math.sqrt(a * a + b * b) < GREY;
    const hue = (Math.atan2(b, a) / (2 * Math.PI) + 1) % 1;
    return { grey, hue: Math.floor(hue * 12), L };
  });
  return swatches
    .map((_, i) => i)
    .sort((i, j) => {
      if (order === 'use') return swatches[j].area - swatches[i].area || i - j;
      const [p, q] = [rank[i], rank[j]];
      if (p.grey !== q.grey) return p.grey ? -1 : 1;
      return (p.grey ? 0 : p.hue - q.hue) || p.L - q.L || i - j;
    });
}

/** Ends of a ramp in OKLab lightness, where the colour itself is not beyond. */
const DARKEST = 0.12;
const LIGHTEST = 0.98;

/**
 * A ramp through a colour: so many steps from darker to lighter, the colour itself in the middle, to the byte; on either side in even steps of
 * OKLab lightness, as far as there is room. Chroma falls towards both ends, and as far as sRGB needs it to keep the lightness.
 */
export function ramp(
  colour: readonly [number, number, number],
  steps: number,
  reach = 0.3,
): [number, number, number][] {
  const [L, a, b] = lab(colour);
  const middle = (steps - 1) / 2;
  const down = Math.min(reach, Math.max(0, L - DARKEST));
  const up = Math.min(reach, Math.max(0, LIGHTEST - L));
  return Array.from({ length: steps }, (_, i) => {
    const t = middle > 0 ? (i - middle) / middle : 0;
    if (t === 0) return [...colour] as [number, number, number];
    const to = L + t * (t < 0 ? down : up);
    return inGamut(to, a, b, 1 - 0.35 * Math.abs(t)).map((v) => Math.round(v * 255)) as [number, number, number];
  });
}

/** The colour of a lightness with at most a share of some chroma, as much as sRGB has. */
function inGamut(L: number, a: number, b: number, share: number): Rgb {
  const at = (k: number): { rgb: Rgb; inside: boolean } => {
    const wanted: Lab = [L, a * k, b * k];
    const rgb = toRgb(wanted);
    return { rgb, inside: difference(toLab(rgb), wanted) < 0.1 };
  };
  let best = at(share);
  if (best.inside) return best.rgb;
  let [low, high] = [0, share];
  best = at(0);
  for (let i = 0; i < 12; i++) {
    const mid = (low + high) / 2;
    const now = at(mid);
    if (now.inside) {
      low = mid;
      best = now;
    } else high = mid;
  }
  return best.rgb;
}

/** Where a swatch lies on a palette texture, px and UV. */
export interface SwatchPlace {
  x: number;
  y: number;
  /** Middle, V down. */
  u: number;
  v: number;
}

/** A power of two that holds all swatches in rows from the upper left. @throws Error when that is above 8192 px */
export function placeSwatches(count: number, swatch: number): { size: number; columns: number; places: SwatchPlace[] } {
  let size = 4;
  while (Math.floor(size / swatch) ** 2 < count) {
    size *= 2;
    if (size > 8192) throw new Error(`${count} swatches of ${swatch} px do not fit on 8192 px`);
  }
  const columns = Math.floor(size / swatch);
  const places = Array.from({ length: count }, (_, i) => {
    const [x, y] = [(i % columns) * swatch, Math.floor(i / columns) * swatch];
    return { x, y, u: (x + swatch / 2) / size, v: (y + swatch / 2) / size };
  });
  return { size, columns, places };
}
