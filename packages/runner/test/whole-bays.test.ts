import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { routesFrom } from '@wembrel/core/decisions/routes';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { writePng } from '@wembrel/core/image/png';
import { GlbWriter } from '@wembrel/demo/glb-writer';
import { buildPlanters, buildWalls } from '@wembrel/demo/pieces';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildRails } from '@wembrel/demo/rails';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import { packBasis, planBasis, predictBasis } from '../src/plans/plan-basis.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { fidelityOf, folder, put, testScope } from './here.ts';

const scope = testScope();

/** A fine grid whose picture runs from dark to light along x. */
function fade(): Uint8Array {
  const glbWriter = new GlbWriter();
  const [side, n] = [64, 32];
  const rgb = new Uint8Array(side * side * 3);
  for (let i = 0; i < side * side; i++) {
    const v = 60 + 2 * (i % side);
    rgb.set([v, v, 200 - v / 2], i * 3);
  }
  const positions: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  for (let y = 0; y <= 1; y++)
    for (let x = 0; x <= n; x++) {
      positions.push((2 * x) / n, y, 0);
      uvs.push(0.02 + (0.96 * x) / n, 0.1 + 0.8 * (1 - y));
    }
  for (let x = 0; x < n; x++) indices.push(x, x + 1, x + n + 2, x, x + n + 2, x + n + 1);
  const material = glbWriter.material({
    name: 'Fade',
    pbrMetallicRoughness: {
      baseColorTexture: { index: glbWriter.texture(writePng(rgb, side, side, 3), 'fade') },
      metallicFactor: 0,
      roughnessFactor: 0.5,
    },
  });
  const primitive = {
    attributes: {
      POSITION: glbWriter.floats(Float32Array.from(positions), 'VEC3', true),
      NORMAL: glbWriter.floats(Float32Array.from(positions.flatMap((_, i) => (i % 3 === 0 ? [0, 0, 1] : []))), 'VEC3'),
      TEXCOORD_0: glbWriter.floats(Float32Array.from(uvs), 'VEC2'),
    },
    indices: glbWriter.indices(Uint32Array.from(indices)),
    material,
  };
  glbWriter.node({ name: 'fade', mesh: glbWriter.mesh('fade', [primitive]) });
  return glbWriter.glb();
}

const sheet = (more: object = {}) => ({ id: '1', name: 'halt', size: 1024, margin: 12, ...more });
const decide = (more: object) => MergeDecisions.parse({ sheets: [sheet()], effort: 1, mergeAll: true, ...more });

/** @param picture side of the pictures that are compared, px; null: they are not */
async function both(files: Record<string, Uint8Array>, decisions: MergeDecisions, picture: number | null = null) {
  const inputs = (await collectModels([await put(files)])).files;
  const basis = await planBasis({ files: inputs, decisions }, scope);
  const estimated = predictBasis(basis, decisions);
  const predicted = predictBasis(basis, decisions, await packBasis(basis, decisions, scope));
  const out = folder();
  const result = await merge(
    { files: inputs, out, decisions, compare: picture !== null, picture: picture ?? undefined },
    scope,
  );
  const { report } = result;
  expect(predicted.drawCalls).toBe(report.after.drawCalls);
  expect(predicted.slots).toBe(report.after.slots);
  expect(predicted.bytes).toEqual(report.after.distinctTextureBytes);
  expect(predicted.triangles).toBe(report.after.triangles);
  expect(Math.abs((predicted.lowestDensity as number) / (report.density?.p5 as number) - 1)).toBeLessThan(0.05);
  for (const [i, predictedSheet] of predicted.sheets.filter((x) => x.slots > 0).entries()) {
    expect(predictedSheet.scale).toBeCloseTo(report.sheets[i].scale, 5);
    expect(Math.abs(predictedSheet.coverage / report.sheets[i].coverage - 1)).toBeLessThan(0.05);
  }
  return { ...result, out, estimated, predicted };
}

type Json = { materials: { name: string; pbrMetallicRoughness: { baseColorTexture: { index: number } } }[] } & {
  textures: { sampler: number }[];
  samplers: { wrapS?: number; wrapT?: number }[];
};

