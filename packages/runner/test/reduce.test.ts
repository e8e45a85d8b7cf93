import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { readModel } from '@wembrel/core/scene/model';
import { buildBollards } from '@wembrel/demo/pieces';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import { planBasis, predictBasis } from '../src/plans/plan-basis.ts';
import { collectModels } from '../src/read/collect.ts';
import { imageKey } from '../src/read/image-keys.ts';
import { loadModel } from '../src/read/load.ts';
import { reduceMeshes } from '../src/reduce/reduce-meshes.ts';
import { fidelityOf, folder, put, testScope } from './here.ts';

const scope = testScope();

describe('reducing a heavy mesh', () => {
  test('keeps to its triangles, its slots and its looks; the deviation is told, the prediction is right', async () => {
    const files = (await collectModels([await put({ 'bollards.glb': kept(buildBollards, 80) })])).files;
    const plain = MergeDecisions.parse({ keepAll: true });
    const decisions = MergeDecisions.parse({ keepAll: true, repairs: { reduce: { bollard: 1200 } } });
    const predicted = predictBasis(await planBasis({ files, decisions: plain }, scope), decisions);
    const { report } = await merge({ files, out: folder(), decisions, picture: 512 }, scope);
    const { before, after, repaired } = report;
    expect(before.triangles).toBeGreaterThan(30 * 5000);
    expect(after.triangles).toBeLessThanOrEqual(30 * 1200);
    expect(after.triangles).toBeGreaterThan(30 * 1200 * 0.97);
    expect(Math.abs(after.triangles / predicted.triangles - 1)).toBeLessThan(0.03);
    expect([after.slots, after.drawCalls]).toEqual([before.slots, before.drawCalls]);
    expect(repaired.triangles * 30).toBe(before.triangles - after.triangles);
    expect(repaired.deviation).toBeGreaterThan(0);
    // Beads of 12 mm are what the bollard has to lose.
    expect(repaired.deviation).toBeLessThan(0.012);
    expect(fidelityOf(report).psnr).toBeGreaterThan(30);
  });

  test('a mesh that is light enough, or of another name, stays as it is', async () => {
    const [path] = (await collectModels([await put({ 'b.glb': kept(buildBollards, 20) })])).files.map(
      (file) => file.path,
    );
    const model = await loadModel({ path, name: 'b.glb' });
    const own = model.parts[0].indices.length / 3;
    expect(await reduceMeshes(model, { bollard: own, lamp: 10 })).toEqual({ triangles: 0, deviation: 0 });
    expect(readModel('b', model.document, imageKey).parts[0].indices).toEqual(model.parts[0].indices);
  });
});
