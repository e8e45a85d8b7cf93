import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { InputError } from '@wembrel/core/errors';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { writePng } from '@wembrel/core/image/png';
import { sign } from '@wembrel/demo/broken';
import { buildBollards, buildPlanters, buildTram, buildWalls } from '@wembrel/demo/pieces';
import { buildSigns, SIGN_COUNT } from '@wembrel/demo/signs';
import { describe, expect, test } from 'vitest';
import { runs, seeds } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { surveyPile } from '../src/survey/pile.ts';
import { fidelityOf, folder, put, take, testScope } from './here.ts';

const scope = testScope();

async function repaired(files: Record<string, Uint8Array>, repairs: object, more: object = {}) {
  const at = await put(files);
  const out = folder();
  const found = await collectModels([at]);
  const decisions = MergeDecisions.parse({ keepAll: true, repairs, ...more });
  const result = await merge({ files: found.files, textures: found.textures, out, decisions, picture: 128 }, scope);
  return { ...result, out, at };
}

const urisOf = (glb: Uint8Array) =>
  ((parseGlb('x', glb).json as { images?: { uri?: string }[] }).images ?? []).map((i) => i.uri);

describe('forty signs with private copies of one palette', () => {
  test('one action: 40 textures become 1, every sign names that one file, and still looks the same without its source', async () => {
    const signs = kept(buildSigns);
    const { files } = await collectModels([await put(signs)]);
    const { report, details } = await surveyPile(files, scope);
    const duplicates = report.findings.filter((finding) => finding.code === 'duplicate-textures');
    expect(duplicates).toHaveLength(1);
    expect(report.totals).toMatchObject({ textures: SIGN_COUNT, distinctTextures: 1 });
    // Listed one by one, those of another encoding too.
    expect(details.pictures[0].places.map((place) => place.model).sort((a, b) => a - b)).toEqual(
      files.map((_, i) => i),
    );
    expect(details.slots.every((slot) => slot.uv?.swatches === slot.uv?.islands)).toBe(true);
    expect(duplicates[0].action).toMatchObject({ do: 'repair' });

    const { out, at, report: done } = await repaired(signs, { shareDuplicates: true });
    await rm(at, { recursive: true });
    const delivered = await take(out);
    const pictures = Object.keys(delivered).filter((file) => file.startsWith('textures/'));
    expect(pictures).toHaveLength(1);
    const models = Object.keys(delivered).filter((file) => file.endsWith('.glb'));
    expect(models).toHaveLength(SIGN_COUNT);
    for (const name of models) {
      expect(urisOf(delivered[name])).toEqual(pictures);
      const model = await loadModel({ name, path: join(out, name) });
      expect(model.slots[0].look.baseColor).not.toBeNull();
    }
    expect(done.repaired.sharedTextures).toBe(SIGN_COUNT - 1);
    expect(done.after).toMatchObject({ distinctTextures: 1, drawCalls: SIGN_COUNT, triangles: done.before.triangles });
    expect(done.after.distinctTextureBytes.bc7 * SIGN_COUNT).toBe(done.before.textureBytes.bc7);
    // Signs whose own bytes stay are drawn from the same data as before: they need no comparison.
    const { psnr, models: compared } = fidelityOf(done);
    expect(psnr).toBeNull();
    expect(compared).toBeLessThan(SIGN_COUNT);
  }, 120_000);
});

describe('other repairs, through to the delivery', () => {
  test('a texture stored at what it shows is smaller and looks the same', async () => {
    const bollards = { 'bollards.glb': kept(buildBollards, 12) };
    const { files } = await collectModels([await put(bollards)]);
    const { report } = await surveyPile(files, scope);
    const store = report.findings.filter(
      (finding) => finding.code === 'oversized-texture' && finding.action?.do === 'repair',
    );
    const storeAt = Object.assign(
      {},
      ...store.map((finding) => finding.action?.do === 'repair' && finding.action.repairs.storeAt),
    );
    expect(Object.keys(storeAt).length).toBeGreaterThan(0);
    const { report: done } = await repaired(bollards, { storeAt });
    expect(done.repaired.resized).toBe(Object.keys(storeAt).length);
    expect(done.after.textureBytes.bc7).toBe(
      done.before.textureBytes.bc7 - store.reduce((sum, finding) => sum + (finding.saves.bytes ?? 0), 0),
    );
    expect(fidelityOf(done).psnr ?? 99).toBeGreaterThan(40);
  }, 60_000);

  test('a flat texture becomes a factor that looks exactly like it', async () => {
    const glbWriter = sign();
    const flat = glbWriter.texture(
      writePng(
        Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) => [200, 100, 50][i % 3]),
        64,
        64,
        3,
      ),
      'flat',
    );
    Object.assign(glbWriter.json.materials[0], { pbrMetallicRoughness: { baseColorTexture: { index: flat } } });
    const source = { 'a.glb': glbWriter.glb() };
    const { files } = await collectModels([await put(source)]);
    const { report } = await surveyPile(files, scope);
    const found = report.findings.find((finding) => finding.code === 'flat-texture');
    expect(found?.action?.do).toBe('repair');
    const { report: done, out } = await repaired(source, found?.action?.do === 'repair' ? found.action.repairs : {});
    expect(done.repaired.factors).toBe(1);
    expect(done.after.textures).toBe(0);
    expect(Object.keys(await take(out)).some((file) => file.endsWith('.png'))).toBe(false);
    expect(fidelityOf(done).psnr ?? 99).toBeGreaterThan(45);
  });

  test('sources stay as they are, whatever is mended', async () => {
    const files = { 'walls.glb': kept(buildWalls), 'planters.glb': kept(buildPlanters) };
    const { at } = await repaired(files, {
      shareDuplicates: true,
      dropFaces: true,
      weldNormals: true,
      makeInstances: true,
      harden: ['TiledBrick'],
    });
    for (const [name, bytes] of Object.entries(files))
      expect(new Uint8Array(await readFile(join(at, name)))).toEqual(bytes);
  });

  test('merging mends first: what is baked comes from the mended sources', async () => {
    const files = { 'planters.glb': kept(buildPlanters) };
    const { report } = await repaired(
      files,
      { shareDuplicates: true },
      { keepAll: false, join: true, sheets: [{ id: '1', name: 's', size: 64, margin: 3 }] },
    );
    expect(report.after.drawCalls).toBe(1);
    expect(report.sheets).toHaveLength(1);
  });
});

