import { reoriented } from '@wembrel/core/recipes/blend/modes';
import { S, STATE_VALUES, State, STATE_VALUES as VALUES } from '@wembrel/core/recipes/blend/state';
import { byChance } from '@wembrel/core/recipes/conditions/by-triangle';
import { compileCondition } from '@wembrel/core/recipes/conditions/compile';
import { NO_INPUTS } from '@wembrel/core/recipes/inputs/input-maps';
import { LineEvaluator } from '@wembrel/core/recipes/line';
import { BATCH, Samples } from '@wembrel/core/recipes/samples';
import { type RecipeSurface, surfaceOfCell } from '@wembrel/core/recipes/surface';
import { describe, expect, it } from 'vitest';
import {
  colourAt,
  colourLine,
  evaluated,
  greyMaps,
  jobOf,
  type LineInput,
  pictureLook,
  pictureOf,
  recipeOf,
  sixSides,
} from './scenes.ts';

const checker = pictureLook(
  pictureOf(16, 16, (x, y) => (((x >> 2) + (y >> 2)) % 2 === 0 ? [0.8, 0.1, 0.1, 1] : [0.1, 0.2, 0.7, 1])),
  0.5,
);

/** One line of every kind. */
const KINDS: LineInput[] = [
  colourLine('colour', '#c04020'),
  { name: 'box', what: { look: { from: 'files', names: 'x' }, lay: { by: 'box' } } },
  { name: 'tint', what: { change: 'tint', color: '#204080' } },
  { name: 'multiply', what: { change: 'multiply', color: '#808080' } },
  { name: 'lighten', what: { change: 'lighten', by: 0.5 } },
  { name: 'darken', what: { change: 'darken', by: 0.5 } },
  { name: 'hue', what: { change: 'hue', degrees: 90 } },
  { name: 'roughen', what: { change: 'roughen', by: 0.3 } },
  { name: 'levels', what: { change: 'levels', channel: 'color', black: 0.1 } },
];

describe('a recipe', () => {
  it('changes no bit with strength 0', () => {
    const surface = sixSides({ side: 48 });
    for (const kind of KINDS) {
      const recipe = recipeOf([{ ...kind, how: { strength: 0, relief: { depth: 5 }, shadow: { distance: 10 } } }]);
      const before = greyMaps(surface);
      const after = evaluated({ recipe, surface, looks: { 0: kind.name === 'box' ? checker : undefined } as never });
      for (const map of ['baseColor', 'orm', 'normal', 'emissive'] as const)
        expect(after[map], kind.name).toEqual(before[map]);
    }
  });

  it('lays its lines in the order in which they are written', () => {
    const surface = sixSides();
    const [a, b] = [colourLine('a', '#ff0000'), colourLine('b', '#0000ff')];
    expect(colourAt(evaluated({ recipe: recipeOf([a, b]), surface }), 0)).toEqual([0, 0, 255]);
    expect(colourAt(evaluated({ recipe: recipeOf([b, a]), surface }), 0)).toEqual([255, 0, 0]);
  });

  it('does the same with a condition that holds everywhere as without one', () => {
    const surface = sixSides({ side: 48 });
    const everywhere = { of: 'facing', to: 180 };
    for (const kind of KINDS) {
      const looks = { 0: kind.name === 'box' ? checker : undefined } as never;
      const plain = evaluated({ recipe: recipeOf([kind]), surface, looks });
      const masked = evaluated({ recipe: recipeOf([{ ...kind, where: everywhere }]), surface, looks });
      expect(masked.baseColor, kind.name).toEqual(plain.baseColor);
      expect(masked.orm, kind.name).toEqual(plain.orm);
    }
  });

  it('leaves texels of which no line changes anything to the bit, beside ones that it changes', () => {
    const surface = sixSides();
    const recipe = recipeOf([colourLine('top', '#ff0000', { of: 'facing', to: 10 })]);
    const after = evaluated({ recipe, surface });
    expect(colourAt(after, 2)).toEqual([255, 0, 0]);
    expect(colourAt(after, 4)).toEqual([120, 121, 122]);
    expect(after.orm).toEqual(greyMaps(surface).orm);
  });

  it('does not depend on the order of tiles or who evaluates them', () => {
    const surface = sixSides({ side: 192, squares: 6, ball: true });
    const scattered = {
      name: 'scattered',
      what: { look: { from: 'files', names: 'x' }, lay: { by: 'scatter', count: 60, metres: [0.2, 0.5], seed: 7 } },
    };
    const broken = {
      name: 'broken up',
      what: { look: { from: 'files', names: 'x' }, lay: { by: 'box', breakUp: { turned: true } } },
      where: { of: 'noise', size: 300, from: 0.5 },
    };
    const scene = { recipe: recipeOf([broken, scattered]), surface, looks: { 0: checker, 1: checker }, grid: 2 };
    expect(evaluated(scene, true).baseColor).toEqual(evaluated(scene).baseColor);
  });

  it('evaluates from any line on to the same as from the first', () => {
    const surface = sixSides();
    const texels = surface.width * surface.height;
    const lines = KINDS.map((kind) => ({ ...kind, where: { of: 'noise', size: 400, soft: 0.5, from: 0.4 } }));
    const scene = { recipe: recipeOf(lines), surface, looks: { 1: checker } };
    const states = lines.map(() => ({ values: new Float32Array(texels * VALUES), changed: new Uint8Array(texels) }));
    const whole = evaluated(scene, false, { states, from: 0 });
    for (const from of [1, 4, lines.length - 1])
      expect(evaluated(scene, false, { states, from }).baseColor, `from ${from}`).toEqual(whole.baseColor);
  });
});

