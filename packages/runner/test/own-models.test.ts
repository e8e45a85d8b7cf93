import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { unwrapModel } from '@wembrel/core/unwrap/unwrap';
import { buildFittings } from '@wembrel/demo/fittings';
import { buildPlanters } from '@wembrel/demo/pieces';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildSigns } from '@wembrel/demo/signs';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { changeModels } from '../src/models/change-models.ts';
import { makePalette } from '../src/models/palette.ts';
import { makeTileSheet } from '../src/models/tile-sheet.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { folder, put } from './here.ts';

const inputs = async (files: Record<string, Uint8Array>) => (await collectModels([await put(files)])).files;

/** Bytes of a PNG at UVs, by triangle middle; keyed by the place of the triangle's middle. */
async function coloursOf(
  path: string,
  base: (dir: string) => Promise<{ data: Buffer; width: number; height: number }>,
) {
  const model = await loadModel({ path, name: 'm.glb', key: 'm.glb' } as never);
  const { data, width, height } = await base(path);
  const out = new Map<string, number[]>();
  for (const part of model.parts)
    for (let t = 0; t < part.indices.length; t += 3) {
      const v = [0, 1, 2].map((k) => part.indices[t + k]);
      const middle = [0, 1, 2].map((k) => v.reduce((sum, i) => sum + part.positions[3 * i + k], 0) / 3);
      const [a, b] = [0, 1].map((k) => v.reduce((sum, i) => sum + (part.uvs[0] as Float32Array)[2 * i + k], 0) / 3);
      const o = (Math.floor(b * height) * width + Math.floor(a * width)) * 4;
      out.set(`${part.name} ${middle.map((m) => m.toFixed(5)).join()}`, [...data.subarray(o, o + 3)]);
    }
  return out;
}

const raw = async (bytes: Uint8Array) => {
  const { data, info } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height };
};

describe('a palette for many models', () => {
  test('signs with private copies of one texture: one material and one texture, every face within 1/255', async () => {
    const signs = Object.entries(kept(buildSigns)).slice(0, 6);
    const files = Object.fromEntries(signs.map(([name, bytes]) => [name.split('/').pop() as string, bytes]));
    const list = await inputs(files);
    const out = folder();
    const options = {
      name: 'palette',
      colours: 64,
      swatch: 8,
      order: 'hue',
      ramp: 0,
      join: false,
      embed: false,
      strict: false,
    } as const;
    const report = await makePalette({ ...options, files: list, out, cancelled: () => false });
    expect(report.maxError).toBe(0);
    expect(report.faces.left).toBe(0);
    expect(report.written.filter((word) => word.startsWith('textures/'))).toHaveLength(1);
    const palette = await raw(new Uint8Array(await readFile(join(out, 'textures/palette_baseColor.png'))));
    for (const [i, file] of list.entries()) {
      const path = join(out, report.models[i].path);
      expect(await validateGltf(path)).toEqual([]);
      const before = await coloursOf(file.path, async () => {
        const model = await loadModel(file);
        return raw(model.document.getRoot().listTextures()[0].getImage() as Uint8Array);
      });
      const after = await coloursOf(path, async () => palette);
      expect(after.size).toBe(before.size);
      for (const [key, c] of before)
        for (let k = 0; k < 3; k++) expect(Math.abs((after.get(key) as number[])[k] - c[k])).toBeLessThanOrEqual(1);
      const read = await loadModel({ ...file, path });
      expect(read.slots.map((slot) => slot.name)).toEqual(['palette']);
    }
  });

  test('parts that share the palette are joined when that is asked for', async () => {
    const files = { 'planters.glb': kept(buildPlanters) };
    const base = { name: 'p', colours: 64, swatch: 8, order: 'hue', ramp: 0, embed: true, strict: false } as const;
    const made = async (join: boolean) => {
      const run = { ...base, join, files: await inputs(files), out: folder(), cancelled: () => false };
      return (await makePalette(run)).models[0].drawCalls;
    };
    const [apart, joined] = [await made(false), await made(true)];
    expect(apart.before).toBe(joined.before);
    expect(joined.after).toBeLessThan(apart.after);
  });

  test('nothing in one colour, and too few swatches, are said', async () => {
    const platform = await inputs({ 'platform.glb': kept(buildPlatform) });
    const options = {
      name: 'p',
      colours: 4,
      swatch: 8,
      order: 'use',
      ramp: 0,
      join: false,
      embed: false,
      strict: false,
    } as const;
    const run = makePalette({ ...options, files: platform, out: folder(), cancelled: () => false });
    await expect(run).rejects.toThrow(/no face shows one colour/);
  });
});

