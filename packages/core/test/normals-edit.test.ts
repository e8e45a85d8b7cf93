import { expect, test } from 'vitest';
import { FaceDecisions, type FaceEdit } from '../src/decisions/face-decisions.ts';
import { applyFaceEdits } from '../src/faces/apply-faces.ts';
import { type Model, readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName, type PartSpec } from './build.ts';

/** A strip of two wide squares that bend by 90° along the y axis, one mesh, four triangles; the UVs of the second begin elsewhere if asked. */
function corner(seam: boolean): PartSpec {
  const positions = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 0, 1, 0, -1, 1, 1, -1, 1, 1, 0];
  const x = seam ? 0.2 : 0;
  const uvs = [0, 1, 0.4, 1, 0.4, 0, 0, 0, 0.4 + x, 1, 0.8 + x, 1, 0.8 + x, 0, 0.4 + x, 0];
  return { positions, uvs, indices: [0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7], slot: 'Wall' };
}

function edited(spec: PartSpec, edit: Partial<FaceEdit>, faces?: string): { model: Model; said: string } {
  const model = buildModel([{ name: 'Wall' }], [spec]);
  const group = faces
    ? { id: 'g', name: 'G', hue: 0, faces: { 'test.glb': { 0: faces } } }
    : { id: 'g', name: 'G', hue: 0, slots: ['Wall'] };
  const decisions = FaceDecisions.parse({
    groups: [group],
    edits: [{ id: 'n', groups: ['g'], kind: 'normals', ...edit }],
  });
  const { reports } = applyFaceEdits(model, decisions, { elsewhere: () => null, picture: () => null });
  expect(reports.map((report) => report.faults)).toEqual([[]]);
  return { model: readModel(model.path, model.document, imageKeyOfName), said: reports[0].said };
}

/** Normal of each corner of a face, to three digits. */
const normalsOf = (model: Model, face: number) =>
  [0, 1, 2].map((k) => {
    const v = model.parts[0].indices[face * 3 + k] * 3;
    return [...(model.parts[0].normals as Float32Array).subarray(v, v + 3)].map((n) => Number(n.toFixed(3)) + 0);
  });

test('normals of a group: smooth below the angle, hard above it', () => {
  const smooth = edited(corner(false), { angle: 100 });
  expect(smooth.said).toBe('smooth all over');
  // Corner 1 lies on the edge: areas are alike, so that both faces count alike there but for the diagonal, which counts twice on one side.
  const [away, shared] = normalsOf(smooth.model, 0);
  expect(away).toEqual([0, 0, 1]);
  expect(shared[0]).toBeGreaterThan(0.4);
  expect(Math.hypot(...shared)).toBeCloseTo(1, 2);
  expect(normalsOf(smooth.model, 2)[0]).toEqual(shared);
  const hard = edited(corner(false), { angle: 60 });
  expect(hard.said).toBe('hard at 2 points');
  for (const f of [0, 1]) expect(normalsOf(hard.model, f)).toEqual(Array(3).fill([0, 0, 1]));
  for (const f of [2, 3]) expect(normalsOf(hard.model, f)).toEqual(Array(3).fill([1, 0, 0]));
});

test('borders of islands are hard if asked, however little the surface bends', () => {
  expect(edited(corner(true), { angle: 100, borders: 0 }).said).toBe('hard at 2 points');
  expect(edited(corner(true), { angle: 100 }).said).toBe('smooth all over');
  expect(edited(corner(false), { angle: 100, borders: 0 }).said).toBe('smooth all over');
});

test('faces beside the group keep their normals, and lend their bend', () => {
  const { model } = edited(corner(false), { angle: 100 }, '0-1');
  // The second square had none: those of its faces.
  for (const f of [2, 3]) expect(normalsOf(model, f)).toEqual(Array(3).fill([1, 0, 0]));
  expect(normalsOf(model, 0)[1][0]).toBeGreaterThan(0.4);
});
