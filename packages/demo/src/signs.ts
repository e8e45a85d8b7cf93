import { writePng } from '@wembrel/core/image/png';
import { box, type Chart, disc } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';

/** Forty small signs and fittings, each a file of its own that carries the whole palette again. */

const SIDE = 256;
const CELLS = 8;

/** Colours of the halt, R G B; the rest of the palette are steps between them. */
const HUES: [number, number, number][] = [
  [24, 62, 96],
  [242, 238, 224],
  [176, 58, 40],
  [30, 86, 84],
  [214, 170, 66],
  [52, 56, 54],
  [138, 144, 146],
  [116, 74, 44],
];

const written = new Map<number, Uint8Array>();

/** The palette as PNG, written once for each kind. */
function palettePng(channels: 3 | 4): Uint8Array {
  const known = written.get(channels) ?? writePng(palettePixels(channels), SIDE, SIDE, channels);
  written.set(channels, known);
  return known;
}

/** The palette: a row for each colour, from dark to light. */
function palettePixels(channels: 3 | 4): Uint8Array {
  const out = new Uint8Array(SIDE * SIDE * channels);
  const cell = SIDE / CELLS;
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const hue = HUES[Math.floor(y / cell)];
      const light = 0.5 + (0.7 * Math.floor(x / cell)) / (CELLS - 1);
      const o = (y * SIDE + x) * channels;
      for (let c = 0; c < 3; c++) out[o + c] = Math.min(255, Math.round(hue[c] * light));
      if (channels === 4) out[o + 3] = 255;
    }
  return out;
}

/** Charts of one piece, all shrunk onto a swatch. */
interface Piece {
  charts: Chart[];
  swatch: [column: number, row: number];
}

const NAMES = [
  'platform',
  'way-out',
  'waiting',
  'tickets',
  'timetable',
  'lost-property',
  'mind-the-step',
  'no-crossing',
  'request-stop',
  'summit-line',
  'valley-line',
  'bicycles',
  'dogs-on-leads',
  'drinking-water',
  'first-aid',
  'lamp-number',
  'fire-point',
  'bench-plate',
  'kerb-marker',
  'height-post',
];

function pieces(i: number): Piece[] {
  const wide = 0.24 + (i % 5) * 0.08;
  const high = 0.12 + (i % 3) * 0.06;
  const row = i % HUES.length;
  const out: Piece[] = [
    { charts: box([0, 1.6, 0], [wide, high, 0.012]), swatch: [4, row] },
    { charts: box([0, 1.6, 0.008], [wide * 0.7, high * 0.16, 0.004]), swatch: [6, 1] },
  ];
  if (i % 2 === 0) out.push({ charts: box([0, 0.8, -0.02], [0.03, 1.6, 0.03]), swatch: [2, 5] });
  if (i % 4 === 1)
    out.push({ charts: [disc([wide * 0.38, 1.6, 0.012], high * 0.2, '+z', 16)], swatch: [5, (row + 4) % HUES.length] });
  return out;
}

/** One sign. @param i 0 … 39 */
export function buildSign(i: number): Uint8Array {
  const glbWriter = new GlbWriter();
  const positions: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  for (const { charts, swatch } of pieces(i))
    for (const chart of charts) {
      const base = positions.length / 3;
      positions.push(...chart.positions);
      normals.push(...chart.normals);
      indices.push(...chart.indices.map((v) => v + base));
      for (let k = 0; k < chart.local.length; k += 2) {
        // The middle half of the swatch, so that mips stay clean.
        uvs.push((swatch[0] + 0.25 + (0.5 * chart.local[k]) / chart.width) / CELLS);
        uvs.push((swatch[1] + 0.25 + (0.5 * chart.local[k + 1]) / chart.height) / CELLS);
      }
    }
  // Every fifth came through another exporter, which stored the same pixels with an alpha nobody needs.
  const channels = i % 5 === 4 ? 4 : 3;
  const picture = glbWriter.texture(palettePng(channels), i === 0 ? 'palette' : `palette.${i}`);
  const material = glbWriter.material({
    name: 'HaltPalette',
    pbrMetallicRoughness: { baseColorTexture: { index: picture }, metallicFactor: 0, roughnessFactor: 0.5 },
  });
  glbWriter.node({
    name: signName(i),
    mesh: glbWriter.mesh(signName(i), [
      {
        attributes: {
          POSITION: glbWriter.floats(Float32Array.from(positions), 'VEC3', true),
          NORMAL: glbWriter.floats(Float32Array.from(normals), 'VEC3'),
          TEXCOORD_0: glbWriter.floats(Float32Array.from(uvs), 'VEC2'),
        },
        indices: glbWriter.indices(Uint32Array.from(indices)),
        material,
      },
    ]),
  });
  return glbWriter.glb();
}

export const SIGN_COUNT = 40;

function signName(i: number): string {
  return `${NAMES[i % NAMES.length]}-${i < NAMES.length ? 'a' : 'b'}`;
}

/** All forty, by file name. */
export function buildSigns(): Record<string, Uint8Array> {
  return Object.fromEntries(Array.from({ length: SIGN_COUNT }, (_, i) => [`${signName(i)}.glb`, buildSign(i)]));
}
