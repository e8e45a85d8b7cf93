import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Cancelled } from '@wembrel/core/errors';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { beforeAll, describe, expect, test } from 'vitest';
import { decide } from '../../core/test/build.ts';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import type { MergeResult } from '../src/merge/request.ts';
import { newFlag, stop } from '../src/pool/cancel-flag.ts';
import { collectModels } from '../src/read/collect.ts';
import { gltfIo } from '../src/read/gltf-io.ts';
import { imageKey } from '../src/read/image-keys.ts';
import { Images } from '../src/read/images.ts';
import { loadModel } from '../src/read/load.ts';
import { captureOriginal, compare } from '../src/stages/compare.ts';
import { stageContext } from '../src/stages/context.ts';
import { validateGltf } from '../src/write/validate.ts';
import { fidelityOf, folder, mergeFolder, put, take, testScope } from './here.ts';

type Json = Record<string, never> & Record<string, unknown>;

/** Quarter-size textures keep the tests quick; the layout and all code are those of the whole demo. */
const furniture = kept(buildFurniture, 0.25);
const decisions = { size: 512, margin: 6, keepApart: ['ShelterGlass'] };

describe('the furniture of the demo', () => {
  let source: string;
  let out: string;
  let result: MergeResult;
  beforeAll(async () => {
    source = await put({ 'stop-furniture.glb': furniture });
    out = folder();
    result = await mergeFolder(source, out, decisions, 2, { picture: 512 });
  });

  test('twelve slots become one, the glass stays under its exact name', async () => {
    expect(result.report.before.slots).toBe(13);
    expect(result.report.after.slots).toBe(2);
    const { json } = parseGlb('x', await readFile(join(out, 'stop-furniture.glb')));
    const names = (json as { materials: { name: string }[] }).materials.map((material) => material.name);
    expect(names.sort()).toEqual(['ShelterGlass', 'sheet']);
    expect(result.report.keptApart).toMatchObject([{ slot: 'ShelterGlass', code: 'named' }]);
  });

  test('at the density of the sources it looks the same: PSNR ≥ 40 dB, SSIM ≥ 0.98 in the worst view', () => {
    expect(result.report.sheets[0].scale).toBe(1);
    expect(fidelityOf(result.report).views).toHaveLength(12);
    expect(fidelityOf(result.report).psnr).toBeGreaterThanOrEqual(40);
    expect(fidelityOf(result.report).ssim).toBeGreaterThanOrEqual(0.98);
  });

  test('the open validator finds no error, and nothing refers to a source', async () => {
    expect(await validateGltf(join(out, 'stop-furniture.glb'))).toEqual([]);
    const { json } = parseGlb('x', await readFile(join(out, 'stop-furniture.glb')));
    const { images, buffers } = json as { images: { uri: string }[]; buffers: { uri?: string }[] };
    const files = Object.keys(await take(out));
    for (const i of images) expect(files).toContain(i.uri);
    expect(buffers).toHaveLength(1);
    expect(buffers[0].uri).toBeUndefined();
    const all = JSON.stringify(await readFile(join(out, 'manifest.json'), 'utf8')) + JSON.stringify(json);
    expect(all).not.toContain(source);
  });

  test('the manifest names every bay, its rectangle inside the sheet and the slots it serves', () => {
    const [sheet] = result.manifest.sheets;
    const ids = new Set(sheet.bays.map((bay) => bay.id));
    expect(result.manifest.slots).toHaveLength(12);
    for (const slot of result.manifest.slots) {
      expect(slot.bays.length).toBeGreaterThan(0);
      for (const bay of slot.bays) expect(ids.has(bay)).toBe(true);
    }
    for (const bay of sheet.bays) {
      expect(Math.min(...bay.uv)).toBeGreaterThanOrEqual(0);
      expect(Math.max(...bay.uv)).toBeLessThanOrEqual(1);
      expect(bay.px[0]).toBe(bay.uv[0] * 512);
    }
  });

  test('again, and with one thread: the same bytes', async () => {
    const [one, two] = [folder(), folder()];
    await mergeFolder(source, one, decisions, 2);
    await mergeFolder(source, two, decisions, 1);
    const once = await take(one);
    const again = await take(two);
    expect(Object.keys(again)).toEqual(Object.keys(once));
    for (const [name, bytes] of Object.entries(once)) expect(Buffer.compare(bytes, again[name]), name).toBe(0);
  });

  test('joined and embedded: fewer draw calls, one self-contained valid file, the same look', async () => {
    const other = folder();
    const { report } = await mergeFolder(source, other, { ...decisions, join: true, embed: true }, 2);
    // Bench and its legs stand there twice, so those two parts stay as they are: 2 + 2, one joined, the glass.
    expect(report.before.drawCalls).toBe(16);
    expect(report.after.drawCalls).toBe(6);
    expect(report.written).toEqual(['fidelity.json', 'manifest.json', 'report.json', 'stop-furniture.glb']);
    expect(await validateGltf(join(other, 'stop-furniture.glb'))).toEqual([]);
    const apart = await mergeFolder(source, folder(), decisions, 2);
    expect(fidelityOf(report).psnr).toBeCloseTo(fidelityOf(apart.report).psnr as number, 1);
  });

  test('a proof has the layout of the final at a quarter of the side', async () => {
    const other = folder();
    const proof = await mergeFolder(source, other, decisions, 2, { proof: true, compare: false });
    expect(proof.report.sheets[0].size).toBe(128);
    expect(proof.manifest.sheets[0].bays).toEqual(result.manifest.sheets[0].bays);
  });

  test('custom properties and instances pass through', async () => {
    const model = await loadModel({ path: join(out, 'stop-furniture.glb'), name: 'x' });
    const root = model.document
      .getRoot()
      .listNodes()
      .find((node) => node.getName() === 'stop furniture');
    expect(root?.getExtras()).toEqual({ scenario: 'Quillmoor Halt' });
    expect(
      model.parts
        .filter((part) => part.instances.length === 2)
        .map((part) => part.name)
        .sort(),
    ).toEqual(['bench', 'bench legs']);
  });
});