describe('a tiling wall', () => {
  test('cut at its repeats it keeps its sharpness on an atlas and looks as before: worst view at least 45 dB', async () => {
    // As small as the walls are in the worst view, mip 4 is drawn, which this margin protects.
    const decisions = decide({ sheets: [sheet({ margin: 48 })], cutRepeats: ['TiledBrick'] });
    const { report, manifest, predicted } = await both({ 'walls.glb': kept(buildWalls) }, decisions, 512);
    expect(fidelityOf(report).psnr).toBeGreaterThanOrEqual(45);
    expect(report.cut).toEqual({ slots: 1, triangles: report.after.triangles - report.before.triangles });
    expect(report.cut.triangles).toBeGreaterThan(100);
    expect(predicted.flows[0].sharpness).toBe(1);
    expect(manifest.sheets[0].bays).toMatchObject([{ form: 'cell', px: [32, 32, 512, 512] }]);
  });

  test('kept apart or on a palette nothing is cut; with more than 4 repeats and no way chosen it stays apart', async () => {
    const { report } = await both(
      { 'walls.glb': kept(buildWalls), 'platform.glb': kept(buildPlatform), 'rails.glb': kept(buildRails) },
      decide({ routes: { TiledBrick: 'apart', KerbStone: 'apart' }, cutRepeats: ['TiledBrick', 'KerbStone'] }),
      64,
    );
    expect(report.cut).toEqual({ slots: 0, triangles: 0 });
    expect(report.keptApart.find((k) => k.slot === 'TiledBrick')?.code).toBe('named');
  });
});

describe('a trim sheet', () => {
  const rails = () => ({ 'rails.glb': kept(buildRails) });
  const routes = { HandrailSteel: '1', KerbStone: '1', BattenWood: '1' };
  const decisions = decide({ sheets: [sheet({ kind: 'trim', size: 512, margin: 24 })], routes, join: true });

  test('holds strips over its whole width, which go on repeating: one draw call, looks as before', async () => {
    const { report, manifest, out, estimated, predicted } = await both(rails(), decisions, 1024);
    expect(report.after.drawCalls).toBe(1);
    expect(fidelityOf(report).psnr).toBeGreaterThanOrEqual(40);
    // Strips follow from sizes: the estimate is what packing finds.
    expect(estimated.sheets[0].scale).toBe(predicted.sheets[0].scale);
    expect(manifest.sheets[0]).toMatchObject({ kind: 'trim' });
    const bays = manifest.sheets[0].bays;
    expect(bays.map((bay) => [bay.form, bay.px[0], bay.px[2], bay.px[3]])).toEqual([
      ['strip', 0, 512, 64],
      ['strip', 0, 512, 128],
      ['strip', 0, 512, 64],
    ]);
    const { json } = parseGlb('x', await readFile(join(out, 'rails.glb')));
    const { materials, textures, samplers } = json as unknown as Json;
    const sampler = samplers[textures[materials[0].pbrMetallicRoughness.baseColorTexture.index].sampler];
    expect([sampler.wrapS ?? 10497, sampler.wrapT]).toEqual([10497, 33071]);
  });

  test('on a sheet too low for it the strips take more repeats and fewer texels; where even that is too much, it says so', async () => {
    const low = decide({ sheets: [sheet({ kind: 'trim', size: 512, height: 256 })], routes });
    const { report, predicted } = await both(rails(), low);
    expect(report.sheets[0].scale).toBeLessThan(1);
    // 256 texels, a whole number of times over 512 px.
    for (const flow of predicted.flows) expect((2 / flow.sharpness) % 1).toBeCloseTo(0, 9);
    await expect(
      both(rails(), decide({ sheets: [sheet({ kind: 'trim', size: 512, height: 64, margin: 64 })], routes })),
    ).rejects.toThrow(/3 strips do not fit on the 512 × 64 px sheet "halt"/);
  });

  test('a wall that repeats both ways is cut along V for it, with fewer triangles than a cell takes; along U it goes on repeating', async () => {
    const walls = { 'walls.glb': kept(buildWalls) };
    const strip = decide({
      sheets: [sheet({ kind: 'trim', size: 512, height: 1024, margin: 48 })],
      routes: { TiledBrick: '1' },
      cutRepeats: ['TiledBrick'],
    });
    const { report, manifest, out, predicted } = await both(walls, strip, 512);
    expect(manifest.sheets[0].bays).toMatchObject([{ form: 'strip', px: [0, 32, 512, 512] }]);
    expect(fidelityOf(report).psnr).toBeGreaterThanOrEqual(45);
    expect(predicted.cutTriangles).toBe(report.cut.triangles);
    const inCells = await both(walls, decide({ cutRepeats: ['TiledBrick'] }));
    expect(report.cut.triangles).toBeGreaterThan(0);
    expect(report.cut.triangles).toBeLessThan(inCells.report.cut.triangles / 2);
    // 4.8 m of 0.8 m a repeat, over a sheet that one repeat fills; upwards all lies inside the strip.
    const [part] = (await loadModel({ path: join(out, 'walls.glb'), name: 'walls.glb' })).parts;
    const uv = part.uvs[0] as Float32Array;
    const range = (k: number) => [Math.min, Math.max].map((f) => f(...uv.filter((_, i) => i % 2 === k)));
    expect(range(0)[1] - range(0)[0]).toBeCloseTo(6, 4);
    expect(range(1)).toEqual([expect.closeTo(32 / 1024, 5), expect.closeTo(544 / 1024, 5)]);
  });

  test('what repeats up and down does not go on it uncut', async () => {
    const { report } = await both(
      { ...rails(), 'walls.glb': kept(buildWalls) },
      decide({ sheets: [sheet({ kind: 'trim', size: 512 })], routes: { ...routes, TiledBrick: '1' } }),
      64,
    );
    expect(report.keptApart).toMatchObject([{ slot: 'TiledBrick', code: 'kind' }]);
  });
});

