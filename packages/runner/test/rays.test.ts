import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { RaySettings } from '@wembrel/core/decisions/ray-decisions';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { writePng } from '@wembrel/core/image/png';
import { lightVertices } from '@wembrel/core/rays/cast/vertex-light';
import { readModel } from '@wembrel/core/scene/model';
import { buildFittings } from '@wembrel/demo/fittings';
import { GlbWriter } from '@wembrel/demo/glb-writer';
import { buildLamps, buildPostHigh, buildPostLow, LAMP_MOVE } from '@wembrel/demo/posts';
import { expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { decodeImage } from '../src/pictures/codec.ts';
import { newFlag, pause, stop } from '../src/pool/cancel-flag.ts';
import { JobScope } from '../src/pool/job-scope.ts';
import { cutAwayPictures } from '../src/rays/cut-away.ts';
import { type PairingRule, type RayRunOptions, runRays } from '../src/rays/ray-run.ts';
import { rayTasks } from '../src/rays/ray-tasks.ts';
import { collectModels } from '../src/read/collect.ts';
import { imageKey } from '../src/read/image-keys.ts';
import { loadModel } from '../src/read/load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { put, take, testScope } from './here.ts';
import { uvCoverage } from './uv-coverage.ts';

const pair = await put({ 'post_high.glb': kept(buildPostHigh, 10), 'post_low.glb': kept(buildPostLow) });
const lamps = await put({ 'lamps.glb': buildLamps(40) });

async function run(
  from: string,
  high: string,
  low: string,
  settings: object,
  more: Partial<RayRunOptions> & { threads?: number; cancel?: Int32Array; by?: PairingRule['by'] } = {},
) {
  const { files } = await collectModels([from]);
  const named = (name: string) => files.filter((file) => file.name === name);
  const out = await put({});
  const scope = testScope(more);
  try {
    const report = await runRays(
      {
        high: named(high),
        low: named(low),
        out,
        rule: { by: more.by ?? 'names' },
        settings: RaySettings.parse({ size: 64, samples: 4, ...settings }),
        outward: null,
        inward: null,
        ...more,
      },
      scope,
    );
    return { report, files: await take(out), out };
  } finally {
    await scope.close();
  }
}

test('the same bytes with one, two and four workers', async () => {
  const settings = {
    maps: ['normal', 'ao', 'curvature', 'thickness', 'height', 'id', 'color'],
    size: 130,
    ao: { rays: 8 },
  };
  const [one, two, four] = [1, 2, 4].map((threads) =>
    run(pair, 'post_high.glb', 'post_low.glb', settings, { threads }),
  );
  const first = (await one).files;
  expect(Object.keys(first).sort()).toEqual(
    ['ao.png', 'color.png', 'curvature.png', 'height.exr', 'id.png', 'normal.png', 'thickness.png'].map(
      (name) => `post_low_${name}`,
    ),
  );
  expect((await two).files).toEqual(first);
  expect((await four).files).toEqual(first);
});

test('a part is baked as the whole would be, and a paused bake waits until it goes on', async () => {
  const settings = { maps: ['normal', 'ao'], size: 192, ao: { rays: 8 }, padding: 0 };
  const whole = await run(pair, 'post_high.glb', 'post_low.glb', settings);
  const flag = newFlag();
  pause(flag, true);
  // Another thread lets all go on as soon as it has met one that waits; who is woken too early waits again.
  const waited = new Int32Array(new SharedArrayBuffer(4));
  const waker = new Worker(
    `const { workerData: { flag, waited } } = require('node:worker_threads');
     while ((waited[0] = Atomics.notify(flag, 1)) === 0) Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
     Atomics.store(flag, 1, 0);
     Atomics.notify(flag, 1);`,
    { eval: true, workerData: { flag, waited } },
  );
  const part = await run(pair, 'post_high.glb', 'post_low.glb', settings, {
    region: [0.1, 0.1, 0.3, 0.3],
    cancel: flag,
  });
  expect(waited[0]).toBeGreaterThan(0);
  await waker.terminate();
  const covered = await uvCoverage(join(pair, 'post_low.glb'), [192, 192]);
  for (const name of ['post_low_normal.png', 'post_low_ao.png']) {
    const [raster, b] = await Promise.all([whole, part].map((r) => decodeImage('x', name, r.files[name])));
    const bytes = raster.data.length / (192 * 192);
    // What is beyond the islands is filled anew.
    let compared = 0;
    for (let y = 0; y < 64; y++)
      for (let x = 0; x < 64; x++) {
        if (!covered[y * 192 + x]) continue;
        const at = (y * 192 + x) * bytes;
        expect(raster.data.subarray(at, at + bytes), `${x} ${y}`).toEqual(b.data.subarray(at, at + bytes));
        compared++;
      }
    expect(compared).toBeGreaterThan(500);
    // Nothing was baked beyond.
    expect(raster.data.subarray(192 * bytes * 130)).not.toEqual(b.data.subarray(192 * bytes * 130));
  }
  expect(part.report.rays).toBeLessThan(whole.report.rays / 2);
});

test('thickness and heights are those of each pairing, wherever others stand; IDs may have the colours of the materials', async () => {
  const at = await put({ 'high.glb': kept(buildFittings, 'high', 6, 6), 'low.glb': kept(buildFittings, 'low', 6, 6) });
  const settings = { maps: ['thickness', 'height', 'id'], size: 256, samples: 1, id: { by: 'own-colour' } };
  const { report } = await run(at, 'high.glb', 'low.glb', settings);
  expect(report.pairings).toHaveLength(6);
  for (const { thicknessDistance, heights } of report.pairings) {
    // Half of 0.12 … 0.165 m; side by side they are 2 m long.
    expect(thicknessDistance).toBeGreaterThan(0.059);
    expect(thicknessDistance).toBeLessThan(0.084);
    // The groove is 4 mm deep; the low-poly cuts the corners of the circle by less than a millimetre.
    expect(heights?.[0]).toBeCloseTo(-0.004, 3);
    expect(heights?.[1]).toBeLessThan(0.001);
  }
  const { legend } = report.sheets[0];
  // 0.4, 0.42, 0.44, linear.
  expect(legend).toEqual([{ name: 'Fittings', colour: '#aaadb1' }]);
});

test('opacity comes with its levels, and cuts the low-poly out', async () => {
  const { files, report } = await run(
    pair,
    'post_high.glb',
    'post_low.glb',
    { maps: ['color', 'opacity'], size: 32, samples: 1 },
    { model: true },
  );
  const levels = [1, 2, 3, 4, 5].map((l) => `post_low_opacity_mip${l}.png`);
  expect(report.written).toEqual(expect.arrayContaining(levels));
  const sides = await Promise.all(levels.map(async (level) => (await decodeImage('x', level, files[level])).width));
  expect(sides).toEqual([16, 8, 4, 2, 1]);
  const { json } = parseGlb('post_low.glb', files['post_low.glb']);
  expect((json as { materials: object[] }).materials).toMatchObject([{ name: 'post_low', alphaMode: 'MASK' }]);
});

test('what is written reads back: 8 and 16 bit, floats of height in metres', async () => {
  const { report, files } = await run(pair, 'post_high.glb', 'post_low.glb', {
    maps: ['normal', 'ao', 'height'],
    bits: 16,
  });
  expect(report.maps.map((map) => [map.kind, map.bits, map.channels])).toEqual([
    ['normal', 16, 3],
    ['ao', 16, 1],
    ['height', 32, 1],
  ]);
  const normal = await decodeImage('x', 'normal', files['post_low_normal.png']);
  expect([normal.width, normal.bits]).toEqual([64, 16]);
  // The front of the post is flat.
  const o = (20 * 64 + 6) * 4;
  expect(normal.data[o + 2]).toBeGreaterThan(65_000);
  const height = await decodeImage('x', 'height', files['post_low_height.exr']);
  expect([height.width, height.height]).toEqual([64, 64]);
  const [p] = report.pairings;
  expect(p).toMatchObject({ name: 'ticket post', sheet: 'post_low', lowTriangles: 30 });
  expect(p.high).toHaveLength(3);
  expect(p.texels).toBeGreaterThan(2000);
  expect(p.missed / p.texels).toBeLessThan(0.02);
  // Bolts and the guard stand 9 mm out of the boxes.
  expect(p.outward).toBeGreaterThan(0.008);
  expect(p.outward).toBeLessThan(0.03);
  expect(report.rays).toBeGreaterThan(10_000);
});

test('the low-poly is written with its maps: a valid file that needs nothing else', async () => {
  const maps = ['normal', 'ao', 'color', 'metallic', 'roughness', 'emissive'];
  const { report, files, out } = await run(
    pair,
    'post_high.glb',
    'post_low.glb',
    { maps, normalY: 'down' },
    { model: true },
  );
  expect(report.written).toContain('post_low.glb');
  expect(await validateGltf(join(out, 'post_low.glb'))).toEqual([]);
  const { json } = parseGlb('post_low.glb', files['post_low.glb']);
  const { materials, images, meshes } = json as {
    materials: object[];
    images: object[];
    meshes: { primitives: { attributes: object }[] }[];
  };
  expect(materials).toHaveLength(1);
  expect(images).toHaveLength(5);
  expect(Object.keys(meshes[0].primitives[0].attributes).sort()).toEqual([
    'NORMAL',
    'POSITION',
    'TANGENT',
    'TEXCOORD_0',
  ]);
});

test('lamp heads find their high-polys by standing beside them', async () => {
  const found = await run(lamps, 'lamps.glb', 'lamps.glb', { maps: ['normal', 'id'] }, { by: 'place' });
  expect(found.report.pairings.map((pairing) => [pairing.low, pairing.high])).toEqual(
    [1, 2].map((n) => [[`lamps.glb: lamp head ${n}`], [`lamps.glb: lamp head ${n} detailed`]]),
  );
  for (const pairing of found.report.pairings)
    expect((pairing.missed + pairing.stray) / pairing.texels).toBeLessThan(0.05);
  expect(found.report.sheets[0].legend.map((l) => l.name).sort()).toEqual(['LampCopper', 'LampIron']);
  const given = await run(
    lamps,
    'lamps.glb',
    'lamps.glb',
    { maps: ['normal', 'id'] },
    { rule: { by: 'place', move: LAMP_MOVE } },
  );
  expect(given.files).toEqual(found.files);
});

test('IDs by face group: whole slots and single faces, one colour each, the rest another', async () => {
  const faces = FaceDecisions.parse({
    groups: [
      { id: 'a', name: 'fittings', hue: 10, slots: ['PostSteel'] },
      { id: 'b', name: 'plate', hue: 90, faces: { 'post_high.glb': { 2: '0-100000' } } },
    ],
  });
  const { report, files } = await run(
    pair,
    'post_high.glb',
    'post_low.glb',
    { maps: ['id'], id: { by: 'group' } },
    { faces },
  );
  const named = new Map(report.sheets[0].legend.map((l) => [l.name, l.colour]));
  expect([...named.keys()].sort()).toEqual(['fittings', 'in no group', 'plate']);
  const id = await decodeImage('x', 'id', files['post_low_id.png']);
  const seen = new Set<string>();
  for (let i = 0; i < id.data.length; i += 4)
    seen.add(`#${[0, 1, 2].map((k) => id.data[i + k].toString(16).padStart(2, '0')).join('')}`);
  for (const colour of named.values()) expect(seen).toContain(colour);
});

test('AO that sees everything is darker where another pairing stands near', async () => {
  const near = await put({ 'lamps.glb': buildLamps(40) });
  const mean = async (sees: 'own' | 'all') => {
    const { files } = await run(
      near,
      'lamps.glb',
      'lamps.glb',
      { maps: ['ao'], ao: { rays: 64, sees } },
      { by: 'place' },
    );
    const ao = await decodeImage('x', 'ao', files['lamps_ao.png']);
    let sum = 0;
    for (let i = 0; i < ao.data.length; i += 4) sum += ao.data[i];
    return sum / (64 * 64);
  };
  expect(await mean('all')).toBeLessThan((await mean('own')) - 0.5);
});

/** A floor and a card half a metre above it, each its own pairing; the card's material may cut all of it away, or its left half by a texture. */
function floorAndCard(alphaMode: 'OPAQUE' | 'MASK', half = false): Uint8Array {
  const glbWriter = new GlbWriter();
  const rgba = Uint8Array.from({ length: 8 * 8 * 4 }, (_, i) => (i % 4 === 3 && Math.floor(i / 4) % 8 < 6 ? 0 : 255));
  const surface = half
    ? { baseColorTexture: { index: glbWriter.texture(writePng(rgba, 8, 8, 4), 'card') } }
    : { baseColorFactor: [1, 1, 1, 0.2] };
  const clear = glbWriter.material({ name: 'card', alphaMode, pbrMetallicRoughness: surface });
  const plain = glbWriter.material({ name: 'plain' });
  const square = (name: string, y: number, left: number, material: number) => {
    const corners = [0, 1, 2, 3].map((k) => [k % 2, k >> 1]);
    const primitive = {
      attributes: {
        POSITION: glbWriter.floats(Float32Array.from(corners.flatMap(([a, b]) => [a - 0.5, y, b - 0.5])), 'VEC3', true),
        NORMAL: glbWriter.floats(Float32Array.from(corners.flatMap(() => [0, 1, 0])), 'VEC3'),
        TEXCOORD_0: glbWriter.floats(
          Float32Array.from(corners.flatMap(([a, b]) => [left + 0.4 * a, 0.1 + 0.8 * b])),
          'VEC2',
        ),
      },
      indices: glbWriter.indices(Uint32Array.of(0, 2, 1, 1, 2, 3)),
      material,
    };
    glbWriter.node({ name, mesh: glbWriter.mesh(name, [primitive]) });
  };
  for (const end of ['high', 'low']) {
    square(`floor_${end}`, 0, 0.05, plain);
    square(`card_${end}`, 0.5, 0.55, end === 'high' ? clear : plain);
  }
  return glbWriter.glb();
}

test('AO that sees everything looks through what an alpha-tested material of another pairing cuts away', async () => {
  const light = async (alphaMode: 'OPAQUE' | 'MASK', sees: 'own' | 'all') => {
    const at = await put({ 'halt.glb': floorAndCard(alphaMode) });
    const settings = { maps: ['ao'], ao: { rays: 64, sees }, padding: 0 };
    const { files, report } = await run(at, 'halt.glb', 'halt.glb', settings, { outward: 0.05, inward: 0.05 });
    expect(report.pairings.map((pairing) => pairing.name).sort()).toEqual(['card', 'floor']);
    const ao = await decodeImage('x', 'ao', files['halt_ao.png']);
    // The middle of the floor, right under the card.
    return ao.data[(32 * 64 + 16) * 4];
  };
  expect(await light('MASK', 'own')).toBe(255);
  expect(await light('MASK', 'all')).toBe(255);
  expect(await light('OPAQUE', 'all')).toBeLessThan(170);
});

test('light into vertex colours comes in through what the texture of an alpha-tested material cuts away', async () => {
  const light = async (alphaMode: 'OPAQUE' | 'MASK') => {
    const [file] = (await collectModels([await put({ 'halt.glb': floorAndCard(alphaMode, true) })])).files;
    const model = await loadModel(file);
    const pictures = await cutAwayPictures(model);
    expect(pictures.size).toBe(alphaMode === 'MASK' ? 1 : 0);
    const sun = { direction: [0, 1, 0] as const, softness: 0, strength: 1, tint: [1, 1, 1] as const, rays: 1 };
    lightVertices(model, { ao: null, sun }, { pictures });
    const { parts } = readModel(model.path, model.document, imageKey);
    // The floor is the first part.
    return [0, 1, 2, 3].map((v) => parts[0].colors?.[v * 4]);
  };
  // The card shows the right half of its picture, of which the left half is clear: light falls on the left corners below it.
  expect(await light('MASK')).toEqual([1, 0, 1, 0]);
  expect(await light('OPAQUE')).toEqual([0, 0, 0, 0]);
});

test('reaches that are tried have no more faults than the measured ones', async () => {
  const measured = await run(pair, 'post_high.glb', 'post_low.glb', { maps: ['ao'] });
  const tried = await run(pair, 'post_high.glb', 'post_low.glb', { maps: ['ao'] }, { findReaches: true });
  const bad = (r: typeof measured) => r.report.pairings[0].missed + r.report.pairings[0].stray;
  expect(bad(tried)).toBeLessThanOrEqual(bad(measured) * 1.1 + 5);
  expect(tried.report.pairings[0].outward).not.toBe(measured.report.pairings[0].outward);
});

test('cancelled, it leaves nothing behind; without partners it says so', async () => {
  const cancel = newFlag();
  const work = run(
    pair,
    'post_high.glb',
    'post_low.glb',
    { maps: ['ao'], size: 1024, ao: { rays: 1024 } },
    {
      cancel,
      onProgress: (progress) => {
        if (progress.stage === 'bake') stop(cancel);
      },
    },
  );
  await expect(work).rejects.toThrow(Cancelled);
  await expect(run(lamps, 'lamps.glb', 'lamps.glb', {})).rejects.toThrow(InputError);
});

test('cancelled while it is cast, it says so once, and nothing fails behind it', async () => {
  const flag = newFlag();
  const failures: unknown[] = [];
  const hear = (error: unknown) => failures.push(error);
  process.on('unhandledRejection', hear);
  const ask = JobScope.prototype.run;
  // The flag goes up just before the first of two tasks that are waited for one after the other. (A spy would handle what is rejected.)
  let asked = 0;
  JobScope.prototype.run = function (this: JobScope, ...args: Parameters<typeof ask>) {
    if (args[0].name === rayTasks.meshFaults.name) {
      asked++;
      stop(flag);
    }
    return ask.apply(this, args);
  } as typeof ask;
  try {
    const settings = { maps: ['normal'], size: 64 };
    await expect(run(pair, 'post_high.glb', 'post_low.glb', settings, { cancel: flag })).rejects.toThrow(Cancelled);
    // What nobody handles is reported at the end of a turn of the event loop.
    for (let turn = 0; turn < 3; turn++) await new Promise((go) => setImmediate(go));
    expect(asked).toBe(1);
  } finally {
    JobScope.prototype.run = ask;
    process.off('unhandledRejection', hear);
  }
  expect(failures).toEqual([]);
});