/** The edges at which two islands of a ball meet: samples at the same points, seen from both. */
function bothSides(surface: RecipeSurface): { a: Samples; b: Samples } {
  const [a, b] = [new Samples(), new Samples()];
  const byEdge = new Map<string, { t: number; k: number; turned: boolean }[]>();
  const at = (t: number, k: number) =>
    [0, 1, 2].map((i) => surface.positions[t * 9 + (k % 3) * 3 + i].toFixed(6)).join(' ');
  for (let t = 0; t < surface.count; t++)
    for (let k = 0; k < 3; k++) {
      const [p, q] = [at(t, k), at(t, k + 1)];
      const key = [p, q].sort().join('|');
      byEdge.set(key, [...(byEdge.get(key) ?? []), { t, k, turned: p > q }]);
    }
  for (const edges of byEdge.values()) {
    if (edges.length !== 2 || surface.island[edges[0].t] === surface.island[edges[1].t]) continue;
    for (const share of [0.2, 0.5, 0.9]) {
      if (a.count === BATCH) break;
      [a, b].forEach((samples, i) => {
        const { t, k, turned } = edges[i];
        const s = turned ? 1 - share : share;
        const weights = [0, 0, 0];
        weights[k] = 1 - s;
        weights[(k + 1) % 3] = s;
        samples.triangle[samples.count] = t;
        samples.put(surface, samples.count, t, weights[1], weights[2]);
        samples.count++;
      });
    }
  }
  return { a, b };
}

describe('on both sides of a UV border', () => {
  const surface = sixSides({ side: 192, squares: 8, ball: true });
  const lays: Record<string, unknown> = {
    'box projection': { by: 'box', metres: 0.7, blend: 0.5 },
    'broken up': { by: 'box', metres: 0.3, breakUp: { turned: true } },
    decal: { by: 'side', at: [0.6, 0.6, 0.6], direction: [1, 1, 1], width: 1.2, height: 1, depth: 1 },
    scatter: { by: 'scatter', count: 80, metres: [0.3, 0.6] },
  };

  it.each(Object.keys(lays))('%s shows the same', (name) => {
    const { a, b } = bothSides(surface);
    expect(a.count).toBeGreaterThan(200);
    const bumpy = { ...checker, pictures: { ...checker.pictures, normal: 1 }, channels: ['color', 'normal'] as const };
    const normals = pictureOf(16, 16, (x) => [x % 4 < 2 ? 0.5 : -0.5, 0.2, 0.85, 1]);
    const look = { ...bumpy, sets: [checker.sets[0], { ...normals, alphaWeighted: false }], gauss: [null, null] };
    const line = { name, what: { look: { from: 'files', names: 'x' }, lay: lays[name] } };
    const job = jobOf({ recipe: recipeOf([line]), surface, looks: { 0: look } });
    const states = [a, b].map((samples) => {
      const state = new State();
      state.load(job.maps, samples);
      new LineEvaluator(job, 0, 0).apply(samples, state);
      return state.values;
    });
    let different = 0;
    for (let i = 0; i < a.count; i++) {
      const world = [a, b].map((samples, k) => {
        const [x, y, z] = [0, 1, 2].map((c) => states[k][i * STATE_VALUES + S.detail + c]);
        return [
          x * samples.tx[i] + y * samples.bx[i] + z * samples.nx[i],
          x * samples.ty[i] + y * samples.by[i] + z * samples.ny[i],
          x * samples.tz[i] + y * samples.bz[i] + z * samples.nz[i],
        ];
      });
      for (let c = 0; c < 3; c++) {
        expect(Math.abs(states[0][i * STATE_VALUES + c] - states[1][i * STATE_VALUES + c])).toBeLessThan(1 / 255);
        expect(Math.abs(world[0][c] - world[1][c])).toBeLessThan(1 / 255);
      }
      if (Math.abs(states[0][i * STATE_VALUES] - 120 / 255) > 0.3) different++;
    }
    // The line does lie there.
    expect(different).toBeGreaterThan(0);
  });

  it('noise is the same', () => {
    const { a, b } = bothSides(surface);
    const context = { surface, inputs: NO_INPUTS, shared: {}, slot: 0 };
    for (const kind of ['value', 'ridged', 'cellular'] as const) {
      const field = compileCondition(
        { of: 'noise', kind, size: 300, layers: 4, seed: 3, from: 0.4, to: null, soft: 0.3 },
        context,
      );
      const [p, q] = [new Float32Array(BATCH), new Float32Array(BATCH)];
      field(a, p);
      field(b, q);
      for (let i = 0; i < a.count; i++) expect(Math.abs(p[i] - q[i])).toBeLessThan(1 / 255);
      expect(Math.max(...p) - Math.min(...p)).toBeGreaterThan(0.5);
    }
  });
});

