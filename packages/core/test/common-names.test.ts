import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { commonNames } from '../src/handover/common-names.ts';
import { runs } from './sampling.ts';

const model = (...materials: [look: string, name: string][]) => materials.map(([look, name]) => ({ look, name }));

describe('one name for what looks the same', () => {
  test('the one that most models use, of equals the first', () => {
    const models = [model(['w', 'Wood_01']), model(['w', 'Wood_02']), model(['w', 'Wood_02']), model(['m', 'Metal'])];
    expect([...commonNames(models)]).toEqual([['w', 'Wood_02']]);
    expect([...commonNames([model(['w', 'B']), model(['w', 'A'])])]).toEqual([['w', 'B']]);
  });

  test('a name that another look has is not taken over', () => {
    const models = [model(['a', 'Mat'], ['b', 'One']), model(['a', 'Other']), model(['b', 'Two']), model(['c', 'Mat'])];
    expect(Object.fromEntries(commonNames(models))).toEqual({ a: 'Mat 2', b: 'One' });
  });

  test('any models: looks that are renamed have names of their own, and all their materials one', () => {
    const look = fc.constantFrom('a', 'b', 'c', 'd');
    const name = fc.constantFrom('x', 'y', 'z', 'x 2', '材');
    const models = fc.array(fc.array(fc.record({ look, name }), { maxLength: 4 }), { maxLength: 6 });
    fc.assert(
      fc.property(models, (list) => {
        const names = commonNames(list);
        expect(new Set(names.values()).size).toBe(names.size);
        const kept = list.flat().filter((material) => !names.has(material.look));
        for (const { name } of kept) expect([...names.values()]).not.toContain(name);
      }),
      { numRuns: runs(200) },
    );
  });
});