test('a tile sheet: cracked slabs are mixed in by their share, each face shows its whole cell', async () => {
  const pictures = folder();
  const tile = (r: number) =>
    sharp({ create: { width: 52, height: 52, channels: 3, background: { r, g: 20, b: 30 } } }).png();
  const images = ['slab', 'cracked', 'edge'].map((name) => join(pictures, `${name}.png`));
  await Promise.all(images.map((path, i) => tile(50 + i * 50).toFile(path)));
  const out = folder();
  const report = await makeTileSheet({
    images: images.map((path) => ({ name: path, path })),
    out,
    name: 'paving',
    width: 128,
    height: 128,
    cell: 52,
    gutter: 6,
    around: 'repeat',
    sense: 'colour',
    models: await inputs({ 'platform.glb': kept(buildPlatform) }),
    mix: new Map([
      [
        'PavingSlab',
        [
          { tile: 'slab', share: 9 },
          { tile: 'cracked', share: 1 },
        ],
      ],
      ['PavingEdge', [{ tile: 'edge', share: 1 }]],
    ]),
    roles: new Map(),
    flips: new Map(),
    turns: true,
    seed: 3,
    embed: false,
  });
  const [model] = report.models;
  const [slab] = model.slots;
  const total = slab.faces.slab + slab.faces.cracked;
  expect(Math.abs(slab.faces.cracked - total / 10)).toBeLessThan(1);
  expect(model.left).toEqual(['PavingCracked', 'PlatformSetts']);
  const path = join(out, model.path);
  expect(await validateGltf(path)).toEqual([]);
  const read = await loadModel({ path, name: 'platform.glb', key: 'platform.glb' } as never);
  const used = new Set<string>();
  const rects = report.tiles.map((tile) => tile.uv);
  for (const part of read.parts.filter((x) => read.slots[x.slot].name === 'paving'))
    for (let i = 0; i < part.indices.length; i += 3) {
      const us = [0, 1, 2].map((k) => (part.uvs[0] as Float32Array)[2 * part.indices[i + k]]);
      const vs = [0, 1, 2].map((k) => (part.uvs[0] as Float32Array)[2 * part.indices[i + k] + 1]);
      const box = [Math.min(...us), Math.min(...vs), Math.max(...us), Math.max(...vs)];
      const at = rects.findIndex((rect) => rect.every((v, k) => Math.abs(v - box[k]) < 1e-6));
      expect(at).toBeGreaterThanOrEqual(0);
      used.add(report.tiles[at].name);
    }
  expect(used).toEqual(new Set(['slab', 'cracked', 'edge']));
  // All but the picture is that of the slot.
  const [source] = await inputs({ 'platform.glb': kept(buildPlatform) });
  const was = (await loadModel(source)).slots.find((slot) => slot.name === 'PavingSlab')?.look;
  const is = read.slots.find((slot) => slot.name === 'paving')?.look;
  expect(is).toMatchObject({ baseColorFactor: was?.baseColorFactor, doubleSided: was?.doubleSided });
  // Without its map, paving is no metal.
  expect(is?.metallicFactor).toBe(0);
  expect(is?.roughnessFactor).toBeGreaterThan(0.5);
  expect(is?.roughnessFactor).toBeLessThan(1);
});

test('unwrapped models are valid and written once; a bad file is reported and the others go on', async () => {
  const files = await inputs({ 'platform.glb': kept(buildPlatform), 'torn.glb': kept(buildPlatform).slice(0, 400) });
  const out = folder();
  const lay = { set: 1, together: true, size: 512, margin: 4, effort: 0, seed: 1, slots: [] };
  const charts = { method: 'charts', axis: 'y', stretch: 1.05, spread: 1.25, cutAngle: 180 } as const;
  const done = await changeModels({ files, out, embed: true, strict: false, cancelled: () => false }, (model) =>
    unwrapModel(model, { ...charts, ...lay }),
  );
  expect(done.models).toHaveLength(1);
  expect(done.models[0].stretch).toBeCloseTo(1, 4);
  expect(done.errors.map((error) => error.path)).toEqual(['torn.glb']);
  expect(done.written).toEqual(['platform.glb']);
  expect(await validateGltf(join(out, 'platform.glb'))).toEqual([]);
});

test('sixty charts of turned fittings: each a rectangle or a disc, and seven tenths of the sheet are covered', async () => {
  const [file] = await inputs({ 'fittings.glb': kept(buildFittings, 'low', 20, 20) });
  const report = unwrapModel(await loadModel(file), {
    method: 'charts',
    axis: 'y',
    stretch: 1.05,
    spread: 1.25,
    cutAngle: 180,
    size: 1024,
    margin: 12,
    effort: 6,
    seed: 1,
    set: 0,
    together: false,
    slots: [],
  });
  expect(report.charts).toBe(60);
  expect(report.stretch).toBeCloseTo(1, 3);
  expect(report.coverage).toBeGreaterThanOrEqual(0.7);
});