describe('what the comparison notices', () => {
  const source = () => put({ 'a.glb': furniture });
  const scope = testScope();

  async function against(change: (json: Json) => void) {
    const at = await source();
    const load = async () => {
      const model = await loadModel({ path: join(at, 'a.glb'), name: 'a.glb' });
      const images = new Images(scope);
      await images.add(model);
      return { model, images };
    };
    const a = await load();
    const original = captureOriginal({ models: [a.model], images: a.images }, 256);
    const io = await gltfIo();
    const { json, resources } = await io.writeJSON((await load()).model.document, {});
    change(json as never);
    const b = await io.readJSON({ json, resources });
    const { readModel } = await import('@wembrel/core/scene/model');
    const model = readModel('b.glb', b, imageKey);
    const images = new Images(scope);
    await images.add(model);
    return (await compare(original, { models: [model], images }, stageContext(scope))).fidelity;
  }

  test('nothing, when nothing changed', async () => {
    expect(await against(() => {})).toMatchObject({ psnr: null, ssim: 1 });
  });

  test('a single face gone, a wrong texture: far below the bar', async () => {
    const gone = await against((json) => {
      const meshes = json.meshes as unknown as { name: string; primitives: { indices: number }[] }[];
      const roof = meshes.find((mesh) => mesh.name === 'roof');
      const accessor = (json.accessors as unknown as { count: number }[])[roof?.primitives[0].indices as number];
      accessor.count -= 6;
    });
    expect(gone.psnr).toBeLessThan(35);
    const wrong = await against((json) => {
      const materials = json.materials as unknown as Record<string, { baseColorTexture: { index: number } }>[];
      materials[0].pbrMetallicRoughness.baseColorTexture = materials[4].pbrMetallicRoughness.baseColorTexture;
    });
    expect(wrong.psnr).toBeLessThan(35);
  });
});

describe('a pack', () => {
  test('signs that carry the same texture share one, and each model is written', async () => {
    const glb = sign().glb();
    const at = await put(Object.fromEntries(Array.from({ length: 9 }, (_, i) => [`sign-${i}.glb`, glb])));
    const out = folder();
    const { report, manifest } = await mergeFolder(at, out, { size: 128, margin: 4 });
    expect(report.before).toMatchObject({
      files: 9,
      textures: 9,
      distinctTextures: 1,
      materials: 9,
      distinctMaterials: 1,
    });
    // Their roughness is the same everywhere: a factor, no map. One texture beside nine files counts once.
    expect(report.after).toMatchObject({ files: 9, textures: 1, distinctTextures: 1, distinctMaterials: 1 });
    expect(report.after.textureBytes).toEqual(report.after.distinctTextureBytes);
    expect(manifest.sheets[0].bays).toMatchObject([{ islands: 9 }]);
    expect(report.written.filter((file) => file.endsWith('.glb'))).toHaveLength(9);
    expect(report.written.filter((file) => file.endsWith('.png'))).toHaveLength(1);
  });

  test('names that are required are held against what was written', async () => {
    const at = await put({ 'a.glb': sign().glb(), 'b.glb': sign().glb() });
    const required = { requiredNames: ['sheet', 'Glass'], requiredTextures: ['sheet_*'] };
    const { report } = await mergeFolder(at, folder(), { size: 128, ...required });
    expect(report.faults.filter((fault) => fault.code === 'required name')).toEqual([
      { code: 'required name', subject: 'Glass', message: 'no slot is called "Glass", as is required' },
    ]);
  });

  test('files of one name in two folders do not overwrite each other', async () => {
    const at = await put({ 'a/sign.glb': sign().glb(), 'b/Sign.glb': sign().glb() });
    const { report } = await mergeFolder(at, folder(), { size: 128 });
    expect(report.written.filter((file) => file.endsWith('.glb'))).toEqual(['Sign_2.glb', 'sign.glb']);
  });

  test('two sheets hold what one would', async () => {
    const at = await put({ 'a.glb': furniture });
    const { report, manifest } = await mergeFolder(at, folder(), { ...decisions, sheets: 2, name: 'halt' }, 2, {
      compare: false,
    });
    expect(report.sheets.map((sheet) => sheet.name)).toEqual(['halt_1', 'halt_2']);
    expect(new Set(manifest.slots.map((slot) => slot.sheet))).toEqual(new Set(['halt_1', 'halt_2']));
    expect(report.after.slots).toBe(3);
  });

  test('a bad file among good ones is reported, the others are merged; strict gives up', async () => {
    const at = await put({ 'a.glb': sign().glb(), 'b.glb': sign().glb().slice(0, 400) });
    const { report } = await mergeFolder(at, folder(), { size: 128 });
    expect(report.errors).toMatchObject([{ path: 'b.glb' }]);
    expect(report.written).toContain('a.glb');
    await expect(mergeFolder(at, folder(), { size: 128 }, 2, { strict: true })).rejects.toThrow(/cut short/);
  });
});