test('the pieces of the demo show what they are there for', async () => {
  const { files } = await collectModels([
    await put({ 'walls.glb': kept(buildWalls), 'tram.glb': kept(buildTram), 'planters.glb': kept(buildPlanters) }),
  ]);
  const { report } = await surveyPile(files, scope);
  const about = (code: string) =>
    report.findings.filter((finding) => finding.code === code).map((finding) => finding.subject);
  expect(about('repeats')).toEqual(['TiledBrick']);
  expect(about('uv-tiles')).toEqual(['TramBody']);
  expect(about('uneven-tiles')).toEqual(['TramBody']);
  expect(about('factor-materials')).toEqual(['PlanterRed']);
  expect(about('normal-y-down')).toEqual([]);
});

test('damaged GLB files, 2 000 where all is tested: each is read or refused with a sentence', async () => {
  const good = sign().glb();
  const at = folder();
  const path = join(at, 'x.glb');
  const json = new DataView(good.buffer, good.byteOffset).getUint32(12, true);
  let refused = 0;
  for (const seed of seeds(2000)) {
    let s = (seed * 2654435761) | 1;
    const next = (n: number) => {
      s ^= s << 13;
      s ^= s >>> 17;
      s ^= s << 5;
      return (s >>> 0) % n;
    };
    let bytes = Uint8Array.from(good);
    // Mostly digits, names and brackets of the JSON part, where everything else is described.
    for (let k = 0; k <= next(4); k++) {
      const where = next(3) === 0 ? next(bytes.length) : 20 + next(json);
      bytes[where] = next(2) === 0 ? 48 + next(10) : next(256);
    }
    if (next(8) === 0) bytes = bytes.slice(0, next(bytes.length));
    await writeFile(path, bytes);
    await loadModel({ name: 'x.glb', path }).catch((error) => {
      if (!(error instanceof InputError)) throw new Error(`seed ${seed}: ${(error as Error).stack}`);
      refused++;
    });
  }
  expect(refused).toBeGreaterThan(runs(2000) / 4);
  expect(refused).toBeLessThan(runs(2000));
}, 60_000);

describe('one name for what looks the same', () => {
  const names = (glb: Uint8Array) =>
    (parseGlb('x', glb).json as { materials: { name: string }[] }).materials.map(({ name }) => name);
  const SIGNS = {
    'a.glb': sign({ names: ['Enamel_01', 'Rim'] }).glb(),
    'b.glb': sign({ names: ['Enamel_02', 'Rim'] }).glb(),
    'c.glb': sign({ names: ['Enamel_02', 'Кант'] }).glb(),
  };

  test('three signs: the name that most have, in all models, whatever their textures were called', async () => {
    const { out } = await repaired(SIGNS, { shareDuplicates: true }, { sameNames: true });
    const delivered = await take(out);
    for (const name of Object.keys(SIGNS)) expect(names(delivered[name])).toEqual(['Enamel_02', 'Rim']);
  });

  test('without being asked for every model keeps its own', async () => {
    const { out } = await repaired(SIGNS, { shareDuplicates: true });
    const delivered = await take(out);
    expect(Object.keys(SIGNS).map((name) => names(delivered[name]))).toEqual([
      ['Enamel_01', 'Rim'],
      ['Enamel_02', 'Rim'],
      ['Enamel_02', 'Кант'],
    ]);
  });

  test('in a merge, what is kept apart gets one name and sheets keep theirs', async () => {
    const more = {
      keepAll: false,
      mergeAll: true,
      sameNames: true,
      routes: ['Enamel_01', 'Enamel_02'].map((slot) => ({ slot, to: 'apart' })),
    };
    const { out } = await repaired(SIGNS, {}, more);
    const delivered = await take(out);
    for (const name of Object.keys(SIGNS)) expect(names(delivered[name]).sort()).toEqual(['Enamel_02', 'sheet']);
  });
});