describe('a tile sheet', () => {
  const routes = { PavingSlab: '1', PavingCracked: '1', PavingEdge: '1', PlatformSetts: '1' };
  const tile = (more: object) => decide({ sheets: [sheet({ kind: 'tile', cell: 240, ...more })], routes, join: true });

  test('gives every texture a cell of the grid, inside its gutter; faces keep their whole squares', async () => {
    const { report, manifest } = await both({ 'platform.glb': kept(buildPlatform) }, tile({}), 512);
    expect(report.after.drawCalls).toBe(1);
    expect(fidelityOf(report).psnr).toBeGreaterThanOrEqual(30);
    expect(manifest.sheets[0].bays.map((bay) => [bay.form, ...bay.px, bay.islands])).toEqual([
      ['cell', 8, 8, 240, 240, 74],
      ['cell', 264, 8, 240, 240, 6],
      ['cell', 520, 8, 240, 240, 20],
      ['cell', 776, 8, 240, 240, 20],
    ]);
  });

  test('a picture as large as its cell lies in it texel by texel, its padding on top; a smaller one is not enlarged', async () => {
    const whole = tile({ cell: 256 });
    const { report, manifest } = await both({ 'platform.glb': kept(buildPlatform) }, whole, 512);
    expect(manifest.sheets[0].bays.map((bay) => bay.px)).toEqual([
      [8, 8, 256, 256],
      [280, 8, 256, 256],
      [552, 8, 256, 256],
      [8, 280, 256, 256],
    ]);
    expect(report.sheets[0].scale).toBe(1);
    expect(fidelityOf(report).psnr ?? 99).toBeGreaterThanOrEqual(36);
    const large = await both({ 'platform.glb': kept(buildPlatform) }, tile({ cell: 512, size: 2048 }));
    expect(large.manifest.sheets[0].bays.map((bay) => bay.px)).toContainEqual([536, 8, 256, 256]);
  });

  test('reserves keep their cells; a texture that repeats over a face has to be cut first', async () => {
    const reserve = { id: 'r', x: 256, y: 0, width: 20, height: 20 };
    const decisions = tile({ reserves: [reserve] });
    const { manifest } = await both({ 'platform.glb': kept(buildPlatform) }, decisions);
    expect(manifest.sheets[0].bays.map((bay) => bay.px[0])).toEqual([8, 520, 776, 8]);
    const walls = { ...decisions, routes: routesFrom({ ...routes, TiledBrick: '1' }) };
    const files = { 'platform.glb': kept(buildPlatform), 'walls.glb': kept(buildWalls) };
    const { report } = await both(files, walls);
    expect(report.keptApart).toMatchObject([{ slot: 'TiledBrick', code: 'kind' }]);
    const cut = await both(files, { ...walls, cutRepeats: ['TiledBrick'] });
    expect(cut.report.keptApart).toEqual([]);
    expect(cut.manifest.sheets[0].bays).toHaveLength(5);
  });

  test('more textures than cells: it says so', async () => {
    await expect(both({ 'platform.glb': kept(buildPlatform) }, tile({ size: 256 }))).rejects.toThrow(
      /4 cells of 240 px \+ 2 × 8 px do not fit/,
    );
  });
});

describe('colours in vertices', () => {
  test('flat ones and a gradient look as before; all share one swatch; a slot with other maps, or kept apart, stays as it is', async () => {
    const files = { 'planters.glb': kept(buildPlanters), 'fade.glb': fade(), 'platform.glb': kept(buildPlatform) };
    const names = ['PlanterRed', 'PlanterBlue', 'Fade', 'PavingSlab', 'PlanterOchre'];
    const decisions = decide({ vertexColours: names, routes: { PlanterOchre: 'apart' }, join: true });
    const { report, manifest } = await both(files, decisions, 512);
    expect(report.coloured).toBe(3);
    expect(fidelityOf(report).psnr ?? Infinity).toBeGreaterThan(38);
    const swatches = manifest.sheets[0].bays.filter((bay) => bay.form === 'swatch');
    // Red, blue and the gradient share white, as far as they are as rough; green has its own.
    expect(swatches.map((swatch) => swatch.slot).sort()).toEqual(['Fade', 'PlanterGreen', 'PlanterRed']);
    expect(manifest.slots.find((slot) => slot.slot === 'PavingSlab')?.bays).toHaveLength(1);
  });
});