describe('values by chance', () => {
  it('are spread evenly over parts (Kolmogorov–Smirnov, 1 %)', () => {
    const surface = sixSides();
    const many = 600;
    const parts = Array.from({ length: many }, (_, i) => ({ ...surface.parts[0], name: `board ${i}` }));
    for (const seed of [1, 2, 77]) {
      const values = [
        ...byChance({ ...surface, parts, part: Uint16Array.from({ length: many }, (_, i) => i) }, 'part', seed),
      ].sort((a, b) => a - b);
      const most = Math.max(...values.map((v, i) => Math.max(Math.abs(v - i / many), Math.abs(v - (i + 1) / many))));
      expect(most).toBeLessThan(1.63 / Math.sqrt(many));
    }
  });

  it('depend on the seed, and stay with a name', () => {
    const surface = sixSides();
    const turned = { ...surface, parts: [...surface.parts].reverse() };
    expect(byChance(surface, 'part', 1)[0]).not.toBe(byChance(surface, 'part', 2)[0]);
    expect(byChance(turned, 'part', 1)[surface.count - 1]).toBe(byChance(surface, 'part', 1)[0]);
  });
});

describe('a cell', () => {
  it('goes on at its opposite edge, whatever its noise and looks ask for', () => {
    const surface = surfaceOfCell('cell', [96, 96], [1, 1]);
    const recipe = recipeOf([
      { name: 'box', what: { look: { from: 'files', names: 'x' }, lay: { by: 'box', metres: 0.37 } } },
      {
        name: 'cells',
        what: { look: { from: 'files', names: 'x' }, lay: { by: 'box', metres: 0.3, breakUp: { cell: 0.7 } } },
        where: { of: 'noise', size: 210, from: 0.5, soft: 0.1 },
      },
      {
        name: 'scattered',
        what: { look: { from: 'files', names: 'x' }, lay: { by: 'scatter', count: 9, metres: [0.2, 0.4] } },
      },
    ]);
    const smooth = pictureLook(
      pictureOf(32, 32, (x, y) => [
        0.5 + 0.4 * Math.cos((x * Math.PI) / 16),
        0.5 + 0.4 * Math.sin((y * Math.PI) / 16),
        0.5,
        1,
      ]),
      0.5,
    );
    const looks = { 0: smooth, 1: smooth, 2: smooth };
    // The same cell twice as large shows what lies beyond its edges.
    const one = evaluated({ recipe, surface, looks, grid: 4 });
    const at = (x: number, y: number) => [...one.baseColor.subarray((y * 96 + x) * 4, (y * 96 + x) * 4 + 3)];
    const step = (p: number[], q: number[]) => Math.max(...p.map((v, c) => Math.abs(v - q[c])));
    let [inner, edge] = [0, 0];
    for (let k = 0; k < 96; k++) {
      edge += step(at(0, k), at(95, k)) + step(at(k, 0), at(k, 95));
      for (let j = 1; j < 96; j++) inner += (step(at(j, k), at(j - 1, k)) + step(at(k, j), at(k, j - 1))) / 95;
    }
    // A seam would be a jump; the steps over the edge are as small as those within.
    expect(edge).toBeLessThan(inner * 1.5);
  });
});

describe('normals', () => {
  it('reorientation keeps the base under a flat detail, and the detail on a flat base', () => {
    const out = new Float64Array(3);
    const flat = Float64Array.of(0, 0, 1);
    const bent = Float32Array.of(0.6, 0, 0.8);
    reoriented(bent, 0, flat, 0, out);
    for (let c = 0; c < 3; c++) expect(out[c]).toBeCloseTo(bent[c], 6);
    reoriented(Float32Array.of(0, 0, 1), 0, bent, 0, out);
    for (let c = 0; c < 3; c++) expect(out[c]).toBeCloseTo(bent[c], 6);
  });

  it('relief bends them as the slope of its height asks', () => {
    // Over 400 mm of the front, height rises by 100 mm; steepest in the middle, by 1.5 times the mean.
    const surface = sixSides({ side: 192 });
    const soft = 400;
    const recipe = recipeOf([
      {
        ...colourLine('ramp', '#808080', { of: 'position', axis: 'x', from: 0, soft }),
        how: { relief: { depth: 100 } },
      },
    ]);
    const maps = evaluated({ recipe, surface });
    const x = Math.floor((1 / 3 + 1 / 6) * 192);
    const y = Math.floor((1 / 2 + 1 / 4) * 192);
    const [nx, ny, nz] = [0, 1, 2].map((c) => (maps.normal as Uint8Array)[(y * 192 + x) * 3 + c] / 127.5 - 1);
    // Two steps of a byte.
    expect(Math.abs(-nx / nz - (1.5 * 100) / soft)).toBeLessThan(2 / 127);
    expect(Math.abs(ny)).toBeLessThan(0.01);
  });
});
