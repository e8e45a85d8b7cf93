import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { routeSlots, routesFrom } from '@wembrel/core/decisions/routes';
import { plainSheet } from '@wembrel/core/decisions/sheets';
import { InputError } from '@wembrel/core/errors';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import fc from 'fast-check';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { beforeAll, describe, expect, test, vi } from 'vitest';
import { decide } from '../../core/test/build.ts';
import { runs } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { bakeOne } from '../src/merge/bake-one.ts';
import { bytesHash } from '../src/pictures/bytes-hash.ts';
import { decodeImage, encodePng, pixelHash, thumbnail } from '../src/pictures/codec.ts';
import { imageKind } from '../src/pictures/kind.ts';
import { pictureTasks } from '../src/pictures/picture-tasks.ts';
import { JobScope } from '../src/pool/job-scope.ts';
import { reporter } from '../src/progress.ts';
import { collectModels } from '../src/read/collect.ts';
import { logicalPath } from '../src/read/unpack.ts';
import { Delivery } from '../src/write/delivery.ts';
import { validateGltf } from '../src/write/validate.ts';
import { zipFiles } from '../src/write/zip.ts';
import { folder, mergeFolder, put, take, testScope, WORKER } from './here.ts';

describe('pictures', () => {
  const grey = (n: number) => Buffer.alloc(n * n * 3, 90);
  const png = async () =>
    new Uint8Array(
      await sharp(grey(8), { raw: { width: 8, height: 8, channels: 3 } })
        .png()
        .toBuffer(),
    );

  test('their kind is seen by their first bytes, not by their name', async () => {
    const raw = { raw: { width: 8, height: 8, channels: 3 as const } };
    expect(imageKind(await png())).toBe('png');
    expect(imageKind(new Uint8Array(await sharp(grey(8), raw).jpeg().toBuffer()))).toBe('jpeg');
    expect(imageKind(new Uint8Array(await sharp(grey(8), raw).webp().toBuffer()))).toBe('webp');
    expect(imageKind(new Uint8Array(await sharp(grey(8), raw).gif().toBuffer()))).toBeNull();
    expect(imageKind(new Uint8Array(0))).toBeNull();
  });

  test('one that is cut short, of another kind or absurdly large is refused with its name', async () => {
    const good = await png();
    for (const n of [12, 40, good.length - 20])
      await expect(decodeImage('m.glb', 'colour', good.slice(0, n))).rejects.toThrow(
        /m\.glb: the image "colour" (cannot be|is not)/,
      );
    await expect(decodeImage('m.glb', 'colour', new TextEncoder().encode('GIF89a…'))).rejects.toThrow(
      /is not PNG, JPEG, WebP, TIFF, TGA, EXR or KTX2/,
    );
    const huge = new Uint8Array(good);
    new DataView(huge.buffer).setUint32(16, 60_000);
    await expect(decodeImage('m.glb', 'colour', huge)).rejects.toThrow(InputError);
  });

  test('twins are found by pixels, whatever they are stored as', async () => {
    const noise = Buffer.from(Array.from({ length: 16 * 16 * 4 }, (_, i) => (i * 37) % 256));
    const raw = { raw: { width: 16, height: 16, channels: 4 as const } };
    const a = new Uint8Array(await sharp(noise, raw).png({ compressionLevel: 0 }).toBuffer());
    const b = new Uint8Array(await sharp(noise, raw).png({ compressionLevel: 9 }).toBuffer());
    const c = new Uint8Array(await sharp(noise, raw).webp({ lossless: true, exact: true }).toBuffer());
    const [x, y, z] = await Promise.all([a, b, c].map((bytes) => decodeImage('x', 'x', bytes)));
    expect(bytesHash(a)).not.toBe(bytesHash(b));
    expect(pixelHash(x)).toBe(pixelHash(y));
    expect(pixelHash(x)).toBe(pixelHash(z));
    z.data[5] ^= 1;
    expect(pixelHash(x)).not.toBe(pixelHash(z));
  });

  test('what is encoded comes back to the byte, and twice the same', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 20 }),
        fc.constantFrom(3 as const, 4 as const),
        async (n, channels) => {
          const data = Uint8Array.from({ length: n * n * channels }, (_, i) => (i * 73 + n) % 256);
          const once = await encodePng(data, n, n, channels);
          expect(Buffer.compare(once, await encodePng(data, n, n, channels))).toBe(0);
          const back = await decodeImage('x', 'x', once);
          for (let i = 0; i < n * n; i++)
            for (let c = 0; c < channels; c++) expect(back.data[i * 4 + c]).toBe(data[i * channels + c]);
        },
      ),
      { numRuns: runs(15) },
    );
  });

  test('a small picture fits and is not blown up', async () => {
    const big = new Uint8Array(
      await sharp(grey(300), { raw: { width: 300, height: 300, channels: 3 } })
        .png()
        .toBuffer(),
    );
    const meta = await sharp(await thumbnail(big, 96)).metadata();
    expect([meta.width, meta.height]).toEqual([96, 96]);
    expect((await sharp(await thumbnail(await png(), 96)).metadata()).width).toBe(8);
  });
});

