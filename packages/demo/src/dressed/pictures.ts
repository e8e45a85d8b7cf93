import { writePng } from '@wembrel/core/image/png';
import { type Cell, cellsAt, layered } from '@wembrel/core/recipes/noise/periodic';
import { type Look, paint } from '../looks.ts';
import { inkOf, textWidth } from './lettering.ts';

const clamp = (v: number) => Math.min(1, Math.max(0, v));
const mix = (a: number, b: number, t: number) => a + (b - a) * t;
const step = (a: number, b: number, v: number) => {
  const t = clamp((v - a) / (b - a));
  return t * t * (3 - 2 * t);
};
const blend = (a: readonly number[], b: readonly number[], t: number): [number, number, number] => [
  mix(a[0], b[0], t),
  mix(a[1], b[1], t),
  mix(a[2], b[2], t),
];

/** Slabs of cast stone: two in a row and two rows, the second moved by half a slab. */
const paving: Look = (u, v) => {
  const rows = 2;
  const row = Math.floor(v * rows);
  const x = u * 2 + (row % 2) * 0.5;
  const [fx, fy] = [x - Math.floor(x), v * rows - row];
  const wobble = (layered(u, v, 12, 2, 7) - 0.5) * 0.012;
  const joint = Math.min(Math.min(fx, 1 - fx), Math.min(fy, 1 - fy)) + wobble;
  const face = step(0.012, 0.036, joint);
  const slab = ((Math.floor(x) % 2) + 2) % 2;
  const tone = layered(u, v, 6, 5, 21 + row * 3);
  const grain = layered(u, v, 90, 2, 31);
  const own = [0.35, 0.62, 0.8, 0.5][row * 2 + slab];
  return {
    color: blend(
      [78, 74, 68],
      blend([138, 134, 126], [176, 171, 160], clamp(tone * 0.5 + own * 0.3 + grain * 0.3)),
      face,
    ),
    roughness: mix(0.95, 0.82 - grain * 0.08, face),
    metallic: 0,
    occlusion: mix(0.55, 1, face),
    height: face * 5 + grain * 0.7 + tone * 0.8,
  };
};

/** Washed gravel. */
const gravel: Look = (u, v) => {
  const warp = layered(u, v, 10, 2, 41) * 0.5;
  const cell: Cell = { near: 0, next: 0, id: 0 };
  cellsAt(u * 26 + warp, v * 26 - warp, 26, 43, cell);
  const stone = step(0.02, 0.34, cell.next - cell.near);
  const { id } = cell;
  const grain = layered(u, v, 80, 2, 47);
  const hue = id < 0.25 ? [150, 128, 104] : id < 0.55 ? [128, 124, 118] : id < 0.8 ? [104, 100, 98] : [178, 168, 150];
  return {
    color: blend([58, 54, 48], hue.map((c) => c * mix(0.88, 1.08, grain)) as [number, number, number], stone),
    roughness: mix(0.95, 0.8, stone),
    metallic: 0,
    occlusion: mix(0.42, 1, stone),
    height: stone * (5 + id * 3) + grain * 0.6,
  };
};

/** Two sets of loose textures for cells of the platform, 1 m and 0.6 m wide. @param side px */
export function groundTextures(side = 512): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = {};
  for (const [name, look] of Object.entries({ paving, gravel })) {
    const maps = paint(look, side);
    out[`${name}_basecolor.png`] = maps.baseColor;
    out[`${name}_orm.png`] = maps.orm;
    out[`${name}_normal.png`] = maps.normal;
  }
  return out;
}

/** The emblem of the parcel service: a box in a ring, and its name below; clear around. @param side px */
export function parcelEmblem(side = 512): Uint8Array {
  const data = new Uint8Array(side * side * 4);
  const ink = [242, 238, 226];
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const [u, v] = [((x + 0.5) / side) * 2 - 1, ((y + 0.5) / side) * 2 - 1];
      const px = 2 / side;
      const cover = (d: number) => clamp(d / px + 0.5);
      const length = Math.hypot(u, v + 0.24);
      const ring = cover(0.05 - Math.abs(length - 0.62));
      const half = 0.32;
      const box = cover(0.035 - Math.abs(Math.max(Math.abs(u), Math.abs(v + 0.2)) - half));
      const tape = cover(0.05 - Math.abs(u)) * cover(half - Math.abs(v + 0.2));
      const lid = cover(0.03 - Math.abs(v + 0.3)) * cover(half - Math.abs(u));
      const dots = textWidth('PARCELS');
      const size = 1.72 / dots;
      const text = cover(inkOf('PARCELS', (u + 0.86) / size, (v - 0.62) / size) * size);
      data.set([...ink, Math.round(255 * Math.max(ring, box, tape, lid, text))], (y * side + x) * 4);
    }
  return writePng(data, side, side, 4);
}

/** The name of the stop in one line, for a decal six times as wide as high. @param height px */
export function stopName(height = 128): Uint8Array {
  const width = height * 6;
  const data = new Uint8Array(width * height * 4);
  const text = 'QUILLMOOR HALT';
  const size = width / (textWidth(text) + 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const d = inkOf(text, (x + 0.5) / size - 2, (y + 0.5 - height / 2) / size + 3.5) * size;
      data.set([236, 232, 220, Math.round(255 * clamp(d + 0.5))], (y * width + x) * 4);
    }
  return writePng(data, width, height, 4);
}
