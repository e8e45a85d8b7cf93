import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { ReadingDecisions } from '@wembrel/core/decisions/reading';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { buildLampPosts } from '@wembrel/demo/dressed/lamp-posts';
import { buildLocker } from '@wembrel/demo/dressed/parcel-locker';
import { buildPostHigh, buildPostLow } from '@wembrel/demo/posts';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { stop } from '../src/pool/cancel-flag.ts';
import { collectModels } from '../src/read/collect.ts';
import { gltfIo } from '../src/read/gltf-io.ts';
import { openLiveCell } from '../src/recipes/live/live-cell.ts';
import { LIVE_MATERIAL, LiveModel, type LiveModelOptions } from '../src/recipes/live/live-model.ts';
import { slabOf } from '../src/recipes/live/live-slab.ts';
import { put, testScope } from './here.ts';

const recipeOf = (lines: unknown[], more: Record<string, unknown> = {}) =>
  Recipe.parse({ recipe: 1, name: 'test', lines, ...more });

const paint = (name: string, color: string, where: unknown = null) => ({
  name,
  what: { look: { from: 'values', color } },
  where,
});

async function open(bytes: Uint8Array, more: Partial<LiveModelOptions> = {}, scope = testScope()) {
  const { files } = await collectModels([await put({ 'model.glb': bytes })]);
  const told: string[] = [];
  const model = await LiveModel.open(
    {
      file: files[0],
      high: [],
      others: [],
      textures: [],
      reading: ReadingDecisions.parse({}),
      faces: FaceDecisions.parse({}),
      sheet: 256,
      margin: 2,
      progress: (_, doing) => told.push(doing),
      ...more,
    },
    scope,
  );
  return { model, told, scope };
}