describe('paths that come from outside', () => {
  test('never lead out, whatever they are made of', () => {
    const piece = fc.constantFrom('..', '.', '', 'a', 'b c', 'ü', '/', '\\', '\n', 'x.glb', 'C:', '%2e%2e');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        const path = logicalPath(pieces.join('/'));
        if (path === null) return;
        expect(path.split('/')).not.toContain('..');
        expect(path.startsWith('/')).toBe(false);
        expect(path).not.toContain('\\');
      }),
    );
  });

  test('are kept as they are where they are harmless', () => {
    expect(logicalPath('set/maps/colour 1.png')).toBe('set/maps/colour 1.png');
    expect(logicalPath('/set\\sign.glb')).toBe('set/sign.glb');
    expect(logicalPath('a'.repeat(401))).toBeNull();
  });
});

describe('a delivery', () => {
  test('is not there before it is complete, then all at once', async () => {
    const out = join(folder(), 'out');
    const delivery = await Delivery.begin(out);
    await delivery.write('textures/a.png', Uint8Array.of(1, 2));
    await delivery.write('model.glb', Uint8Array.of(3));
    expect((await readdir(out)).every((name) => name.startsWith('.wembrel-partial-'))).toBe(true);
    await delivery.commit([]);
    expect(Object.keys(await take(out)).sort()).toEqual(['model.glb', 'textures/a.png']);
    expect(delivery.list()).toEqual(['model.glb', 'textures/a.png']);
  });

  test('what a killed run left behind is cleared by the next', async () => {
    const out = folder();
    await mkdir(join(out, '.wembrel-partial-dead'));
    await writeFile(join(out, '.wembrel-partial-dead', 'half.glb'), 'half');
    await writeFile(join(out, 'mine.txt'), 'mine');
    const delivery = await Delivery.begin(out);
    await delivery.discard();
    expect(Object.keys(await take(out))).toEqual(['mine.txt']);
  });

  test('a folder that cannot be made is said', async () => {
    const file = join(folder(), 'file');
    await writeFile(file, '');
    await expect(Delivery.begin(join(file, 'below'))).rejects.toThrow(/the folder for the results cannot be made/);
  });
});

test('a ZIP holds the files to the byte, without times, twice the same', async () => {
  const files = { 'a.glb': sign().glb(), 'textures/b.png': Uint8Array.of(1, 2, 3) };
  const at = await put(files);
  const whole = async () => {
    const parts: Uint8Array[] = [];
    for await (const file of zipFiles(at, Object.keys(files))) parts.push(file);
    return Buffer.concat(parts);
  };
  const zip = await whole();
  const back = unzipSync(new Uint8Array(zip));
  for (const [name, bytes] of Object.entries(files)) expect(Buffer.compare(back[name], bytes)).toBe(0);
  // A year later, the same bytes still: only the clock is made up, the files are really read.
  vi.useFakeTimers({ toFake: ['Date'], now: Date.now() + 365 * 86_400_000 });
  try {
    expect(Buffer.compare(zip, await whole())).toBe(0);
  } finally {
    vi.useRealTimers();
  }
});

