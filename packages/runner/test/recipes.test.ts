import { join } from 'node:path';
import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { NO_INPUTS } from '@wembrel/core/recipes/inputs/input-maps';
import { prepareLines } from '@wembrel/core/recipes/prepare';
import { surfaceOfCell } from '@wembrel/core/recipes/surface';
import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { buildLampPosts } from '@wembrel/demo/dressed/lamp-posts';
import { buildLocker, lockerIds } from '@wembrel/demo/dressed/parcel-locker';
import { parcelEmblem, stopName } from '@wembrel/demo/dressed/pictures';
import { DEMO_RECIPES } from '@wembrel/demo/dressed/recipes';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildPostHigh, buildPostLow } from '@wembrel/demo/posts';
import { buildSigns } from '@wembrel/demo/signs';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { sampled } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { newFlag } from '../src/pool/cancel-flag.ts';
import { collectModels, collectPictures } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { type ApplyOptions, applyRecipe } from '../src/recipes/apply.ts';
import { type CellOptions, recipeCell } from '../src/recipes/cell.ts';
import { Looks } from '../src/recipes/looks.ts';
import { RecipeSession } from '../src/recipes/session.ts';
import { trialLoad } from '../src/trial/trial-load.ts';
import { folder, mergeFolder, put, take, testScope } from './here.ts';

const recipeOf = (lines: unknown[], more: Record<string, unknown> = {}) =>
  Recipe.parse({ recipe: 1, name: 'test', lines, ...more });

const paint = (name: string, color: string, where: unknown = null) => ({
  name,
  what: { look: { from: 'values', color, roughness: 0.4 } },
  where,
});

type More = Partial<ApplyOptions> & { scope?: ReturnType<typeof testScope> };

async function apply(input: string | string[], recipe: Recipe, more: More = {}) {
  const inputs = [input].flat();
  const [{ files }, pictures] = [await collectModels(inputs), await collectPictures(inputs)];
  const { scope = testScope(), out = folder(), ...rest } = more;
  const report = await applyRecipe(
    {
      files,
      high: [],
      maps: [],
      recipe,
      pictures: [...pictures.files, ...pictures.textures],
      out,
      size: 64,
      grid: 1,
      margin: 1,
      embed: false,
      separate: false,
      proof: false,
      ...rest,
    },
    scope,
  );
  return { report, out };
}

/** Pixels of a map. */
async function pixels(out: string, file: string) {
  const { data, info } = await sharp(join(out, file)).raw().toBuffer({ resolveWithObject: true });
  return { data, ...info };
}

/** Share of a picture's pixels that are near a colour. */
const share = (
  { data, channels }: Awaited<ReturnType<typeof pixels>>,
  colour: readonly number[],
  within = 12,
): number => {
  let n = 0;
  for (let i = 0; i < data.length; i += channels)
    n += Number(colour.every((v, c) => Math.abs(data[i + c] - v) <= within));
  return (n * channels) / data.length;
};

