/**
 * Draws what each step of packing does, for docs/packing.md: `node scripts/packing-figures.mjs`. The steps are those of the packer, on sixteen islands
 * of one of the bench's sets.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { OverlapSolver, type Poses } from '@wembrel/kernels/overlap-solver';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { packingSets } from '../apps/cli/src/bench/packing-sets.ts';
import { xorshift32 } from '../packages/core/src/math/random.ts';
import { LayoutBuilder } from '../packages/core/src/pack/layout-builder.ts';
import { initialParameters } from '../packages/core/src/pack/order-search.ts';
import { initialOrders } from '../packages/core/src/pack/orders.ts';
import { OverlapResolution } from '../packages/core/src/pack/overlap-resolution.ts';
import { shapeArea, touchedCells } from '../packages/core/src/pack/rasterise.ts';
import { packTightly } from '../packages/core/src/pack/tight.ts';
import { type TightItem, TightShapes } from '../packages/core/src/pack/tight-shapes.ts';

const SIDE = 480;
const MARGIN = 5;
const COUNT = 16;

/** Colours of equal lightness and chroma. */
const colour = (i: number): string => `oklch(0.78 0.09 ${(i * 137.508 + 20) % 360})`;

interface Drawing {
  title: string;
  body: string;
  /** How far below the sheet is drawn, px. */
  below?: number;
}