test('progress only ever grows over the stages and ends at 1', () => {
  const seen: number[] = [];
  const report = reporter((progress) => seen.push(progress.share));
  for (const stage of ['read', 'survey', 'plan', 'layout', 'bake', 'handover', 'compare'] as const)
    for (const within of [-1, 0, 0.5, 1, 2]) report(stage, within, '');
  expect([...seen].sort((a, b) => a - b)).toEqual(seen);
  expect(seen.at(-1)).toBe(1);
});

describe('the pool', () => {
  test('without its file it says so instead of waiting for ever', () => {
    expect(() => new JobScope('/nowhere/worker.mjs')).toThrow(/missing; build it first/);
  });

  test('an input error keeps its file and its reason across the thread border', async () => {
    const scope = new JobScope(WORKER, 1);
    const work = scope.run(pictureTasks.decode, {
      keep: true,
      path: 'a.glb',
      name: 'x',
      bytes: Uint8Array.of(1, 2, 3),
    });
    await expect(work).rejects.toMatchObject({ path: 'a.glb', reason: expect.stringContaining('"x"') });
    await scope.close();
  });
});

describe('one sheet alone', () => {
  let source: string;
  let scope: JobScope;
  beforeAll(async () => {
    source = await put({ 'a.glb': kept(buildFurniture, 0.25) });
    scope = testScope();
  });

  test('has the maps that the whole bake gives it', async () => {
    const plan = { size: 256, margin: 3, sheets: 2, name: 'halt', keepApart: ['ShelterGlass'] };
    const whole = folder();
    const { report } = await mergeFolder(source, whole, plan);
    const all = await take(whole);
    const { files } = await collectModels([source]);
    for (const [i, id] of ['1', '2'].entries()) {
      const out = folder();
      const one = await bakeOne({ files, out, decisions: decide(plan) }, id, scope);
      expect(one.sheet).toEqual(report.sheets[i]);
      const alone = await take(out);
      expect(Object.keys(alone).sort()).toEqual(one.written);
      for (const [name, bytes] of Object.entries(alone)) expect(Buffer.compare(bytes, all[name]), name).toBe(0);
    }
  });

  test('that nothing goes to is refused', async () => {
    const { files } = await collectModels([source]);
    const plan = decide({ size: 256, sheets: 2, routes: [{ slot: 'BenchSlats', to: '1' }] });
    const lone = {
      ...plan,
      sheets: [...plan.sheets, plainSheet('9', 'empty', 256, 3)],
      routes: routeSlots(
        [],
        [
          'BenchSlats',
          'CastIron',
          'FramePaint',
          'RoofZinc',
          'BackWall',
          'Timetable',
          'TicketEnamel',
          'LampGlobe',
          'BinGalvanised',
          'ClockFace',
          'PlanterStone',
          'NamePlate',
        ],
        '1',
      ),
    };
    await expect(bakeOne({ files, out: folder(), decisions: lone }, '9', scope)).rejects.toThrow(
      /no slot goes to this sheet/,
    );
  });
});

test('sheets of different sizes and margins in one delivery; an empty one is not written', async () => {
  const source = await put({ 'a.glb': sign({ names: ['A', 'B'] }).glb() });
  const out = folder();
  const { report, manifest } = await mergeFolder(source, out, {
    sheets: 3,
    size: 128,
    margin: 4,
    routes: routesFrom({ A: '1', B: '3' }),
  });
  expect(report.sheets.map((sheet) => sheet.name)).toEqual(['sheet_1', 'sheet_3']);
  expect(manifest.slots.map((slot) => [slot.slot, slot.sheet])).toEqual([
    ['A', 'sheet_1'],
    ['B', 'sheet_3'],
  ]);
  expect(Object.keys(await take(out)).filter((file) => file.includes('sheet_2'))).toEqual([]);
  expect(await validateGltf(join(out, 'a.glb'))).toEqual([]);
  expect(JSON.parse(await readFile(join(out, 'manifest.json'), 'utf8'))).toEqual(manifest);
});