describe('a recipe on models', () => {
  test('the demo’s post is dressed in ten lines with what is baked from its high-poly, and loads as an engine would', async () => {
    const low = await put({ 'post_low.glb': kept(buildPostLow) });
    const high = await put({ 'post_high.glb': kept(buildPostHigh, 12) });
    const { files } = await collectModels([high]);
    const recipe = Recipe.parse(DEMO_RECIPES['ticket-post.recipe.json']);
    const { report, out } = await apply(low, recipe, { high: files, size: 128 });
    expect(report.errors).toEqual([]);
    expect(report.faults).toEqual([]);
    const [made] = report.models;
    expect(made.layout).toBe('own');
    expect(made.lines.map(({ line }) => line)).toEqual(recipe.lines.map(({ name }) => name));
    for (const { line, texels, mean } of made.lines) {
      expect(texels, line).toBeGreaterThan(20);
      expect(mean, line).toBeGreaterThan(0.01);
      expect(mean, line).toBeLessThanOrEqual(1);
    }
    expect(Object.keys(made.maps).sort()).toEqual(['baseColor', 'normal', 'orm']);
    expect(await trialLoad(out)).toMatchObject({ problems: [], drawCalls: 1, materials: 1, textures: 3 });
  });

  test('the demo’s locker takes its materials from a picture of IDs that was painted elsewhere', async () => {
    const files = {
      'parcel-locker.glb': kept(buildLocker),
      'locker-ids.png': kept(lockerIds, 256),
      'emblem_basecolor.png': kept(parcelEmblem, 64),
      'stop-name_basecolor.png': kept(stopName, 32),
    };
    const recipe = Recipe.parse(DEMO_RECIPES['parcel-locker.recipe.json']);
    const { report, out } = await apply(await put(files), recipe, { size: 256 });
    expect(report.faults.filter(({ code }) => code === 'line')).toEqual([]);
    // Blended texels along its borders are counted.
    expect(report.faults).toEqual([expect.objectContaining({ code: 'ids', message: expect.stringMatching(/texels/) })]);
    const base = await pixels(out, report.models[0].maps.baseColor);
    expect(share(base, [190, 140, 45], 50)).toBeGreaterThan(0.08);
    expect(share(base, [40, 55, 66], 30)).toBeGreaterThan(0.2);
  });

  test('several models at once are each what they are alone; one recipe fits all of them by names', async () => {
    const posts = kept(buildLampPosts, 3);
    const recipe = Recipe.parse(DEMO_RECIPES['lamp-posts.recipe.json']);
    const all = await apply(await put(posts), recipe, { size: 64 });
    expect(all.report.errors).toEqual([]);
    expect(all.report.models).toHaveLength(3);
    const together = await take(all.out);
    for (const [name, bytes] of Object.entries(posts)) {
      const { out } = await apply(await put({ [name]: bytes }), recipe, { size: 64 });
      for (const [file, own] of Object.entries(await take(out)))
        if (file !== 'manifest.json') expect(together[file], file).toEqual(own);
    }
  });

  test('the same bytes with one thread and with two, samples and all', async () => {
    const at = await put(kept(buildLampPosts, 1));
    const recipe = Recipe.parse(DEMO_RECIPES['lamp-posts.recipe.json']);
    const [one, two] = await Promise.all(
      [1, 2].map((threads) => apply(at, recipe, { size: 128, grid: 2, scope: testScope({ threads }) })),
    );
    expect(await take(one.out)).toEqual(await take(two.out));
  });

  test('a model of several slots gets one material; its nodes stay, and what a line does not reach looks as before', async () => {
    const at = await put(kept(buildLampPosts, 1));
    const { report, out } = await apply(at, recipeOf([paint('glass', '#ff0000', { of: 'slot', names: ['Lantern*'] })]));
    const [made] = report.models;
    const model = await loadModel({ name: made.path, path: join(out, made.path) });
    expect(model.slots).toHaveLength(1);
    expect(
      model.document
        .getRoot()
        .listNodes()
        .map((node) => node.getName()),
    ).toContain('lamp post');
    const base = await pixels(out, made.maps.baseColor);
    // Grey of 0.5 in linear light is 188.
    expect(share(base, [188, 188, 188], 2)).toBeGreaterThan(0.4);
    expect(share(base, [255, 0, 0], 2)).toBeGreaterThan(0.02);
    expect(made.lines[0].mean).toBe(1);
  });

  test('what a recipe names and a model lacks is said line by line, and the rest is done', async () => {
    const at = await put(kept(buildLampPosts, 1));
    const recipe = recipeOf([
      paint('handle', '#00ff00', { of: 'slot', names: ['Handle'] }),
      paint('by a lost mask', '#00ff00', { of: 'mask', picture: 'lost.png' }),
      { name: 'lost look', what: { look: { from: 'files', names: 'lost_*' } } },
      paint('all', '#0000ff'),
    ]);
    const { report, out } = await apply(at, recipe);
    expect(report.faults.map(({ subject, message }) => `${subject}: ${message}`)).toEqual([
      'lamp-post-01.glb: handle: no slot is called "Handle"; there are PostIron, LanternGlass',
      'lamp-post-01.glb: by a lost mask: left out: lost.png: there is no such picture beside the recipe',
      'lamp-post-01.glb: lost look: left out: no picture is called "lost_*"',
    ]);
    expect(share(await pixels(out, report.models[0].maps.baseColor), [0, 0, 255], 1)).toBe(1);
  });

  test('IDs are chosen by the names of materials; a soft border holds only the two colours beside it', async () => {
    const at = await put(kept(buildLampPosts, 1));
    const where = { of: 'id', names: ['Lantern*'], soft: 60 };
    const { report, out } = await apply(
      at,
      recipeOf([paint('ground', '#0000ff'), paint('lantern', '#ff0000', where)]),
      { size: 128 },
    );
    expect(report.faults).toEqual([]);
    const base = await pixels(out, report.models[0].maps.baseColor);
    let between = 0;
    for (let i = 0; i < base.data.length; i += base.channels) {
      expect(base.data[i + 1]).toBe(0);
      between += Number(base.data[i] > 20 && base.data[i] < 235);
    }
    expect(between).toBeGreaterThan(10);
  });

  test('face groups are told apart, on models and on the sheets of a merge', async () => {
    const [name] = Object.keys(kept(buildSigns));
    const at = await put({ [name]: kept(buildSigns)[name] });
    const model = await loadModel({ name, path: join(at, name) });
    const slot = model.slots[model.parts[0].slot].name;
    const faces = FaceDecisions.parse({ groups: [{ id: 'g', name: 'Plate', hue: 1, slots: [slot] }] });
    const recipe = recipeOf([
      paint('group', '#ff0000', { of: 'group', names: ['Plate'] }),
      paint('none', '#00ff00', { of: 'group', names: ['Frame'] }),
    ]);
    const { report } = await apply(at, recipe, { faces });
    expect(report.models[0].lines[0].texels).toBeGreaterThan(50);
    expect(report.faults.filter(({ code }) => code === 'line')).toEqual([
      { code: 'line', subject: `${name}: none`, message: 'no group is called "Frame"; there is Plate' },
    ]);
    const out = folder();
    const merged = await mergeFolder(at, out, {
      size: 128,
      faces,
      recipes: [RecipeUse.parse({ recipe })],
    });
    expect(merged.report.recipes[0].lines[0].texels).toBeGreaterThan(50);
  });

  test('maps that were baked before are taken from pictures, and asked for where they are missing', async () => {
    const at = await put(kept(buildLampPosts, 1));
    const half = await sharp({ create: { width: 32, height: 32, channels: 3, background: '#000' } })
      .composite([{ input: { create: { width: 16, height: 32, channels: 3, background: '#fff' } }, left: 0, top: 0 }])
      .png()
      .toBuffer();
    const maps = await collectPictures([await put({ 'lamp-post-01_convex.png': half })]);
    const recipe = recipeOf([paint('edges', '#ff0000', { of: 'convex', from: 0.5 })]);
    const { report, out } = await apply(at, recipe, { maps: maps.files.concat(maps.textures) });
    const { data, width, channels } = await pixels(out, report.models[0].maps.baseColor);
    let [left, right] = [0, 0];
    for (let i = 0; i < data.length; i += channels) {
      const x = (i / channels) % width;
      if (x < width / 2 - 2) left += Number(data[i] === 255 && data[i + 1] === 0);
      if (x > width / 2 + 2) right += Number(data[i] === 188 && data[i + 1] === 188);
    }
    // Nearly all that islands cover: the rest is beside the middle. Between islands their colours are mixed.
    expect(left + right).toBeGreaterThan(0.85 * report.models[0].coverage * width * width);
    for (const n of [left, right]) expect(n).toBeGreaterThan(300);
    await expect(
      apply(at, recipeOf([paint('dirt', '#000000', { of: 'ao', to: 0.5 })]), {
        maps: maps.files.concat(maps.textures),
      }),
    ).rejects.toThrow('lamp-post-01_ao');
  });

  test('a proof is a quarter of the side; cancelling leaves nothing behind', async () => {
    const at = await put(kept(buildLampPosts, 1));
    const { report } = await apply(at, recipeOf([paint('all', '#ff0000')]), { proof: true, size: 256 });
    expect(report.models[0].size).toBe(64);
    const cancel = newFlag();
    const out = folder();
    await expect(
      apply(at, recipeOf([paint('all', '#ff0000')]), {
        out,
        scope: testScope({ cancel }),
        onProgress: () => {
          Atomics.store(cancel, 0, 1);
        },
      }),
    ).rejects.toThrow('cancelled');
    expect(await take(out)).toEqual({});
  });

  test('a model whose slots each fill the same square of UVs is laid out anew, so that all of its lines reach all of it', async () => {
    const at = await put({ 'furniture.glb': kept(buildFurniture) });
    const { report, out } = await apply(at, recipeOf([paint('all', '#ff0000')]), { size: 256 });
    expect(report.errors).toEqual([]);
    const [made] = report.models;
    expect(made.layout).not.toBe('own');
    expect(made.apart).toEqual(['ShelterGlass']);
    // All of the sheet that islands cover, and each texel by one of them.
    expect(made.lines[0].texels).toBeGreaterThan(0.9 * made.coverage * 256 * 256);
    expect((await trialLoad(out)).problems).toEqual([]);
  });

  test.each(sampled(AWKWARD, 10).map((entry) => [entry.name, entry] as const))(
    'awkward model %s is dressed and valid, or refused in a sentence',
    async (name, entry) => {
      const recipe = recipeOf([
        paint('all', '#808040'),
        { name: 'moss', what: { look: { from: 'stock', look: 'moss' } }, where: { of: 'facing', to: 50, soft: 20 } },
      ]);
      const at = await put({ [name]: entry.build() });
      try {
        const { report, out } = await apply(at, recipe);
        expect((await trialLoad(out)).problems).toEqual([]);
        expect(report.models.length).toBeGreaterThan(0);
      } catch (error) {
        expect((error as Error).name, String(error)).toBe('InputError');
        expect((error as Error).message.length).toBeGreaterThan(20);
      }
    },
  );
});

