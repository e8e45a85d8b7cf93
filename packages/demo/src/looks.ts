import { writePng } from '@wembrel/core/image/png';
import { layered, valueNoise } from '@wembrel/core/recipes/noise/periodic';

/** What a surface looks like at a point of its 0–1 square; heights in texels. */
interface Point {
  color: [number, number, number];
  roughness: number;
  metallic: number;
  occlusion: number;
  height: number;
  emissive?: [number, number, number];
}

export type Look = (u: number, v: number) => Point;

const mix = (a: number, b: number, t: number) => a + (b - a) * t;
const blend = (a: [number, number, number], b: [number, number, number], t: number): [number, number, number] => [
  mix(a[0], b[0], t),
  mix(a[1], b[1], t),
  mix(a[2], b[2], t),
];
const clamp = (v: number) => Math.min(1, Math.max(0, v));
const step = (a: number, b: number, v: number) => {
  const t = clamp((v - a) / (b - a));
  return t * t * (3 - 2 * t);
};

/** Oiled slats: grain along u. */
export const wood =
  (seed: number): Look =>
  (u, v) => {
    const grain = valueNoise(u * 4, v * 64, 64, seed) * 0.6 + valueNoise(u * 16, v * 128, 128, seed + 9) * 0.4;
    const tone = layered(u, v, 4, 3, seed + 3);
    return {
      color: blend([116, 74, 44], [164, 116, 74], clamp(grain * 0.7 + tone * 0.3)),
      roughness: mix(0.5, 0.72, grain),
      metallic: 0,
      occlusion: mix(0.86, 1, grain),
      height: grain * 1.2,
    };
  };

/** Painted or bare metal with soft wear. */
export const metal =
  (paint: [number, number, number], bare: [number, number, number], wear: number, seed: number): Look =>
  (u, v) => {
    const n = layered(u, v, 6, 4, seed);
    const t = step(1 - wear, 1 - wear + 0.15, n);
    return {
      color: blend(paint, bare, t),
      roughness: mix(0.42, 0.6, layered(u, v, 12, 2, seed + 5)),
      metallic: t,
      occlusion: mix(0.85, 1, n),
      height: n * 2 - t * 0.8,
    };
  };

/** Courses of brick; `across` bricks in a row, twice as many rows. */
export const brick =
  (across: number, seed: number): Look =>
  (u, v) => {
    const rows = across * 2;
    const row = Math.floor(v * rows);
    const x = u * across + (row % 2) * 0.5;
    const fx = x - Math.floor(x);
    const fy = v * rows - row;
    const edge = Math.min(fx * 2, (1 - fx) * 2, fy, 1 - fy);
    const face = step(0.04, 0.12, edge);
    const id = valueNoise(Math.floor(x) + 0.001, row + 0.001, rows, seed);
    const n = layered(u, v, 16, 3, seed + 1);
    return {
      color: blend([150, 140, 126], blend([132, 72, 56], [168, 98, 70], id * 0.7 + n * 0.3), face),
      roughness: mix(0.92, 0.78, face),
      metallic: 0,
      occlusion: mix(0.66, 1, face),
      height: face * 3 + n,
    };
  };

/** Cast stone or concrete. */
export const stone =
  (a: [number, number, number], b: [number, number, number], seed: number): Look =>
  (u, v) => {
    const n = layered(u, v, 5, 5, seed);
    return {
      color: blend(a, b, n),
      roughness: mix(0.8, 0.95, n),
      metallic: 0,
      occlusion: mix(0.82, 1, n),
      height: n * 3,
    };
  };

/** Ribbed zinc sheet: standing seams along v. */
export const zinc =
  (seed: number): Look =>
  (u, v) => {
    const fu = u * 12 - Math.floor(u * 12);
    const seam = step(0.1, 0, Math.min(fu, 1 - fu));
    const n = layered(u, v, 7, 4, seed);
    return {
      color: blend([128, 136, 140], [164, 172, 174], n * 0.8 + seam * 0.2),
      roughness: mix(0.38, 0.55, n),
      metallic: 0.9,
      occlusion: mix(1, 0.9, seam),
      height: seam * 4 + n,
    };
  };

/** A printed sheet of rows and columns, as a timetable. */
export const timetable: Look = (u, v) => {
  const inside = u > 0.06 && u < 0.94 && v > 0.06 && v < 0.94;
  const rows = 22;
  const fy = v * rows - Math.floor(v * rows);
  const columns = 9;
  const fx = u * columns - Math.floor(u * columns);
  const digit = valueNoise(Math.floor(u * columns * 4) + 0.5, Math.floor(v * rows) + 0.5, 256, 77);
  const head = v < 0.16;
  const ink =
    inside && (head ? v > 0.09 && v < 0.14 && u < 0.7 : fy > 0.3 && fy < 0.7 && fx > 0.15 && fx < 0.75 && digit > 0.35);
  return {
    color: ink ? (head ? [24, 84, 92] : [46, 46, 44]) : Math.floor(v * rows) % 2 ? [238, 234, 222] : [228, 224, 210],
    roughness: 0.45,
    metallic: 0,
    occlusion: 1,
    height: 0,
  };
};

