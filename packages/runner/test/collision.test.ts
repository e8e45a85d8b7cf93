import { join } from 'node:path';
import { convexHull } from '@wembrel/core/collide/hull';
import { farthestOutside } from '@wembrel/core/collide/polyhedron';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { loadModel } from '../src/read/load.ts';
import { trialLoad } from '../src/trial/trial-load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { folder, mergeFolder, put } from './here.ts';

const collision = { as: 'hull' as const, faces: 16, pieces: 8, by: 'model' as const };

describe('collision shapes of a delivery', () => {
  test('a file beside each model, valid, named in the manifest; nothing else is another', async () => {
    const source = await put({ 'stop.glb': kept(buildFurniture, 0.25), 'sign.glb': sign().glb() });
    const plan = { size: 128, margin: 2 };
    const [out, plain] = [folder(), folder()];
    const merged = await mergeFolder(source, out, { ...plan, collision });
    const without = await mergeFolder(source, plain, plan);
    expect(merged.manifest.collision?.map(({ file, model, shapes }) => [file, model, shapes])).toEqual([
      ['collision/sign.glb', 'sign.glb', 1],
      ['collision/stop.glb', 'stop.glb', 1],
    ]);
    for (const { file, ofHull } of merged.manifest.collision ?? []) {
      expect(await validateGltf(join(out, file))).toEqual([]);
      expect(ofHull).toBeGreaterThanOrEqual(1);
    }
    expect(merged.report.after).toEqual(without.report.after);
    const trial = await trialLoad(out);
    expect(trial).toMatchObject({ problems: [], drawCalls: merged.report.after.drawCalls });
    expect(trial.models.map(({ file }) => file)).toEqual(['sign.glb', 'stop.glb']);
  });

  test('every vertex that is drawn lies inside of its shape, read back', async () => {
    const source = await put({ 'stop.glb': kept(buildFurniture, 0.25) });
    const out = folder();
    await mergeFolder(source, out, { size: 128, margin: 2, collision });
    const read = (name: string) => loadModel({ name, path: join(out, name) });
    const [shape, model] = [await read('collision/stop.glb'), await read('stop.glb')];
    // Shapes are not drawn: they stand where their nodes are.
    const corners = shape.parts.flatMap(({ positions }) => [...positions]);
    const hull = convexHull(corners);
    let most = 0;
    for (const { positions, instances } of model.parts)
      for (const { world } of instances)
        for (let i = 0; i < positions.length; i += 3) {
          const [x, y, z] = positions.subarray(i, i + 3);
          const at = [0, 1, 2].map((k) => world[k] * x + world[4 + k] * y + world[8 + k] * z + world[12 + k]);
          most = Math.max(most, farthestOutside(hull, at));
        }
    expect(most).toBeLessThan(5.15e-3);
  });
});