describe('stopping and failing', () => {
  test('cancelled in the middle: nothing is left behind, and it can be run again', async () => {
    const at = await put({ 'a.glb': furniture });
    const out = folder();
    const { files } = await collectModels([at]);
    for (const stage of ['read', 'layout', 'bake', 'handover'] as const) {
      const scope = testScope();
      const work = merge(
        {
          files,
          out,
          picture: 128,
          decisions: decide(decisions),
          onProgress: (progress) => {
            if (progress.stage === stage) Atomics.store(scope.cancel, 0, 1);
          },
        },
        scope,
      );
      await expect(work, stage).rejects.toThrow(Cancelled);
      await scope.close();
      expect(Object.keys(await take(out)), stage).toEqual([]);
    }
    const { report } = await mergeFolder(at, out, decisions, 2, { compare: false });
    expect(Object.keys(await take(out)).sort()).toEqual([...report.written].sort());
  });

  test('the delivery is there before it is compared; a comparison that is cancelled or left out changes no other byte', async () => {
    const at = await put({ 'a.glb': sign().glb() });
    const plan = { size: 64, margin: 4, effort: 0 };
    const out = folder();
    const compared = await mergeFolder(at, out, plan);
    expect(fidelityOf(compared.report)).toEqual(JSON.parse(await readFile(join(out, 'fidelity.json'), 'utf8')));
    const { 'fidelity.json': _, ...others } = await take(out);
    const left = await mergeFolder(at, out, plan, 2, { compare: false });
    expect([left.report.fidelity, left.worst]).toEqual([null, null]);
    expect(await take(out)).toEqual(others);
    const cancel = newFlag();
    const scope = testScope({ cancel });
    const [{ files }, other] = [await collectModels([at]), folder()];
    const there: boolean[] = [];
    const told: (string[] | null)[] = [];
    const { report } = await merge(
      {
        files,
        out: other,
        decisions: decide(plan),
        picture: 64,
        onProgress: ({ stage }) => {
          if (stage !== 'compare') return;
          there.push(existsSync(join(other, 'a.glb')));
          stop(cancel);
        },
        onDelivered: async (delivered) => {
          told.push(delivered.report.fidelity ? null : Object.keys(await take(other)).sort());
        },
      },
      scope,
    );
    await scope.close();
    expect(there[0]).toBe(true);
    expect(told).toEqual([report.written]);
    expect(report.fidelity).toBeNull();
    expect(await take(other)).toEqual(others);
  });

  test('sources are never overwritten', async () => {
    const at = await put({ 'sign.glb': sign().glb() });
    await expect(mergeFolder(at, at, { size: 128 })).rejects.toThrow(/it is a source/);
    expect(Buffer.compare((await take(at))['sign.glb'], sign().glb())).toBe(0);
  });

  test('a model of which nothing can be merged is handed over as it is, and says why, slot by slot', async () => {
    const at = await put({ 'no-uvs.glb': sign({ uvs: false }).glb() });
    const { report } = await mergeFolder(at, folder(), { size: 128 });
    expect(report.keptApart).toMatchObject([{ slot: 'SignEnamel', code: 'no-uvs' }]);
    expect(report.sheets).toEqual([]);
    expect(report.written).toContain('no-uvs.glb');
    expect(fidelityOf(report).psnr).toBeNull();
  });
});