describe('a recipe on a cell', () => {
  async function cell(recipe: Recipe, more: Partial<CellOptions> = {}, files: Record<string, Uint8Array> = {}) {
    const pictures = await collectPictures([await put({ 'none.txt': new Uint8Array(1), ...files })]);
    const out = folder();
    const report = await recipeCell(
      {
        recipe,
        pictures: [...pictures.files, ...pictures.textures],
        out,
        size: [64, 64],
        metres: [1, 1],
        grid: 2,
        proof: false,
        nearest: false,
        colours: null,
        dithered: false,
        ...more,
      },
      testScope(),
    );
    return { report, out };
  }

  test('takes loose textures by the pattern of their names, all maps of them', async () => {
    const flat = (background: string) =>
      sharp({ create: { width: 8, height: 8, channels: 3, background } })
        .png()
        .toBuffer();
    const files = {
      'slate_basecolor.png': await flat('#405060'),
      'slate_roughness.png': await flat('#404040'),
      'slate_ao.png': await flat('#c0c0c0'),
    };
    const recipe = recipeOf([{ name: 'slate', what: { look: { from: 'files', names: 'slate_*' } } }]);
    const { report, out } = await cell(recipe, {}, files);
    const base = await pixels(out, report.models[0].maps.baseColor);
    expect(share(base, [0x40, 0x50, 0x60], 0)).toBe(1);
    const orm = await pixels(out, report.models[0].maps.orm);
    expect([...orm.data.subarray(0, 3)]).toEqual([0xc0, 0x40, 0]);
  });

  test('refuses what needs a surface, and goes on with the rest', async () => {
    const recipe = recipeOf([paint('all', '#336699'), paint('edges', '#ffffff', { of: 'convex', from: 0.3 })]);
    const { report, out } = await cell(recipe);
    expect(report.faults).toEqual([
      expect.objectContaining({ code: 'cell', message: expect.stringContaining('a cell has no convex') }),
    ]);
    expect(share(await pixels(out, report.models[0].maps.baseColor), [0x33, 0x66, 0x99], 0)).toBe(1);
    await expect(cell(recipe, { strict: true })).rejects.toThrow('a cell has no convex');
  });

  test('for sheets that are read nearest: exact texels, a limited number of colours', async () => {
    const checker = new Uint8Array(16 * 4);
    for (let i = 0; i < 16; i++) checker.set((i + (i >> 2)) % 2 ? [200, 60, 20, 255] : [20, 60, 200, 255], i * 4);
    const png = await sharp(checker, { raw: { width: 4, height: 4, channels: 4 } })
      .png()
      .toBuffer();
    const recipe = recipeOf([
      { name: 'checker', what: { look: { from: 'files', names: 'checker*' }, lay: { by: 'box', metres: 1 } } },
    ]);
    const { report, out } = await cell(recipe, { nearest: true, size: [16, 16] }, { 'checker_basecolor.png': png });
    const base = await pixels(out, report.models[0].maps.baseColor);
    expect(share(base, [200, 60, 20], 0) + share(base, [20, 60, 200], 0)).toBe(1);
    const mossy = recipeOf([{ name: 'moss', what: { look: { from: 'stock', look: 'moss' } } }]);
    const few = await cell(mossy, { colours: 6, dithered: true });
    const { data, channels } = await pixels(few.out, few.report.models[0].maps.baseColor);
    const used = new Set<string>();
    for (let i = 0; i < data.length; i += channels) used.add(data.subarray(i, i + 3).join());
    expect(used.size).toBeLessThanOrEqual(6);
  });
});

