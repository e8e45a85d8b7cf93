import { readdirSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { StandInSpec } from '@wembrel/core/decisions/stand-in';
import { insideOutline } from '@wembrel/core/math/outline';
import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import type { Awkward } from '@wembrel/demo/awkward/entry';
import { lathe } from '@wembrel/demo/geometry';
import { GlbWriter } from '@wembrel/demo/glb-writer';
import { buildNewsKiosk } from '@wembrel/demo/news-kiosk';
import { laid, primitive } from '@wembrel/demo/pieces';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { sampled } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { newFlag } from '../src/pool/cancel-flag.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { makeStandIns, type StandInOptions } from '../src/stand-in/make.ts';
import { trialLoad } from '../src/trial/trial-load.ts';
import { folder, put, take, testScope } from './here.ts';

const kiosk = () => kept(buildNewsKiosk, 1 / 48, 64);

async function standIns(
  input: string,
  spec: Partial<StandInSpec> = {},
  more: Partial<StandInOptions> & { scope?: ReturnType<typeof testScope>; out?: string } = {},
) {
  const { files } = await collectModels([input]);
  const { scope = testScope(), out = folder(), ...rest } = more;
  const full = StandInSpec.parse({ size: 256, margin: 1, samples: 1, ...spec });
  const report = await makeStandIns(
    { files, out, spec: full, embed: false, profiles: [], proof: false, compare: true, ...rest },
    scope,
  );
  return { report, out };
}

describe('stand-ins', () => {
  test('a kiosk of thirteen slots becomes one that draws once, looks the same from afar, and loads as an engine would', async () => {
    const source = await put({ 'kiosk.glb': kiosk() });
    const { report, out } = await standIns(source, {
      goal: { triangles: 3000 },
      distance: 30,
      size: 1024,
      margin: 4,
      samples: 4,
    });
    const [made] = report.models;
    expect(report.errors).toEqual([]);
    expect(made.before).toMatchObject({ slots: 13, drawCalls: 13 });
    expect(made.after).toMatchObject({ slots: 1, drawCalls: 1 });
    expect(made.after.triangles).toBeLessThanOrEqual(3000);
    expect(made.hidden).toBeGreaterThan(300);
    expect(made.fidelity?.outline).toBeGreaterThan(0.99);
    // The atlas is read four times minified from there, across margins of two px; from most sides it is nearer to the truth than its source.
    for (const { base, own } of made.fidelity?.views ?? [])
      expect(base).toBeGreaterThan(Math.min(34, (own.base ?? Infinity) - 5));
    expect(made.fidelity?.views.filter(({ base, own }) => (base ?? 99) > (own.base ?? 99)).length).toBeGreaterThan(3);
    expect(Object.keys(made.maps).sort()).toEqual(['baseColor', 'emissive', 'normal', 'orm']);
    const trial = await trialLoad(out);
    expect(trial).toMatchObject({ problems: [] });
    expect(trial.models.map(({ file }) => file)).toEqual(made.lods.map(({ path }) => path));
    // All levels show the same files.
    expect(trial.textures).toBe(4);
  });

  test('the jars inside are gone, and so is what they would have stained', async () => {
    const source = await put({ 'kiosk.glb': kiosk() });
    const { report } = await standIns(source, { goal: { triangles: 3000 } }, { compare: false });
    expect(report.models[0].reaches.inward).toBeLessThan(0.1);
    expect(report.models[0].texels.missed / report.models[0].texels.all).toBeLessThan(0.02);
  });

  test('a hull is watertight in the file as well; all levels are lighter than the one before', async () => {
    const source = await put({ 'kiosk.glb': kiosk() });
    const { report, out } = await standIns(
      source,
      { as: 'hull', goal: { triangles: 2000 }, cell: 0.1 },
      { compare: false },
    );
    const [made] = report.models;
    expect(made.watertight).toBe(true);
    expect(made.volume.after).toBeGreaterThan(5);
    const triangles = made.lods.map((lod) => lod.triangles);
    expect(triangles).toEqual([...triangles].sort((a, b) => b - a));
    const [part] = (await loadModel({ name: made.path, path: join(out, made.path) })).parts;
    const edges = new Map<string, number>();
    const place = (v: number) => part.positions.subarray(v * 3, v * 3 + 3).join();
    for (let i = 0; i < part.indices.length; i++) {
      const [a, b] = [part.indices[i], part.indices[i % 3 === 2 ? i - 2 : i + 1]].map(place).sort();
      edges.set(`${a} ${b}`, (edges.get(`${a} ${b}`) ?? 0) + 1);
    }
    expect([...edges.values()].every((count) => count === 2)).toBe(true);
  });

  test('a goal in px is kept where it is measured, and is lighter from farther away', async () => {
    const source = await put({ 'kiosk.glb': kiosk() });
    const near = await standIns(source, { goal: { px: 2 }, distance: 10 }, { proof: true });
    const far = await standIns(source, { goal: { px: 2 }, distance: 60 }, { proof: true });
    for (const { report } of [near, far]) expect(report.models[0].outlinePx).toBeLessThanOrEqual(2);
    expect(far.report.models[0].after.triangles).toBeLessThan(near.report.models[0].after.triangles * 0.8);
  });

  test('the same bytes with one thread and with two', async () => {
    const source = await put({ 'kiosk.glb': kiosk() });
    for (const as of ['simplified', 'hull'] as const) {
      const spec = { as, goal: { triangles: 800 }, cell: 0.2 };
      const [one, two] = await Promise.all(
        [1, 2].map((threads) => standIns(source, spec, { scope: testScope({ threads }), compare: false })),
      );
      expect(await take(one.out)).toEqual(await take(two.out));
    }
  });

  test('alpha-blended slots stay as they are, in every level; named ones too', async () => {
    const source = await put({ 'pane.glb': pane() });
    const { report, out } = await standIns(source, { goal: { triangles: 12 }, levels: [0.5] }, { compare: false });
    const [made] = report.models;
    expect(made.apart).toEqual(['Glass']);
    expect(made.after).toMatchObject({ slots: 2, drawCalls: 2 });
    const { slots } = await loadModel({ name: made.path, path: join(out, made.path) });
    expect(slots.map(({ look }) => look.alphaMode).sort()).toEqual(['BLEND', 'OPAQUE']);
    await expect(standIns(source, { apart: ['Frame'] })).rejects.toThrow('nothing is left to bake');
  });

  test('glowing brighter than white is kept by the material', async () => {
    const source = await put({ 'pane.glb': pane([4, 2, 0]) });
    const { report, out } = await standIns(source, { levels: [] }, { compare: false });
    const { slots } = await loadModel({ name: 'pane.glb', path: join(out, report.models[0].path) });
    const frame = slots.find(({ look }) => look.alphaMode === 'OPAQUE');
    expect(frame?.look.emissiveFactor).toEqual([expect.closeTo(4, 2), expect.closeTo(2, 1), 0]);
  });

  test('cards show the outline to a hundredth, from both sides, on the same sheet; the model itself stays opaque', async () => {
    const source = await put({ 'ball.glb': ball(0.5) });
    const { report, out } = await standIns(source, {
      goal: { triangles: 2000 },
      cards: 1,
      levels: [],
      size: 512,
      samples: 4,
    });
    const [full, card] = report.models[0].lods;
    expect([full.card, card.card]).toEqual([false, true]);
    expect(card.triangles).toBe(12);
    expect(card.distance).toBeGreaterThan(full.distance);
    const read = (path: string) => loadModel({ name: path, path: join(out, path) });
    const [flat, whole] = [await read(card.path), await read(full.path)];
    expect(whole.slots[0].look.alphaMode).toBe('OPAQUE');
    expect(flat.slots[0].look.alphaMode).toBe('MASK');
    const { data, info } = await sharp(await readFile(join(out, report.models[0].maps.baseColor)))
      .raw()
      .toBuffer({ resolveWithObject: true });
    const [part] = flat.parts;
    const uv = part.uvs[0] as Float32Array;
    for (const side of [0, 1]) {
      // Corners of the polygon, which is a fan: the first of each triangle, then the two others in turn.
      const corners = [...new Set(part.indices.subarray(side * 18, side * 18 + 18))];
      const outline = corners.map((v): [number, number] => [uv[v * 2] * info.width, uv[v * 2 + 1] * info.height]);
      const middle = [0, 1].map((k) => outline.reduce((sum, p) => sum + p[k], 0) / outline.length);
      outline.sort(
        (a, b) => Math.atan2(a[1] - middle[1], a[0] - middle[0]) - Math.atan2(b[1] - middle[1], b[0] - middle[0]),
      );
      let covered = 0;
      for (let y = 0; y < info.height; y++)
        for (let x = 0; x < info.width; x++)
          if (data[(y * info.width + x) * 4 + 3] >= 128 && insideOutline(outline, x + 0.5, y + 0.5)) covered++;
      const area = (list: readonly (readonly number[])[]) =>
        Math.abs(
          list.reduce(
            (sum, [x, y], i) => sum + (x * list[(i + 1) % list.length][1] - y * list[(i + 1) % list.length][0]) / 2,
            0,
          ),
        );
      const metres = outline.map((p) => {
        const v = corners.find(
          (one) => uv[one * 2] * info.width === p[0] && uv[one * 2 + 1] * info.height === p[1],
        ) as number;
        return [...part.positions.subarray(v * 3, v * 3 + 3)];
      });
      // A ball is as deep as wide: its card may stand across any axis.
      const flatAxis = [0, 1, 2].findIndex((k) => metres.every((metre) => Math.abs(metre[k] - metres[0][k]) < 1e-3));
      const shown = (covered * area(metres.map((metre) => metre.filter((_, k) => k !== flatAxis)))) / area(outline);
      expect(Math.abs(shown / (Math.PI * 0.25) - 1)).toBeLessThan(0.01);
    }
  });

  test('skinned models are refused in words, the others of the run are made', async () => {
    const source = await put({ 'skinned.glb': awkward('skin-with-weights-of-zero'), 'pane.glb': pane() });
    const { report } = await standIns(source, { goal: { triangles: 12 }, levels: [] }, { compare: false });
    expect(report.models.map(({ source }) => source)).toEqual(['pane.glb']);
    expect(report.errors).toEqual([{ path: 'skinned.glb', message: expect.stringContaining('it is skinned') }]);
  });

  test('awkward models are made or refused in a sentence', async () => {
    const files = sampled(AWKWARD, 4).map(({ name, build }) => [name, build()] as const);
    const source = await put(Object.fromEntries(files));
    const { report } = await standIns(
      source,
      { size: 64, levels: [0.5], goal: { triangles: 500 } },
      { compare: false },
    );
    expect(report.models.length + report.errors.length).toBe(files.length);
    expect(report.models.length).toBeGreaterThan(files.length / 2);
    for (const { message } of report.errors) expect(message).not.toMatch(/undefined|NaN|is not a|cannot read/i);
  });

  test('cancelled in any stage, nothing is left behind', async () => {
    const source = await put({ 'kiosk.glb': kiosk() });
    const seen = new Set<string>();
    const stages = sampled(
      ['outline', 'faces', 'simplifying', 'unwrapping', 'casting', 'levels', 'writing', 'comparing'],
      2,
    );
    for (const doing of stages) {
      const cancel = newFlag();
      const out = folder();
      const run = standIns(
        source,
        { goal: { triangles: 1500 } },
        {
          out,
          scope: testScope({ cancel }),
          onProgress: (progress) => {
            if (!progress.doing.includes(doing)) return;
            seen.add(doing);
            Atomics.store(cancel, 0, 1);
          },
        },
      );
      await expect(run).rejects.toThrow();
      expect(readdirSync(out)).toEqual([]);
    }
    expect(seen.size).toBe(stages.length);
  });
});

const awkward = (name: string): Uint8Array => (AWKWARD.find((one) => one.name.startsWith(name)) as Awkward).build();

/** A bar beside a pane of glass. @param glow of the frame */
function pane(glow?: [number, number, number]): Uint8Array {
  const writer = new GlbWriter();
  const root = writer.node({ name: 'window' });
  const frame = writer.material({
    name: 'Frame',
    pbrMetallicRoughness: { baseColorFactor: [0.4, 0.3, 0.2, 1] },
    ...(glow
      ? {
          emissiveFactor: [1, glow[1] / glow[0], 0],
          extensions: { KHR_materials_emissive_strength: { emissiveStrength: glow[0] } },
        }
      : {}),
  });
  const glass = writer.material({
    name: 'Glass',
    alphaMode: 'BLEND',
    pbrMetallicRoughness: { baseColorFactor: [0.8, 0.9, 1, 0.3] },
  });
  const bar = (x: number, y: number, w: number, h: number, depth: number, material: number) => {
    const positions: number[] = [];
    for (let c = 0; c < 8; c++) positions.push(x + (c & 1 ? w : 0), y + (c & 2 ? h : 0), c & 4 ? depth : 0);
    const faces = [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ];
    return {
      attributes: { POSITION: writer.floats(Float32Array.from(positions), 'VEC3', true) },
      indices: writer.indices(Uint32Array.from(faces.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]))),
      material,
    };
  };
  writer.node({ name: 'frame', mesh: writer.mesh('frame', [bar(0, 0, 1, 0.1, 0.1, frame)]) }, root);
  writer.node({ name: 'glass', mesh: writer.mesh('glass', [bar(0.1, 0.1, 0.8, 0.8, 0.02, glass)]) }, root);
  return writer.glb();
}

/** A ball of a radius. */
function ball(radius: number): Uint8Array {
  const writer = new GlbWriter();
  const root = writer.node({ name: 'ball' });
  const material = writer.material({ name: 'Paint', pbrMetallicRoughness: { baseColorFactor: [0.7, 0.2, 0.1, 1] } });
  const profile = Array.from({ length: 49 }, (_, i): [number, number] => [
    radius * Math.sin((i * Math.PI) / 48) + 1e-6,
    radius * Math.cos((i * Math.PI) / 48),
  ]);
  const laidOut = laid(lathe([0, 0, 0], profile, 96), (_, u, v) => [u, v]);
  writer.node({ name: 'ball', mesh: writer.mesh('ball', [primitive(writer, laidOut, material)]) }, root);
  return writer.glb();
}
