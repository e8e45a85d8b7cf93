import fc from 'fast-check';
import { expect, test } from 'vitest';
import { FaceDecisions } from '../src/decisions/face-decisions.ts';
import { faceText } from '../src/decisions/face-list.ts';
import { applyFaceEdits } from '../src/faces/apply-faces.ts';
import { uvIslands } from '../src/mesh/islands.ts';
import { type Model, readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName, type PartSpec } from './build.ts';
import { runs } from './sampling.ts';

const SIDE = 4;

/** A sheet of quads, bent at one line by an angle; UVs in one island. */
function sheet(bentAt: number, degrees: number): PartSpec {
  const positions: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  for (let v = 0; v <= SIDE; v++)
    for (let u = 0; u <= SIDE; u++) {
      const over = Math.max(0, u - bentAt);
      positions.push(Math.min(u, bentAt) + over * c, v, over * s);
      uvs.push(u / SIDE, 1 - v / SIDE);
    }
  for (let v = 0; v < SIDE; v++)
    for (let u = 0; u < SIDE; u++) {
      const i = v * (SIDE + 1) + u;
      indices.push(i, i + 1, i + SIDE + 2, i, i + SIDE + 2, i + SIDE + 1);
    }
  return { positions, uvs, indices, slot: 'Wall' };
}

function split(faces: ArrayLike<number>, bend = 180, bentAt = 2, degrees = 50, wrap = 10497) {
  const model = buildModel([{ name: 'Wall', baseColor: 'c' }], [sheet(bentAt, degrees)]);
  model.document
    .getRoot()
    .listMaterials()[0]
    .getBaseColorTextureInfo()
    ?.setWrapS(wrap as 10497);
  const read = (model: Model) => readModel('m.glb', model.document, imageKeyOfName);
  const before = read(model);
  const decisions = FaceDecisions.parse({
    groups: [{ id: 'g', name: 'Some', hue: 0, faces: { 'm.glb': { 0: faceText(faces) } } }],
    edits: [{ id: 'e', kind: 'split', groups: ['g'], bend }],
  });
  const changes = applyFaceEdits(before, decisions, { elsewhere: () => null, picture: () => [64, 64] });
  return { before, after: read(before), report: changes.reports[0], origins: changes.origins };
}

const islandsOf = (model: Model) =>
  model.parts.reduce(
    (sum, part) => sum + uvIslands(part.indices, part.positions, part.uvs[0] as Float32Array).count,
    0,
  );

const cornersOf = (model: Model) =>
  model.parts.flatMap((part) =>
    Array.from(part.indices, (v) => ({
      at: [...part.positions.subarray(v * 3, v * 3 + 3)],
      u: (part.uvs[0] as Float32Array)[2 * v],
      v: (part.uvs[0] as Float32Array)[2 * v + 1],
    })),
  );

test('any faces come off what they hung on: all show what they showed, others stay, pieces are islands', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.nat(SIDE * SIDE * 2 - 1), { minLength: 1 }), (list) => {
      const faces = Uint32Array.from(list).sort();
      const { before, after, report } = split(faces, 180);
      const chosen = new Set(faces);
      const [was, is] = [cornersOf(before), cornersOf(after)];
      expect(is).toHaveLength(was.length);
      is.forEach((corner, i) => {
        const by = corner.u - was[i].u;
        expect(corner.at).toEqual(was[i].at);
        expect([Math.round(by), corner.v]).toEqual([expect.closeTo(by, 5), was[i].v]);
        if (!chosen.has(Math.floor(i / 3))) expect(by).toBe(0);
      });
      // No point of the UVs is shared by a chosen face and another one.
      const at = new Map<string, boolean>();
      is.forEach((corner, i) => {
        const key = `${corner.at} ${corner.u} ${corner.v}`;
        const mine = chosen.has(Math.floor(i / 3));
        expect(at.get(key) ?? mine).toBe(mine);
        at.set(key, mine);
      });
      const all = chosen.size === SIDE * SIDE * 2;
      const told = Number(/→ (\d+)/.exec(report.said)?.[1]);
      if (all) expect([told, islandsOf(after)]).toEqual([1, 1]);
      else expect(told).toBeLessThanOrEqual(islandsOf(after));
    }),
    { numRuns: runs(60) },
  );
});

test('a bend is a cut where it is more than said, and none where it is as much', () => {
  const all = Uint32Array.from({ length: SIDE * SIDE * 2 }, (_, i) => i);
  expect(split(all, 49).report.said).toBe('1 → 2 islands');
  expect(islandsOf(split(all, 49).after)).toBe(2);
  expect(split(all, 50).report.said).toBe('1 → 1 island');
  // Only faces on one side of the bend: it is the border of the group already.
  const left = all.filter((f) => Math.floor(f / 2) % SIDE < 2);
  expect(islandsOf(split(left, 49).after)).toBe(2);
});

test('mirrored textures move by two; one that ends at its sides is refused, and nothing changes', () => {
  const left = Uint32Array.from({ length: 8 }, (_, i) => i);
  const { before, after } = split(left, 180, 2, 0, 33648);
  const moved = new Set(cornersOf(after).map((c, i) => Math.round(c.u - cornersOf(before)[i].u)));
  expect([...moved].sort()).toEqual([0, 2]);
  const refused = split(left, 180, 2, 0, 33071);
  expect(refused.report).toMatchObject({ failed: true, faults: [expect.stringContaining('"Wall" does not go on')] });
  expect(refused.origins).toBeNull();
});
