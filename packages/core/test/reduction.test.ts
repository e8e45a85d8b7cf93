import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { PlanSlot } from '../src/predict/plan-slot.ts';
import { keptShare, keptShares, meshWeights, reductionsFor } from '../src/predict/reduction.ts';

type Meshes = { name: string; model: number; own: number; copies: number }[];

/** Slots with one part each; parts of one mesh share its number. */
const slotsOf = (meshes: Meshes) =>
  meshes.map((mesh, i) => ({
    model: mesh.model,
    parts: [{ name: mesh.name, mesh: i, own: mesh.own, copies: mesh.copies } as PlanSlot['parts'][number]],
  }));

const scene = fc.array(
  fc.record({
    name: fc.constantFrom('post', 'rail', 'lamp', 'bench'),
    model: fc.integer({ min: 0, max: 2 }),
    own: fc.integer({ min: 1, max: 90_000 }),
    copies: fc.integer({ min: 1, max: 30 }),
  }),
  { minLength: 1, maxLength: 8 },
);

describe('reductions that a budget asks for', () => {
  test('bring any scene under its limit, by one bound for all meshes that is as high as it may be', () => {
    fc.assert(
      fc.property(scene, fc.integer({ min: 100, max: 2_000_000 }), (meshes, limit) => {
        const slots = slotsOf(meshes);
        const found = reductionsFor(slots, limit);
        const drawn = (reduce: Record<string, number>) => {
          const shares = keptShares(slots, reduce);
          return meshWeights(slots).reduce(
            (sum, meshWeight) =>
              sum +
              Math.floor(meshWeight.own * keptShare(shares, meshWeight.model, meshWeight.mesh) + 1e-9) *
                meshWeight.copies,
            0,
          );
        };
        if (found === null) {
          expect(meshes.reduce((least, mesh) => least + Math.min(mesh.own, 24) * mesh.copies, 0)).toBeGreaterThan(
            limit,
          );
          return;
        }
        const reduce = Object.fromEntries(
          found.map((proposedReduction) => [proposedReduction.name, proposedReduction.to]),
        );
        expect(drawn(reduce)).toBeLessThanOrEqual(limit);
        if (found.length === 0) return;
        const [{ to }] = found;
        expect(new Set(found.map((proposedReduction) => proposedReduction.to))).toEqual(new Set([to]));
        const looser = meshes.reduce((least, mesh) => least + Math.min(mesh.own, to + 1) * mesh.copies, 0);
        expect(looser).toBeGreaterThan(limit);
        const shares = keptShares(slots, reduce);
        meshes.forEach((mesh, i) => {
          if (mesh.own <= to) expect(keptShare(shares, mesh.model, i)).toBe(1);
        });
      }),
    );
  });

  test('the bollard gives, the bench does not', () => {
    const slots = slotsOf([
      { name: 'bollard', model: 0, own: 60_000, copies: 30 },
      { name: 'bench', model: 1, own: 900, copies: 2 },
    ]);
    expect(reductionsFor(slots, 200_000)).toEqual([{ name: 'bollard', from: 60_000, to: 6_606, copies: 30 }]);
    expect(reductionsFor(slots, 2_000_000)).toEqual([]);
    expect(reductionsFor(slots, 500)).toBeNull();
  });

  test('parts of one mesh share what it keeps', () => {
    const part = (own: number) => ({ name: 'post', mesh: 3, own, copies: 1 }) as PlanSlot['parts'][number];
    const slots = [
      { model: 0, parts: [part(300)] },
      { model: 0, parts: [part(100)] },
    ];
    expect(meshWeights(slots)).toEqual([{ name: 'post', model: 0, mesh: 3, own: 400, copies: 1 }]);
    expect(keptShare(keptShares(slots, { post: 100 }), 0, 3)).toBe(0.25);
  });
});