function svg({ title, body, below = 0 }: Drawing): string {
  const height = SIDE + below;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="-8 -8 ${SIDE + 16} ${height + 16}" width="${SIDE + 16}" height="${height + 16}">
<title>${title}</title>
<rect x="-8" y="-8" width="${SIDE + 16}" height="${height + 16}" fill="#f4f6f4"/>
<rect width="${SIDE}" height="${SIDE}" fill="#ffffff" stroke="#1d2a2a"/>
${body}
</svg>
`;
}

/** Triangles of a shape at a place, as one path. */
function path(shape: Float64Array, size: number, p: { x: number; y: number; c: number; s: number }): string {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < shape.length; i += 2) {
    left = Math.min(left, shape[i]);
    right = Math.max(right, shape[i]);
    top = Math.min(top, shape[i + 1]);
    bottom = Math.max(bottom, shape[i + 1]);
  }
  const point = (i: number) => {
    const [dx, dy] = [(shape[i] - (left + right) / 2) * size, (shape[i + 1] - (top + bottom) / 2) * size];
    return `${(p.x + p.c * dx - p.s * dy).toFixed(1)} ${(p.y + p.s * dx + p.c * dy).toFixed(1)}`;
  };
  let d = '';
  for (let i = 0; i < shape.length; i += 6) d += `M${point(i)}L${point(i + 2)}L${point(i + 4)}Z`;
  return d;
}

const scope = new JobScope(process.argv[2]);
const [set] = await packingSets(scope, ['P1']);
await scope.close();
/** Longest side of a shape. */
const longest = (shape: Float64Array): number => {
  const of = (k: number) => shape.filter((_, i) => i % 2 === k);
  return Math.max(...[0, 1].map((k) => Math.max(...of(k)) - Math.min(...of(k))));
};
/** Islands of middling size: one that is far longer than all others would decide the picture. */
const middling = set.items
  .map((i) => i.shape)
  .sort((p, q) => longest(q) - longest(p))
  .slice(14, 46);
const items: TightItem[] = middling
  .filter((_, i) => i % 2 === 0)
  .slice(0, COUNT)
  .map((shape) => ({ shape, size: (scale) => scale, freedom: 2 }));
const sheet = { width: SIDE, height: SIDE, margin: MARGIN, maxScale: 1e6 };
const shapes = new TightShapes(items, sheet);
const { width, height, margin } = shapes;

const drawn = (poses: Omit<Poses, 'size'>, scale: number, shown: (i: number) => boolean = () => true): string =>
  shapes
    .placesAt(poses, scale)
    .map((tightPlace, i) =>
      shown(i) ? `<path d="${path(items[i].shape, scale, tightPlace)}" fill="${colour(i)}" fill-opacity="0.8"/>` : '',
    )
    .join('\n');

/** 1: the cells of an island, and those within the margin. */
function cells(): string {
  const cell = 16;
  /** Whose box it fills least: it has the most to show. */
  const fullness = ({ shape }: TightItem) => shapeArea(shape) / longest(shape) ** 2;
  const concave = items
    .filter((i) => fullness(i) > 0.15)
    .reduce((tightItem, item) => (fullness(item) < fullness(tightItem) ? item : tightItem));
  const enlarged = 260 / longest(concave.shape);
  const own = Float64Array.from(concave.shape, (v) => v * enlarged + 110);
  const { mask, width: w } = touchedCells(own, cell);
  const squares: string[] = [];
  const reach = 2;
  for (let y = -reach; y < mask.length / w + reach; y++)
    for (let x = -reach; x < w + reach; x++) {
      const at = (i: number, j: number) => i >= 0 && j >= 0 && i < w && j < mask.length / w && mask[j * w + i] !== 0;
      let near = false;
      for (let j = -reach; j <= reach; j++) for (let i = -reach; i <= reach; i++) near ||= at(x + i, y + j);
      if (near)
        squares.push(
          `<rect x="${x * cell}" y="${y * cell}" width="${cell - 1}" height="${cell - 1}" fill="${at(x, y) ? '#2f6f73' : '#c9dcd8'}"/>`,
        );
    }
  let triangles = '';
  for (let i = 0; i < own.length; i += 6)
    triangles += `M${own[i]} ${own[i + 1]}L${own[i + 2]} ${own[i + 3]}L${own[i + 4]} ${own[i + 5]}Z`;
  return `${squares.join('')}<path d="${triangles}" fill="#ffffff" fill-opacity="0.55" stroke="#1d2a2a"/>`;
}

const best = packTightly(items, {
  ...sheet,
  effort: 24,
  random: xorshift32(1),
  cancelled: () => false,
  progress: () => {},
});
/** A little more than has room: what the search asks for. */
const scale = best.scale * 0.985;
const builder = new LayoutBuilder(shapes.forBuilder(), (s) => shapes.growthAt(s), {
  width,
  height,
  margin,
  cancelled: () => false,
});
const candidates = initialParameters(initialOrders(shapes.fields)).flatMap((parameters) => {
  const candidate = builder.construct(builder.sheet(scale, 1), parameters);
  return candidate ? [candidate] : [];
});
/** Not the best one: what found no room is part of the story. */
const candidate =
  candidates.filter((candidate) => candidate.late.length > 0).sort((a, b) => a.missing - b.missing)[0] ?? candidates[0];
const { places, sequence } = candidate.construction;
const constructed = {
  x: Float64Array.from(places, (constructedPlace) => constructedPlace?.x ?? -999),
  y: Float64Array.from(places, (constructedPlace) => constructedPlace?.y ?? -999),
  c: Float64Array.from(places, (constructedPlace) => constructedPlace?.c ?? 1),
  s: Float64Array.from(places, (constructedPlace) => constructedPlace?.s ?? 0),
};
const early = new Set(sequence.slice(0, Math.ceil(sequence.length * 0.6)));

const solver = new OverlapSolver(
  items.map((it, i) => ({ field: shapes.fields[i], freedom: it.freedom, fixed: false })),
  width,
  height,
  margin,
);
solver.size.set(shapes.growthAt(scale));
places.forEach((place, i) => {
  if (place) solver.move(i, place.x, place.y, place.c, place.s);
});
solver.loops.locate();
const resolution = new OverlapResolution(solver, xorshift32(1));
for (const i of candidate.late) resolution.insert(i, 300);
const inserted = solver.poses();
const resolved = resolution.resolve({ trace: 0.04, patience: 200, movers: 0.3, gain: 0.98, cancelled: () => false });
const settled = solver.poses();

const finished = best.places
  .map((place, i) => `<path d="${path(items[i].shape, best.scale, place)}" fill="${colour(i)}" fill-opacity="0.8"/>`)
  .join('\n');

const folder = join(process.argv[3], 'docs/figures');
const write = (name: string, drawing: Drawing) => writeFileSync(join(folder, `packing-${name}.svg`), svg(drawing));
write('1-cells', { title: 'An island as cells: its own, and those within the margin', body: cells() });
write('2-construction', {
  title: 'Part of a construction: islands come in from the upper left, each to its first place',
  body: drawn(constructed, scale, (i) => early.has(i)),
});
write('3-below', {
  title: 'The whole construction: the grid goes on below the sheet, what lies there is missing',
  body: drawn(constructed, scale, (i) => places[i] !== null),
  below: SIDE * 0.2,
});
write('4-inserted', {
  title: 'What was missing stands where it overlaps least',
  body: drawn(inserted, scale),
});
write('5-resolved', {
  title: resolved ? 'Overlaps are resolved: nothing is nearer than the margin' : 'The least overlap that was found',
  body: drawn(settled, scale),
});
write('6-found', { title: 'The tightest layout after 24 rounds', body: finished });
console.log(
  `six figures; resolved: ${resolved}; coverage ${((set.items.length && best.scale) || 0).toFixed(3)} px a unit`,
);
