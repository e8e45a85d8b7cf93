import { join } from 'node:path';
import type { ExtensionProperty } from '@gltf-transform/core';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { writePng } from '@wembrel/core/image/png';
import { signWith } from '@wembrel/demo/awkward/changes';
import { sign } from '@wembrel/demo/broken';
import { describe, expect, test } from 'vitest';
import { merge } from '../src/merge/merge.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { folder, put, testScope } from './here.ts';

const scope = testScope();

/** Merges by the plan that is made for the files. */
async function mergeByDefault(models: Record<string, Uint8Array>, more: object = {}) {
  const out = join(folder(), 'out');
  const { files } = await collectModels([await put(models)]);
  const { report, manifest } = await merge(
    { files, out, decisions: MergeDecisions.parse(more), auto: {}, compare: false },
    scope,
  );
  return { report, manifest, out };
}

const materialsOf = async (file: string) => {
  const model = await loadModel({ path: file, name: 'x' });
  return model.document.getRoot().listMaterials();
};

describe('what a merge without a plan does', () => {
  test('one slot alone stays as it is: no sheet, no byte of memory more', async () => {
    const { report, out } = await mergeByDefault({ 'sign.glb': sign().glb() });
    expect(report.sheets).toEqual([]);
    expect(report.keptApart).toMatchObject([{ slot: 'SignEnamel', code: 'no-gain' }]);
    expect(report.after.textureBytes).toEqual(report.before.textureBytes);
    const [material] = await materialsOf(join(out, 'sign.glb'));
    expect(material.getName()).toBe('SignEnamel');
  });

  test('an only blended slot stays as it is', async () => {
    const blended = signWith(({ json }) => {
      json.materials[0].alphaMode = 'BLEND';
    });
    const { report } = await mergeByDefault({ 'pane.glb': blended });
    expect([report.sheets, report.keptApart.length]).toEqual([[], 1]);
  });

  test('colours of one mesh become one draw call on the smallest sheet that holds them', async () => {
    const { report } = await mergeByDefault({
      'colours.glb': sign({ names: ['Red', 'Green', 'Blue'], texture: false }).glb(),
    });
    expect([report.before.drawCalls, report.after.drawCalls]).toEqual([3, 1]);
    expect(report.sheets).toMatchObject([{ width: 64, height: 64 }]);
    expect(report.sheets[0].coverage).toBeGreaterThan(0.05);
  });

  test('pictures get the least sheet at which all keep their sharpness', async () => {
    const models = { 'two.glb': sign({ names: ['Front', 'Back'] }).glb() };
    const { report } = await mergeByDefault(models, {});
    const [{ width, height, scale }] = report.sheets;
    expect(scale).toBe(1);
    const smaller = { id: '1', name: 'sheet', size: width, height: height / 2, margin: 12 };
    const { files } = await collectModels([await put(models)]);
    const decisions = MergeDecisions.parse({ sheets: [smaller], scale: 'detail' });
    const half = await merge({ files, out: folder(), decisions, compare: false }, scope);
    expect(half.report.sheets[0].scale).toBeLessThan(1);
  });

  test('a scale that somebody asks for stands, and the size is found for it', async () => {
    // A slow ramp, which shows all that it has at a fraction of its side.
    const ramp = Uint8Array.from({ length: 128 * 128 * 3 }, (_, i) => (Math.floor(i / 3) % 128) + 64);
    const smooth = sign({ names: ['Front', 'Back'], picture: writePng(ramp, 128, 128, 3) });
    const { files } = await collectModels([await put({ 'two.glb': smooth.glb() })]);
    const decisions = MergeDecisions.parse({ effort: 0 });
    const size = async (auto: object) =>
      (await merge({ files, out: folder(), decisions, auto, compare: false }, scope)).report.sheets[0].width;
    expect(await size({ scale: 'relative' })).toBeGreaterThan(await size({}));
  });

  test('what repeats so often that it holds the others back is left out, and says so', async () => {
    const front = sign({ names: ['Front', 'Back', 'Pole', 'Foot'] });
    const repeated = signWith(
      (edit) => {
        // The last primitive's picture four times each way.
        const { json } = edit;
        const uvs = edit.floats('TEXCOORD_0').map((v) => 4 * v);
        const last = json.meshes[0].primitives[3];
        last.attributes = { ...last.attributes, TEXCOORD_0: edit.accessor(uvs, 'VEC2') };
      },
      { names: ['Front', 'Back', 'Pole', 'Foot'] },
    );
    const plain = await mergeByDefault({ 'four.glb': front.glb() }, { scale: 'relative' });
    expect(plain.report.keptApart).toEqual([]);
    const { report } = await mergeByDefault({ 'four.glb': repeated }, { budget: { textureBytes: 60_000 } });
    expect(report.keptApart).toMatchObject([{ slot: 'Foot', code: 'starved' }]);
    expect(report.sheets[0].scale).toBe(1);
    // Where somebody merges it all the same, the bay that holds the sheet back is named.
    const { files } = await collectModels([await put({ 'four.glb': repeated })]);
    const sheet = { id: '1', name: 'sheet', size: 128, margin: 4 };
    const forced = await merge(
      { files, out: folder(), decisions: MergeDecisions.parse({ sheets: [sheet] }), compare: false },
      scope,
    );
    expect(forced.report.faults).toMatchObject([{ code: 'starved', message: expect.stringContaining('"Foot"') }]);
  });
});

