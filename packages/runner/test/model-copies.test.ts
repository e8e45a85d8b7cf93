import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { transformPoints } from '@wembrel/core/math/mat4';
import type { Part } from '@wembrel/core/scene/model';
import { buildFurniture } from '@wembrel/demo/furniture';
import { beforeAll, describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import type { MergeResult } from '../src/merge/request.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { trialLoad } from '../src/trial/trial-load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { folder, mergeFolder, put } from './here.ts';

let out: string;
let merged: MergeResult;
beforeAll(async () => {
  out = folder();
  const source = await put({ 'the stop.glb': kept(buildFurniture, 0.25) });
  merged = await mergeFolder(source, out, { size: 128, margin: 2, modelCopies: ['gltf', 'obj'] });
});

const load = async (name: string) => {
  const { files } = await collectModels([join(out, name)]);
  return loadModel(files[0]);
};

/** Every corner of every triangle as it is drawn: place, and UV of set 0. */
const corners = (parts: readonly Part[]): string[] =>
  parts
    .flatMap(({ positions, indices, uvs: [uv], instances }) =>
      instances.flatMap(({ world }) => {
        const placed = transformPoints(positions, world);
        return [...indices].map((i) =>
          [placed[3 * i], placed[3 * i + 1], placed[3 * i + 2], uv?.[2 * i] ?? 0, uv?.[2 * i + 1] ?? 0]
            .map((v) => (Math.abs(v) < 5e-6 ? 0 : v).toFixed(5))
            .join(' '),
        );
      }),
    )
    .sort();

describe('models handed over once more', () => {
  test('glTF with side files is valid, names the same textures, and holds the same triangles', async () => {
    const [file] = merged.report.written.filter((name) => name.endsWith('.gltf'));
    expect(await validateGltf(join(out, file))).toEqual([]);
    expect(corners((await load(file)).parts)).toEqual(corners((await load(merged.manifest.models[0].file)).parts));
    const json = JSON.parse(await readFile(join(out, file), 'utf8'));
    for (const { uri } of json.images) expect(uri).toMatch(/^textures\//);
  });

  test('an OBJ read back holds the same corners, and its MTL the same textures and factors', async () => {
    const [file] = merged.report.written.filter((name) => name.endsWith('.obj'));
    const [obj, glb] = [await load(file), await load(merged.manifest.models[0].file)];
    expect(corners(obj.parts)).toEqual(corners(glb.parts));
    expect(obj.missing).toEqual([]);
    expect(obj.slots.map(({ name }) => name).sort()).toEqual(glb.slots.map(({ name }) => name).sort());
    const byName = new Map(obj.slots.map((slot) => [slot.name, slot.look]));
    for (const { name, look } of glb.slots) {
      const back = byName.get(name);
      expect(back?.baseColorFactor.slice(0, 3)).toEqual(look.baseColorFactor.slice(0, 3));
      expect([name, back?.baseColor === null]).toEqual([name, look.baseColor === null]);
      expect([name, back?.normal === null]).toEqual([name, look.normal === null]);
    }
  });

  test('a trial loads them too, and counts the models once', async () => {
    const trial = await trialLoad(out);
    expect(trial).toMatchObject({ problems: [], drawCalls: merged.report.after.drawCalls });
    expect(trial.models).toHaveLength(1);
  });
});
