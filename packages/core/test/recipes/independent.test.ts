import { NO_INPUTS } from '@wembrel/core/recipes/inputs/input-maps';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs, SEED } from '../sampling.ts';
import { plainColours } from './plain-evaluator.ts';
import { evaluated, greyMaps, type LineInput, pictureLook, pictureOf, recipeOf, sixSides } from './scenes.ts';

const SIDE = 72;
/** So large that a px of the sheet never covers more than a texel: both read the first level. */
const picture = {
  width: 8,
  height: 4,
  metres: 1.6,
  at: (x: number, y: number) => [((x * 37 + y * 11) % 8) / 8, ((x * 5 + y * 3) % 7) / 7, ((x + y) % 3) / 3, 1],
};
const ao = Uint8Array.from({ length: SIDE * SIDE }, (_, i) => ((i % SIDE) * 2 + Math.floor(i / SIDE)) % 256);

/** Between the middles of texels a map is read by bilinear blending; at them it is the texel. */
const aoAt = (x: number, y: number) => ao[Math.floor(y) * SIDE + Math.floor(x)] / 255;

const colour = fc.integer({ min: 0, max: 0xffffff }).map((v) => `#${v.toString(16).padStart(6, '0')}`);
const number = (min: number, max: number) =>
  fc.integer({ min: 0, max: 1000 }).map((v) => min + ((max - min) * v) / 1000);
const point = fc.tuple(number(-1, 1), number(-1, 1), number(-1, 1));
const direction = point.filter((v) => Math.hypot(...v) > 0.2);

const stretch = (low: number, high: number) =>
  fc.record({
    from: fc.option(number(low, high)),
    to: fc.option(number(low, high)),
    soft: number(0.05, 0.6).map((v) => v * (high - low)),
  });

const single = fc.oneof(
  fc.record({ of: fc.constant('slot'), names: fc.constantFrom(['ends'], ['body'], ['ends', 'body']) }),
  fc.record({ of: fc.constant('part'), names: fc.constantFrom(['side 1'], ['side 0', 'side 4']) }),
  fc.tuple(direction, stretch(0, 180)).map(([d, s]) => ({ of: 'facing', direction: d, ...s })),
  fc
    .tuple(
      fc.constantFrom('x', 'y', 'z'),
      fc.constantFrom('world', 'model', 'part'),
      fc.constantFrom('low', 'high'),
      stretch(-500, 1500),
    )
    .map(([axis, within, end, s]) => ({ of: 'position', axis, within, end, ...s })),
  stretch(0, 1).map((s) => ({ of: 'ao', ...s })),
  fc
    .tuple(
      fc.constantFrom('value', 'ridged', 'cellular'),
      number(200, 900),
      fc.integer({ min: 1, max: 4 }),
      fc.integer({ min: 0, max: 999 }),
      stretch(0, 1),
    )
    .map(([kind, size, layers, seed, s]) => ({ of: 'noise', kind, size, layers, seed, ...s })),
  fc
    .array(fc.record({ at: point, radius: number(200, 1500) }), { minLength: 1, maxLength: 4 })
    .map((points) => ({ of: 'strokes', points, falloff: 0.7 })),
);

const condition = fc.letrec((tie) => ({
  any: fc.oneof(
    { maxDepth: 2 },
    single,
    fc.record({ all: fc.array(tie('any'), { minLength: 1, maxLength: 3 }), by: fc.constantFrom('product', 'least') }),
    fc.record({ any: fc.array(tie('any'), { minLength: 1, maxLength: 3 }) }),
    fc.record({ not: tie('any') }),
  ),
})).any;

const lay = fc.oneof(
  number(0, 0.9).map((blend) => ({ by: 'box', metres: 1.6, blend })),
  fc.record({
    by: fc.constant('side'),
    at: point,
    direction,
    up: fc.constantFrom([0, 1, 0], [1, 0.3, 0.2]),
    width: number(1.4, 3),
    height: number(0.6, 2),
    depth: number(0.3, 2),
    turn: number(-90, 90),
  }),
);

const what = fc.oneof(
  colour.map((color) => ({ look: { from: 'values', color } })),
  lay.map((one) => ({ look: { from: 'files', names: 'picture' }, lay: one })),
  colour.map((color) => ({ change: 'multiply', color })),
  fc.record({ change: fc.constantFrom('lighten', 'darken'), by: number(0, 1) }),
);

const line = fc.record({
  what,
  where: fc.option(condition),
  how: fc.record({ mode: fc.constantFrom('replace', 'multiply', 'add', 'lighten', 'darken'), strength: number(0, 1) }),
});

it('agrees with an evaluator of plain loops on random recipes: 99.99 % of texels within 1', () => {
  const box = sixSides({ side: SIDE, gap: 3 });
  const ball = sixSides({ side: SIDE, gap: 3, squares: 5, ball: true });
  const set = pictureOf(picture.width, picture.height, picture.at);
  const look = pictureLook(set, picture.metres);
  const inputs = { ...NO_INPUTS, maps: { ao: { data: ao, scale: 1 / 255, offset: 0 } } };
  let [texels, off] = [0, 0];
  fc.assert(
    fc.property(fc.array(line, { minLength: 1, maxLength: 5 }), fc.boolean(), (lines, round) => {
      const named = lines.map((one, i) => ({ name: `line ${i}`, ...one }) as LineInput);
      const surface = round ? ball : box;
      const recipe = recipeOf(named);
      const looks = Object.fromEntries(
        recipe.lines.flatMap((one, i) => ('look' in one.what && one.what.look.from === 'files' ? [[i, look]] : [])),
      );
      const maps = evaluated({ recipe, surface, looks, inputs });
      const plain = plainColours(recipe, surface, picture, aoAt, greyMaps(surface));
      for (let i = 0; i < plain.covered.length; i++) {
        if (!plain.covered[i]) continue;
        texels++;
        if ([0, 1, 2].some((c) => Math.abs(plain.colours[i * 3 + c] - maps.baseColor[i * 4 + c]) > 1)) off++;
      }
    }),
    { numRuns: runs(100), seed: SEED },
  );
  expect(texels).toBeGreaterThan(50_000);
  expect(off / texels).toBeLessThan(1e-4);
});