describe('a recipe on the sheets of a merge', () => {
  const dusty = recipeOf([
    { name: 'dust', what: { look: { from: 'stock', look: 'grime' } }, where: { of: 'ao', from: 0.5, soft: 0.3 } },
    {
      name: 'red in front',
      what: { look: { from: 'values', color: '#ff0000' } },
      where: { of: 'facing', direction: [0, 0, 1], to: 30 },
    },
    {
      name: 'dented',
      what: { change: 'darken', by: 0.1 },
      where: { of: 'noise', size: 120, from: 0.5 },
      how: { relief: { depth: -2 } },
    },
  ]);
  const use = (models = ['*'], more: Partial<RecipeUse> = {}) => [RecipeUse.parse({ recipe: dusty, models, ...more })];
  async function merged(at: string, plan: Parameters<typeof mergeFolder>[2], threads = 2) {
    const out = folder();
    return { out, ...(await mergeFolder(at, out, plan, threads)) };
  }

  const signs = () => Object.fromEntries(Object.entries(kept(buildSigns)).slice(0, 2));

  test('is laid once materials are baked, on the models that it is for; the others are what they were, and are compared', async () => {
    const at = await put(signs());
    const [first, second] = Object.keys(signs());
    const plan = { size: 256, margin: 8, mergeAll: true };
    const plain = await merged(at, plan);
    const dressed = await merged(at, { ...plan, recipes: use([first]) });
    expect(dressed.report.faults.filter(({ code }) => code === 'recipe')).toEqual([]);
    expect(dressed.report.recipes).toMatchObject([{ sheet: 'sheet', recipe: 'test' }]);
    for (const { texels } of dressed.report.recipes[0].lines) expect(texels).toBeGreaterThan(10);
    expect((await trialLoad(dressed.out)).problems).toEqual([]);
    // Only the second was compared, and nothing of it changed.
    expect(dressed.report.fidelity?.models).toBe(1);
    expect(plain.report.fidelity?.models).toBe(2);
    const red = async (out: string) => share(await pixels(out, 'textures/sheet_baseColor.png'), [255, 0, 0], 6);
    expect(await red(dressed.out)).toBeGreaterThan(await red(plain.out));
    expect(second).not.toBe(first);
    const normals = await pixels(dressed.out, 'textures/sheet_normal.png');
    expect(share(normals, [128, 128, 255], 1)).toBeLessThan(1);
  });

  test('a model that it changes everywhere is not compared at all; one that it does not reach is named', async () => {
    const at = await put(signs());
    const plan = { size: 256, margin: 8, mergeAll: true };
    const all = await merged(at, { ...plan, recipes: use() });
    expect(all.report.fidelity).toBeNull();
    const none = await merged(at, { ...plan, recipes: use(['nothing*']) });
    expect(none.report.faults).toContainEqual({
      code: 'recipe',
      subject: 'sheet: test',
      message: 'no island of the models that it is for lies on the sheet',
    });
  });

  test('one that is for models or for a cell alone leaves its sheets as they are', async () => {
    const at = await put(signs());
    const plan = { size: 128, margin: 8, mergeAll: true };
    const plain = await merged(at, plan);
    const cell = { metres: [1, 1] as [number, number], px: 64 };
    for (const more of [{ sheets: [] }, { cell }]) {
      const other = await merged(at, { ...plan, recipes: use(['*'], more) });
      expect(await take(other.out)).toEqual(await take(plain.out));
    }
  });

  test('the same bytes with one thread and with two', async () => {
    const at = await put(signs());
    const plan = { size: 128, margin: 8, mergeAll: true, recipes: use() };
    const [one, two] = await Promise.all([1, 2].map((threads) => merged(at, plan, threads)));
    expect(await take(one.out)).toEqual(await take(two.out));
  });
});

