import { readFileSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { renderView } from '@wembrel/core/compare/rasterise';
import { cellBounds } from '@wembrel/core/compare/scene';
import { Recipe, RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { STOCK } from '@wembrel/core/recipes/stock/stock';
import { groundTextures, parcelEmblem } from '@wembrel/demo/dressed/pictures';
import { buildSamplePiece, buildSlab } from '@wembrel/demo/dressed/sample-piece';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { sampled } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { collectModels, collectPictures } from '../src/read/collect.ts';
import { applyRecipe } from '../src/recipes/apply.ts';
import { captureOriginal, picturedModels, textured } from '../src/stages/compare.ts';
import { readFiles } from '../src/stages/read.ts';
import { folder, put, testScope } from './here.ts';

/**
 * The pictures of docs/recipes.md: each is drawn from the line below it. With WEMBREL_RECIPE_PICTURES=write they are written, else compared, so that a
 * condition or look that changes does not go unseen, and no sentence of the page is out of date.
 */
const DOCS = fileURLToPath(new URL('../../../docs', import.meta.url));
const WRITE = process.env.WEMBREL_RECIPE_PICTURES === 'write';
const SIDE = 224;

const page = readFileSync(join(DOCS, 'recipes.md'), 'utf8');
const sentences = [...page.matchAll(/!\[[^\]]*\]\((recipes\/[a-z-]+\.png)\)\n```json\n([^`]*)\n```/g)].map(
  ([, file, json]) => ({
    file,
    line: JSON.parse(json) as unknown,
  }),
);
const looks = Object.keys(STOCK).map((look) => ({
  file: `recipes/stock-${look}.png`,
  line: { name: look, what: { look: { from: 'stock', look } } },
}));

/** A model with a line laid on it, seen from one side under the fixed light. */
async function drawn(model: Uint8Array, line: unknown, eye: [number, number, number]): Promise<Uint8Array> {
  const at = await put({
    'piece.glb': model,
    'emblem_basecolor.png': kept(parcelEmblem, 128),
    'paving_basecolor.png': kept(groundTextures, 128)['paving_basecolor.png'],
  });
  const [{ files }, pictures] = [await collectModels([at]), await collectPictures([at])];
  const out = folder();
  const recipe = Recipe.parse({
    recipe: 1,
    name: 'picture',
    inputs: { curvature: 15, ao: 200, thickness: 250 },
    lines: [line],
  });
  const report = await applyRecipe(
    {
      files,
      high: [],
      maps: [],
      recipe,
      pictures: [...pictures.files, ...pictures.textures],
      out,
      size: 512,
      grid: 2,
      margin: 4,
      embed: false,
      separate: false,
      proof: false,
    },
    testScope(),
  );
  expect(report.faults).toEqual([]);
  const read = await readFiles([{ name: 'piece.glb', path: join(out, report.models[0].path) }], testScope());
  const original = captureOriginal(picturedModels(read), SIDE);
  const { scene, textures } = await textured(original, original.scene, 1);
  return renderView(scene, textures, { eye, bounds: cellBounds(original.scene), size: SIDE }, { reader: 0 }).lit;
}

async function check(file: string, pixels: Uint8Array): Promise<void> {
  const path = join(DOCS, file);
  const raw = { width: SIDE, height: SIDE, channels: 3 as const };
  if (WRITE) {
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, await sharp(pixels, { raw }).png({ compressionLevel: 9 }).toBuffer());
    return;
  }
  const stored = await sharp(path).removeAlpha().raw().toBuffer();
  let most = 0;
  let sum = 0;
  for (let i = 0; i < pixels.length; i++) {
    const d = Math.abs(pixels[i] - stored[i]);
    most = Math.max(most, d);
    sum += d / pixels.length;
  }
  // Powers and cosines may differ by a rounding between machines.
  expect({ most: most <= 3, mean: sum < 0.02 }, `${file}: ${most}, ${sum}`).toEqual({ most: true, mean: true });
}

describe('the page on recipes', () => {
  test('shows every kind of condition, lay and change', () => {
    const lines = sentences.map(({ line }) => RecipeLine.parse(line));
    expect(sentences.length).toBeGreaterThan(30);
    const text = JSON.stringify(lines);
    const kinds = [
      'id',
      'slot',
      'part',
      'island',
      'curvature',
      'convex',
      'concave',
      'ao',
      'thickness',
      'height',
      'position',
      'facing',
      'uv-border',
      'id-border',
      'random',
      'noise',
      'mask',
      'strokes',
    ];
    for (const kind of kinds) expect(text).toContain(`"of":"${kind}"`);
    for (const lay of ['uv', 'box', 'side', 'scatter', 'cells', 'courses']) expect(text).toContain(`"by":"${lay}"`);
  });

  test.each(WRITE ? sentences : sampled(sentences, 10))('$file is what its sentence makes', async ({ file, line }) => {
    await check(file, await drawn(kept(buildSamplePiece), line, [0.55, 0.5, 1]));
  });

  test.each(WRITE ? looks : sampled(looks, 12))('$file is the look of the stock', async ({ file, line }) => {
    await check(file, await drawn(kept(buildSlab), line, [0, 0, 1]));
  });
});