describe('a recipe that is tuned on a model', () => {
  test('what is baked once is not baked again, and a change is as if all were laid anew', async () => {
    const high = await collectModels([await put({ 'high.glb': kept(buildPostHigh, 12) })]);
    const { model, told } = await open(kept(buildPostLow), { high: high.files });
    const surface = await model.at(64);
    const lines = [
      paint('all', '#406050'),
      paint('edges', '#b0b0b0', { of: 'convex', from: 0.2, soft: 0.1 }),
      paint('up', '#c0a080', { of: 'facing', to: 30 }),
    ];
    await surface.lay(recipeOf(lines), []);
    const baked = told.filter((doing) => doing === 'baking convex').length;
    expect(baked).toBeGreaterThan(0);
    const changed = recipeOf([...lines.slice(0, 2), paint('up', '#2040c0', { of: 'facing', to: 50 })]);
    const again = await surface.lay(changed, []);
    expect(again.from).toBe(2);
    expect(told.filter((doing) => doing === 'baking convex')).toHaveLength(baked);
    const { model: fresh } = await open(kept(buildPostLow), { high: high.files });
    const anew = await (await fresh.at(64)).lay(changed, []);
    for (const map of ['baseColor', 'orm', 'normal'] as const)
      expect(Buffer.compare(Buffer.from(again.maps[map] ?? []), Buffer.from(anew.maps[map] ?? [])), map).toBe(0);
    // Another radius is another map.
    await surface.lay({ ...changed, inputs: { ...changed.inputs, curvature: 4 } }, []);
    expect(told.filter((doing) => doing === 'baking convex').length).toBeGreaterThan(baked);
  });

  test('the model that is shown has one material where the recipe lies, with UVs', async () => {
    const { model } = await open(kept(buildLocker));
    const document = await (await gltfIo()).readBinary(model.glb);
    const primitives = document
      .getRoot()
      .listMeshes()
      .flatMap((mesh) => mesh.listPrimitives());
    expect(primitives.length).toBeGreaterThan(0);
    for (const primitive of primitives) {
      expect(primitive.getMaterial()?.getName()).toBe(LIVE_MATERIAL);
      expect(primitive.getAttribute('TEXCOORD_0')).not.toBeNull();
    }
  });

  test('another picture under the same name is another mask at once; the same one is read once', async () => {
    const { model } = await open(kept(buildPostLow));
    const surface = await model.at(64);
    const folder = await put({});
    const maskOf = async (file: string, value: number) => {
      const path = join(folder, file);
      const pixels = Buffer.alloc(16 * 16 * 3, value);
      await writeFile(
        path,
        await sharp(pixels, { raw: { width: 16, height: 16, channels: 3 } })
          .png()
          .toBuffer(),
      );
      return { name: 'mask.png', path };
    };
    const recipe = recipeOf([paint('by mask', '#ff0000', { of: 'mask', picture: 'mask.png', from: 0.5 })]);
    const [dark, light] = [await maskOf('a.png', 0), await maskOf('b.png', 255)];
    const meanOf = async (mask: typeof dark) => (await surface.lay(recipe, [mask])).lines[0].mean;
    expect([await meanOf(dark), await meanOf(light), await meanOf(dark)]).toEqual([0, 1, 0]);
    const without = await surface.lay(recipe, []);
    expect(without.problems).toMatchObject([{ line: 'by mask', leftOut: true }]);
  });

  test('marked places survive another unwrap: the same share of the same surface', async () => {
    const glb = Uint8Array.from(kept(buildLocker));
    const bare = await (await gltfIo()).readBinary(glb);
    for (const mesh of bare.getRoot().listMeshes())
      for (const primitive of mesh.listPrimitives()) primitive.setAttribute('TEXCOORD_0', null);
    const [own, unwrapped] = [await open(glb), await open(await (await gltfIo()).writeBinary(bare))];
    expect([own.model.layout, unwrapped.model.layout]).toEqual(['own', 'unwrapped']);
    const surface = await own.model.at(256);
    const { surface: one } = surface;
    const at = [0, 1, 2].map((k) => (one.positions[k] + one.positions[3 + k] + one.positions[6 + k]) / 3);
    const places = { of: 'strokes', points: [{ at, radius: 300 }], falloff: 0.2 };
    const recipe = recipeOf([paint('here', '#ff0000', places)]);
    const before = await surface.coverageOfLine(recipe, 'here', []);
    const after = await (await unwrapped.model.at(256)).coverageOfLine(recipe, 'here', []);
    expect(before?.share).toBeGreaterThan(0.01);
    expect(Math.abs((after?.share ?? 0) / (before?.share ?? 1) - 1)).toBeLessThan(0.03);
  });

  test('one that is given up can be asked for again', async () => {
    const { model, scope } = await open(kept(buildPostLow));
    const surface = await model.at(64);
    const recipe = recipeOf([{ name: 'zinc', what: { look: { from: 'stock', look: 'zinc' } } }]);
    stop(scope.cancel);
    await expect(surface.lay(recipe, [])).rejects.toThrow();
    Atomics.store(scope.cancel, 0, 0);
    const laid = await surface.lay(recipe, []);
    expect(laid.problems).toEqual([]);
    expect(laid.lines[0].mean).toBe(1);
  });

  test('forty posts: the points of one are at the same place on all', async () => {
    const posts = kept(buildLampPosts);
    const recipe = recipeOf([
      paint('foot', '#ff0000', { of: 'strokes', points: [{ at: [0, 0.1, 0], radius: 250 }], falloff: 0.1 }),
    ]);
    const shares: number[] = [];
    for (const bytes of Object.values(posts).slice(0, 3)) {
      const { model } = await open(bytes);
      shares.push((await (await model.at(128)).coverageOfLine(recipe, 'foot', []))?.share ?? 0);
    }
    expect(Math.min(...shares)).toBeGreaterThan(0.01);
    expect(Math.max(...shares) / Math.min(...shares)).toBeLessThan(1.6);
  });
});

describe('a recipe that is tuned on a cell', () => {
  test('lies on its ground, and asks nothing that a cell does not have', async () => {
    const ground = { color: '#405060', roughness: 0.5, metallic: 0 };
    const cell = openLiveCell({ ground, pictures: [], side: 32, metres: [1, 1] }, testScope());
    const half = paint('half', '#ff0000', { of: 'position', axis: 'x', within: 'world', to: 500 });
    const laid = await cell.lay(recipeOf([half, paint('edges', '#ffffff', { of: 'convex', from: 0.1 })]), []);
    expect(laid.problems).toMatchObject([{ line: 'edges', leftOut: true }]);
    expect([...laid.maps.baseColor.subarray(0, 3)]).toEqual([255, 0, 0]);
    expect([...laid.maps.baseColor.subarray(31 * 4, 31 * 4 + 3)]).toEqual([0x40, 0x50, 0x60]);
  });

  test('a small picture of a look is one repeat of it; of one that is not there, why', async () => {
    const from = { pictures: [], looks: null };
    const zinc = await slabOf({ from: 'stock', look: 'zinc' }, from, 16, testScope());
    expect(typeof zinc === 'string' ? zinc : zinc.width).toBe(16);
    expect(await slabOf({ from: 'files', names: 'gone*' }, from, 16, testScope())).toBe('no picture is called "gone*"');
  });
});