describe('a recipe that is tuned', () => {
  const paints = (names: string[]) =>
    names.map((name) => paint(name, '#336699', { of: 'noise', size: 200, from: 0.5, soft: 0.2 }));

  async function session() {
    const scope = testScope();
    const surface = surfaceOfCell('cell', [64, 64], [1, 1]);
    const looks = new Looks(scope, []);
    const base = emptyMaps(64, 64, { normal: false, emissive: false, alpha: false, emissiveStrength: 1 });
    const one = new RecipeSession(surface, base, scope);
    let contents = 'a';
    const lay = async (lines: unknown[], more: Record<string, unknown> = {}) => {
      const recipe = recipeOf(lines, more);
      const prepared = prepareLines(recipe, surface, await looks.ofRecipe(recipe), NO_INPUTS, new Map());
      const pictures = (name: string) => `${name} ${contents}`;
      const laid = await one.lay({ recipe, prepared, inputs: NO_INPUTS, pictures });
      const fresh = await new RecipeSession(surface, base, scope).lay({
        recipe,
        prepared,
        inputs: NO_INPUTS,
        pictures,
      });
      // Whatever was kept, the result is that of all lines.
      expect(laid.maps.baseColor).toEqual(fresh.maps.baseColor);
      return laid.from;
    };
    return { lay, repaint: () => (contents = 'b') };
  }

  test('is evaluated again from the line that changed on', async () => {
    const { lay } = await session();
    const lines = paints(['a', 'b', 'c', 'd']);
    expect(await lay(lines)).toBe(0);
    expect(await lay(lines)).toBe(4);
    expect(await lay([...lines.slice(0, 2), paint('c', '#ff0000'), lines[3]])).toBe(2);
    // Another name is no change; a line that is left out is one for those behind it.
    expect(await lay([{ ...lines[0], name: 'z' }, lines[1], paint('c', '#ff0000'), lines[3]])).toBe(4);
    expect(await lay([lines[0], { ...lines[1], off: true }, paint('c', '#ff0000'), lines[3]])).toBe(1);
    expect(await lay(lines)).toBe(1);
  });

  test('a shared condition and a mask picture change the lines that read them', async () => {
    const { lay, repaint } = await session();
    const lines = [
      paint('a', '#ff0000'),
      paint('b', '#00ff00', { use: 'patches' }),
      paint('c', '#0000ff', { of: 'mask', picture: 'mask.png' }),
    ];
    const patches = (size: number) => ({ conditions: { patches: { of: 'noise', size, from: 0.5 } } });
    expect(await lay(lines, patches(100))).toBe(0);
    expect(await lay(lines, patches(120))).toBe(1);
    repaint();
    expect(await lay(lines, patches(120))).toBe(2);
  });
});
