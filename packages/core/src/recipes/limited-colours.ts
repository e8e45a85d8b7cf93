import { labToLinear, linearToLab } from '../image/oklab.ts';
import { decodeTable, encodeByte } from '../image/srgb.ts';

/** Thresholds of ordered dithering, 4 × 4 (Bayer 1973), around 0, in parts of one. */
const BAYER = [0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5].map((v) => (v + 0.5) / 16 - 0.5);

/** How far dithering moves a colour before the nearest is taken, as a share of the distance between neighbours of the palette. */
const SPREAD = 0.5;

interface Box {
  texels: Uint32Array;
  /** Widest axis of OKLab, and its width weighed by how many texels there are. */
  axis: number;
  weight: number;
}

/**
 * Brings a picture to a limited number of colours, exactly: chosen by median cut (Heckbert 1982) in OKLab, each texel the nearest one.
 * @param rgba sRGB, R G B A; changed in place, alpha stays @param dithered neighbours differ by a fixed pattern, so that colours between seem to be there
 * @returns the colours, as sRGB bytes
 */
export function limitColours(
  rgba: Uint8Array,
  width: number,
  colours: number,
  dithered: boolean,
): (readonly [number, number, number])[] {
  const n = rgba.length / 4;
  const labs = new Float32Array(n * 3);
  const linear = decodeTable(8);
  const lab = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    linearToLab(linear[rgba[i * 4]], linear[rgba[i * 4 + 1]], linear[rgba[i * 4 + 2]], lab);
    labs.set(lab, i * 3);
  }
  const palette = medianCut(labs, n, colours);
  const reach = SPREAD * spacingOf(palette);
  const bytes = palette.map((one) => labToLinear(one).map(encodeByte) as [number, number, number]);
  for (let i = 0; i < n; i++) {
    const move = dithered ? BAYER[(Math.floor(i / width) % 4) * 4 + ((i % width) % 4)] * reach : 0;
    const k = nearestOf(palette, labs[i * 3] + move, labs[i * 3 + 1], labs[i * 3 + 2]);
    rgba.set(bytes[k], i * 4);
  }
  return bytes;
}

type Lab = [number, number, number];

function medianCut(labs: Float32Array, n: number, colours: number): Lab[] {
  const boxes = [
    boxOf(
      labs,
      Uint32Array.from({ length: n }, (_, i) => i),
    ),
  ];
  while (boxes.length < colours) {
    const widest = boxes.reduce((best, box, i) => (box.weight > boxes[best].weight ? i : best), 0);
    const { texels, axis, weight } = boxes[widest];
    if (weight <= 0) break;
    texels.sort((a, b) => labs[a * 3 + axis] - labs[b * 3 + axis] || a - b);
    // Between two colours that differ, as near to the middle as there is such a place.
    let cut = texels.length >> 1;
    while (cut < texels.length && labs[texels[cut] * 3 + axis] === labs[texels[cut - 1] * 3 + axis]) cut++;
    if (cut === texels.length) {
      cut = texels.length >> 1;
      while (cut > 1 && labs[texels[cut] * 3 + axis] === labs[texels[cut - 1] * 3 + axis]) cut--;
    }
    boxes.splice(widest, 1, boxOf(labs, texels.slice(0, cut)), boxOf(labs, texels.slice(cut)));
  }
  return boxes.map(({ texels }) => meanOf(labs, texels));
}

function boxOf(labs: Float32Array, texels: Uint32Array): Box {
  const widths = [0, 1, 2].map((k) => {
    let [low, high] = [Infinity, -Infinity];
    for (const i of texels) {
      low = Math.min(low, labs[i * 3 + k]);
      high = Math.max(high, labs[i * 3 + k]);
    }
    return high - low;
  });
  const axis = widths.indexOf(Math.max(...widths));
  return { texels, axis, weight: widths[axis] * Math.sqrt(texels.length) };
}

function meanOf(labs: Float32Array, texels: Uint32Array): Lab {
  const sum: Lab = [0, 0, 0];
  for (const i of texels) for (let k = 0; k < 3; k++) sum[k] += labs[i * 3 + k];
  return sum.map((v) => v / Math.max(1, texels.length)) as Lab;
}

/** Mean distance of each colour to its nearest neighbour. */
function spacingOf(palette: readonly Lab[]): number {
  if (palette.length < 2) return 0;
  const nearest = palette.map((a, i) =>
    Math.min(...palette.map((b, j) => (i === j ? Infinity : Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])))),
  );
  return nearest.reduce((sum, v) => sum + v, 0) / nearest.length;
}

function nearestOf(palette: readonly Lab[], l: number, a: number, b: number): number {
  let [best, least] = [0, Infinity];
  for (let k = 0; k < palette.length; k++) {
    const [x, y, z] = palette[k];
    const d = (x - l) ** 2 + (y - a) ** 2 + (z - b) ** 2;
    if (d < least) [best, least] = [k, d];
  }
  return best;
}