/** Enamel with a frame and a bar of lettering. */
export const enamel =
  (ground: [number, number, number], ink: [number, number, number], letters: number): Look =>
  (u, v) => {
    const d = Math.min(u, 1 - u, v, 1 - v);
    const frame = step(0.02, 0.025, d) * step(0.045, 0.04, d);
    const x = (u - 0.15) / 0.7;
    const row = Math.abs(v - 0.5) < 0.18 && x > 0 && x < 1;
    const cell = x * letters - Math.floor(x * letters);
    const glyph =
      row &&
      cell > 0.2 &&
      cell < 0.8 &&
      valueNoise(Math.floor(x * letters * 3) + 0.5, Math.floor(v * 14) + 0.5, 128, letters) > 0.45;
    const t = Math.max(frame, glyph ? 1 : 0);
    return {
      color: blend(ground, ink, t),
      roughness: mix(0.18, 0.24, t),
      metallic: 0,
      occlusion: 1,
      height: t * 0.8,
    };
  };

/** The face of a clock, round in the middle of the square. */
export const clock: Look = (u, v) => {
  const x = u - 0.5;
  const y = v - 0.5;
  const r = Math.sqrt(x * x + y * y) * 2;
  let mark = 0;
  for (let h = 0; h < 12; h++) {
    const a = (h * Math.PI) / 6;
    const px = Math.sin(a);
    const py = -Math.cos(a);
    const along = (x * px + y * py) * 2;
    const off = Math.abs(x * py - y * px) * 2;
    if (along > 0.72 && along < 0.86) mark = Math.max(mark, step(0.035, 0.025, off));
  }
  const hand = (a: number, reach: number, width: number) => {
    const px = Math.sin(a);
    const py = -Math.cos(a);
    const along = (x * px + y * py) * 2;
    return along > -0.1 && along < reach ? step(width + 0.01, width, Math.abs(x * py - y * px) * 2) : 0;
  };
  const ink = Math.max(mark, hand(5.2, 0.45, 0.035), hand(1.9, 0.68, 0.022));
  const rim = step(0.9, 0.93, r);
  return {
    color: blend(blend([236, 232, 218], [38, 40, 42], ink), [60, 70, 72], rim),
    roughness: mix(0.3, 0.5, rim),
    metallic: rim * 0.5,
    occlusion: 1,
    height: rim * 3 + ink * 0.3,
  };
};

/** Opal glass that glows. */
export const lamp: Look = (u, v) => {
  const n = layered(u, v, 3, 3, 501);
  const c: [number, number, number] = [mix(226, 250, n), mix(206, 236, n), mix(160, 198, n)];
  return { color: c, roughness: 0.3, metallic: 0, occlusion: 1, height: n, emissive: [c[0], c[1] * 0.92, c[2] * 0.8] };
};

export interface LookMaps {
  baseColor: Uint8Array;
  /** R occlusion, G roughness, B metallic. */
  orm: Uint8Array;
  normal: Uint8Array;
  emissive: Uint8Array | null;
}

/** Paints a look at a size (as high as wide, when no height is given) and returns its maps as PNG. Normals come from heights by central differences, Y up. */
export function paint(look: Look, size: number, rows = size): LookMaps {
  const n = size * rows;
  const base = new Uint8Array(n * 3);
  const orm = new Uint8Array(n * 3);
  const normal = new Uint8Array(n * 3);
  const height = new Float32Array(n);
  let emissive: Uint8Array | null = null;
  const byte = (v: number) => Math.max(0, Math.min(255, Math.round(v)));
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < size; x++) {
      const i = y * size + x;
      const point = look((x + 0.5) / size, (y + 0.5) / rows);
      for (let c = 0; c < 3; c++) base[i * 3 + c] = byte(point.color[c]);
      orm[i * 3] = byte(point.occlusion * 255);
      orm[i * 3 + 1] = byte(point.roughness * 255);
      orm[i * 3 + 2] = byte(point.metallic * 255);
      height[i] = (point.height * size) / 512;
      if (point.emissive) {
        emissive ??= new Uint8Array(n * 3);
        for (let c = 0; c < 3; c++) emissive[i * 3 + c] = byte(point.emissive[c]);
      }
    }
  const at = (x: number, y: number) => height[((y + rows) % rows) * size + ((x + size) % size)];
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < size; x++) {
      const dx = (at(x - 1, y) - at(x + 1, y)) / 2;
      const dy = (at(x, y + 1) - at(x, y - 1)) / 2;
      const l = Math.sqrt(dx * dx + dy * dy + 1);
      const i = (y * size + x) * 3;
      normal[i] = byte((dx / l) * 127.5 + 127.5);
      normal[i + 1] = byte((dy / l) * 127.5 + 127.5);
      normal[i + 2] = byte((1 / l) * 127.5 + 127.5);
    }
  return {
    baseColor: writePng(base, size, rows, 3),
    orm: writePng(orm, size, rows, 3),
    normal: writePng(normal, size, rows, 3),
    emissive: emissive && writePng(emissive, size, rows, 3),
  };
}
