import { writePng } from '@wembrel/core/image/png';
import { type Chart, layCharts, rectangle, type Surface, type Vec } from '../geometry.ts';
import { GlbWriter } from '../glb-writer.ts';

/** A parcel locker as it comes from modelling: grey, one slot, and a picture that tells its materials apart by colour. */

const WIDTH = 1.5;
const HEIGHT = 1.7;
const DEPTH = 0.5;
const FOOT = 0.1;
/** How far doors stand out, and the gap around them. */
const RAISED = 0.012;
const GAP = 0.012;
const COLUMNS = 3;
const ROWS = 5;

/** What a chart is made of: its colour in the picture of IDs. */
const COLOURS = {
  body: [190, 60, 50],
  door: [40, 90, 190],
  panel: [60, 170, 80],
  roof: [230, 190, 40],
  foot: [120, 60, 150],
} as const;
type Kind = keyof typeof COLOURS;

interface Piece {
  kind: Kind;
  chart: Chart;
}

/** The five sides of a box that can be seen when it stands on a wall or the ground. @param hidden the side that is left out */
function boxWithout(kind: Kind, centre: Vec, size: Vec, hidden: 'back' | 'bottom' | 'both'): Piece[] {
  const [x, y, z] = size.map((v) => v / 2);
  const at = (dx: number, dy: number, dz: number): Vec => [centre[0] + dx, centre[1] + dy, centre[2] + dz];
  const charts = [
    rectangle(at(-x, y, z), [2 * x, 0, 0], [0, -2 * y, 0]),
    rectangle(at(x, y, z), [0, 0, -2 * z], [0, -2 * y, 0]),
    rectangle(at(-x, y, -z), [0, 0, 2 * z], [0, -2 * y, 0]),
    rectangle(at(-x, y, -z), [2 * x, 0, 0], [0, 0, 2 * z]),
  ];
  if (hidden === 'back') charts.push(rectangle(at(-x, -y, z), [2 * x, 0, 0], [0, 0, -2 * z]));
  if (hidden === 'bottom') charts.push(rectangle(at(x, y, -z), [-2 * x, 0, 0], [0, -2 * y, 0]));
  return charts.map((chart) => ({ kind, chart }));
}

function pieces(): Piece[] {
  const out = [
    ...boxWithout('body', [0, FOOT + HEIGHT / 2, 0], [WIDTH, HEIGHT, DEPTH], 'bottom'),
    ...boxWithout('roof', [0, FOOT + HEIGHT + 0.03, 0.03], [WIDTH + 0.1, 0.06, DEPTH + 0.14], 'bottom'),
    ...boxWithout('foot', [0, FOOT / 2, -0.02], [WIDTH - 0.08, FOOT, DEPTH - 0.08], 'bottom'),
  ];
  const [w, h] = [(WIDTH - 0.08) / COLUMNS, (HEIGHT - 0.08) / ROWS];
  for (let column = 0; column < COLUMNS; column++)
    for (let row = 0; row < ROWS; row++) {
      const panel = column === 1 && row === 1;
      const centre: Vec = [
        (column - (COLUMNS - 1) / 2) * w,
        FOOT + 0.04 + h * (ROWS - row - 0.5),
        DEPTH / 2 + RAISED / 2,
      ];
      out.push(...boxWithout(panel ? 'panel' : 'door', centre, [w - GAP, h - GAP, RAISED], 'back'));
    }
  return out;
}

let laid: { surface: Surface; list: Piece[] } | null = null;

/** All charts in their places. */
function locker(): { surface: Surface; list: Piece[] } {
  if (laid) return laid;
  const list = pieces();
  const [surface] = layCharts([list.map((piece) => piece.chart)], 0.006);
  laid = { surface, list };
  return laid;
}

/** The locker, grey. */
export function buildLocker(): Uint8Array {
  const writer = new GlbWriter();
  const { surface } = locker();
  const material = writer.material({
    name: 'Locker',
    pbrMetallicRoughness: { baseColorFactor: [0.5, 0.5, 0.5, 1], metallicFactor: 0, roughnessFactor: 0.6 },
  });
  const primitive = {
    attributes: {
      POSITION: writer.floats(surface.positions, 'VEC3', true),
      NORMAL: writer.floats(surface.normals, 'VEC3'),
      TEXCOORD_0: writer.floats(surface.uvs, 'VEC2'),
    },
    indices: writer.indices(surface.indices),
    material,
  };
  writer.node({ name: 'parcel locker', mesh: writer.mesh('parcel locker', [primitive]) });
  return writer.glb();
}

/** Its picture of IDs, as a painting program saves it: borders are blended over a texel, and what lies between islands is clear. @param side px */
export function lockerIds(side = 1024): Uint8Array {
  const { surface, list } = locker();
  const data = new Uint8Array(side * side * 4);
  let vertex = 0;
  const boxes = list.map(({ kind, chart }) => {
    const uv = surface.uvs.subarray(vertex * 2, (vertex + chart.positions.length / 3) * 2);
    vertex += chart.positions.length / 3;
    const us = [...uv].filter((_, i) => i % 2 === 0).map((v) => v * side);
    const vs = [...uv].filter((_, i) => i % 2 === 1).map((v) => v * side);
    return { kind, left: Math.min(...us), right: Math.max(...us), top: Math.min(...vs), bottom: Math.max(...vs) };
  });
  // A painter's brush goes a little beyond each island.
  const beyond = 2.5;
  for (const { kind, left, right, top, bottom } of boxes)
    for (let y = Math.max(0, Math.floor(top - beyond - 1)); y < Math.min(side, bottom + beyond + 1); y++)
      for (let x = Math.max(0, Math.floor(left - beyond - 1)); x < Math.min(side, right + beyond + 1); x++) {
        const inside = Math.min(x + 0.5 - left, right - x - 0.5, y + 0.5 - top, bottom - y - 0.5) + beyond;
        const share = Math.min(1, Math.max(0, inside + 0.5));
        if (share === 0) continue;
        const o = (y * side + x) * 4;
        const before = data[o + 3] / 255;
        const alpha = share + before * (1 - share);
        for (let c = 0; c < 3; c++)
          data[o + c] = Math.round((COLOURS[kind][c] * share + data[o + c] * before * (1 - share)) / alpha);
        data[o + 3] = Math.round(alpha * 255);
      }
  return writePng(data, side, side, 4);
}
