import { sign } from '@wembrel/demo/broken';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { InputError } from '../src/errors.ts';
import { checkDocument } from '../src/formats/gltf/check.ts';
import { parseGlb } from '../src/formats/gltf/glb.ts';
import { SPOILED } from './malformed.ts';
import { runs } from './sampling.ts';

const good = parseGlb('sign.glb', sign().glb());
const check = (json: unknown) =>
  checkDocument({ path: 'sign.glb', json, binLength: good.bin?.length ?? 0, resourceLength: () => null });

test('a sound document passes', () => {
  expect(() => check(good.json)).not.toThrow();
});

for (const { name, spoil, says } of SPOILED)
  test(`${name} gets its sentence`, () => {
    const json = structuredClone(good.json) as never;
    spoil(json);
    expect(() => check(json)).toThrow(says);
    try {
      check(json);
    } catch (error) {
      expect(error).toBeInstanceOf(InputError);
      expect((error as InputError).reason).not.toContain('\n');
    }
  });

test('whatever stands in the document, the answer is a sentence and never a crash', () => {
  const paths: (string | number)[][] = [];
  const walk = (v: unknown, at: (string | number)[]) => {
    paths.push(at);
    if (Array.isArray(v)) for (const [i, e] of v.entries()) walk(e, [...at, i]);
    else if (v && typeof v === 'object') for (const [k, e] of Object.entries(v)) walk(e, [...at, k]);
  };
  walk(good.json, []);
  const junk = fc.oneof(
    fc.constant(null),
    fc.integer({ min: -5, max: 1e9 }),
    fc.double(),
    fc.string(),
    fc.constant([]),
    fc.constant({}),
    fc.constant([{}]),
  );
  fc.assert(
    fc.property(fc.constantFrom(...paths.slice(1)), junk, (path, value) => {
      const json = structuredClone(good.json) as never;
      let holder = json as Record<string | number, never>;
      for (const k of path.slice(0, -1)) holder = holder[k];
      (holder as Record<string | number, unknown>)[path[path.length - 1]] = value;
      try {
        check(json);
      } catch (error) {
        expect(error).toBeInstanceOf(InputError);
      }
    }),
    { numRuns: runs(2000) },
  );
});

test('a container that is cut anywhere is refused in a sentence', () => {
  const bytes = sign().glb();
  for (let n = 0; n < bytes.length; n += 37) expect(() => parseGlb('sign.glb', bytes.slice(0, n))).toThrow(InputError);
});