describe('extensions whose values agree', () => {
  const lacquered = (values: [object | null, object | null], name = 'KHR_materials_clearcoat') =>
    signWith(
      (edit) => {
        edit.extension(name);
        values.forEach((value, i) => {
          if (value) edit.json.materials[i].extensions = { [name]: value };
        });
      },
      { names: ['Front', 'Back'] },
    );
  const merged = async (glb: Uint8Array) => {
    const { report, out } = await mergeByDefault({ 'sign.glb': glb });
    const file = join(out, 'sign.glb');
    expect(await validateGltf(file)).toEqual([]);
    return { report, materials: await materialsOf(file) };
  };

  test('share a material, which carries them', async () => {
    const { report, materials } = await merged(lacquered([{ clearcoatFactor: 0.8 }, { clearcoatFactor: 0.8 }]));
    expect([report.before.drawCalls, report.after.drawCalls]).toEqual([2, 1]);
    expect(materials).toHaveLength(1);
    const coat = materials[0].getExtension<ExtensionProperty & { getClearcoatFactor(): number }>(
      'KHR_materials_clearcoat',
    );
    expect(coat?.getClearcoatFactor()).toBe(0.8);
  });

  test('share none where they differ, or where one has none', async () => {
    for (const other of [{ clearcoatFactor: 0.3 }, null])
      expect((await merged(lacquered([{ clearcoatFactor: 0.8 }, other]))).report.after.drawCalls).toBe(2);
  });

  test('that change nothing count as none', async () => {
    const { report, materials } = await merged(lacquered([{ ior: 1.5 }, null], 'KHR_materials_ior'));
    expect(report.after.drawCalls).toBe(1);
    expect(materials[0].listExtensions()).toEqual([]);
  });
});

test('a map of one value is a factor: no texture, and the value is that of the sources', async () => {
  const rough = signWith(
    ({ json }) => {
      for (const material of json.materials)
        Object.assign(material.pbrMetallicRoughness as object, { roughnessFactor: 0.6, metallicFactor: 0.2 });
    },
    { names: ['Front', 'Back'] },
  );
  const { report, out } = await mergeByDefault({ 'sign.glb': rough });
  expect(Object.keys(report.sheets[0].maps)).toEqual(['baseColor']);
  const [material] = await materialsOf(join(out, 'sign.glb'));
  expect(material.getRoughnessFactor()).toBeCloseTo(0.6, 2);
  expect(material.getMetallicFactor()).toBeCloseTo(0.2, 2);
  expect(material.getMetallicRoughnessTexture()).toBeNull();
});
