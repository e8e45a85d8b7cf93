import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { BUDGETS } from '@wembrel/core/decisions/budget';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { overPlan } from '@wembrel/core/predict/propose/propose';
import { takeProposal } from '@wembrel/core/predict/propose/take';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildBollards, buildKiosk, buildPlanters, buildTram, buildWalls } from '@wembrel/demo/pieces';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildRails } from '@wembrel/demo/rails';
import { buildSigns } from '@wembrel/demo/signs';
import { buildBracket, buildNoticeBoard, buildStone } from '@wembrel/demo/simple-formats';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import { packBasis, planBasis, predictBasis, proposeBasis } from '../src/plans/plan-basis.ts';
import { collectModels } from '../src/read/collect.ts';
import { folder, put, testScope } from './here.ts';
import { uvCoverage } from './uv-coverage.ts';

const scope = testScope();

const furniture = () => ({ 'stop.glb': kept(buildFurniture, 0.25) });
const someSigns = () => Object.fromEntries(Object.entries(kept(buildSigns)).slice(0, 6));
/** A small Quillmoor Halt; the bollards are light. */
const halt = () => ({
  ...furniture(),
  ...someSigns(),
  'planters.glb': kept(buildPlanters),
  'walls.glb': kept(buildWalls),
  'bollards.glb': kept(buildBollards, 12),
});

/** Everything that the demo can show, but for signs and turns of the bollards that are only more of the same. */
const everything = () => ({
  ...halt(),
  ...kept(buildKiosk),
  ...buildNoticeBoard(),
  'tram.glb': kept(buildTram),
  'rails.glb': kept(buildRails),
  'platform.glb': kept(buildPlatform),
  'stone.ply': kept(buildStone),
  'bracket.stl': kept(buildBracket),
});

const sheet = (more: object = {}) => ({ id: '1', name: 'halt', size: 512, margin: 4, ...more });
const decide = (more: object) => MergeDecisions.parse({ sheets: [sheet()], effort: 1, ...more });

const CASES: [name: string, files: () => Record<string, Uint8Array>, decisions: MergeDecisions][] = [
  [
    'twice as wide as high, maps of their own sizes, room kept free, by detail',
    furniture,
    decide({
      sheets: [
        sheet({
          size: 1024,
          height: 512,
          maps: { orm: 2, emissive: 'off', normal: 4 },
          reserves: [{ id: '1', x: 768, y: 256, width: 256, height: 256, note: 'polish' }],
        }),
      ],
      scale: 'detail',
    }),
  ],
  ['importance', furniture, decide({ weights: { Timetable: 2, BackWall: 0.5 }, sheets: [sheet({ size: 256 })] })],
  [
    'slots of one colour on a palette by rule, repeats baked in by name',
    () => ({ ...someSigns(), 'planters.glb': kept(buildPlanters), 'walls.glb': kept(buildWalls) }),
    decide({
      sheets: [sheet(), sheet({ id: 'p', name: 'colours', kind: 'palette', size: 64, margin: 0 })],
      rules: [{ id: '1', when: { kind: 'flat' }, to: 'p' }],
      bakeRepeats: ['TiledBrick'],
      join: true,
    }),
  ],
  [
    'everything on two sheets, joined, at one density',
    everything,
    decide({
      sheets: [sheet(), sheet({ id: '2', name: 'more' })],
      scale: 'even',
      join: true,
      effort: 0,
    }),
  ],
];

describe('a packed prediction against what is measured after the bake', () => {
  for (const [name, files, decisions] of CASES)
    test(name, async () => {
      const { files: inputs, textures } = await collectModels([await put(files())]);
      const basis = await planBasis({ files: inputs, textures, decisions }, scope);
      const prediction = predictBasis(basis, decisions, await packBasis(basis, decisions, scope));
      const { report } = await merge({ files: inputs, textures, out: folder(), decisions, compare: false }, scope);
      expect(prediction.drawCalls).toBe(report.after.drawCalls);
      expect(prediction.slots).toBe(report.after.slots);
      expect(prediction.bytes).toEqual(report.after.distinctTextureBytes);
      expect(prediction.textures).toBe(report.after.distinctTextures);
      expect(prediction.triangles).toBe(report.after.triangles);
      const used = prediction.sheets.filter((sheet) => sheet.slots > 0);
      if (decisions.scale === 'even') expect(used[1].scale).toBeCloseTo(used[0].scale, 9);
      used.forEach((predictedSheet, i) => {
        expect(predictedSheet.scale).toBeCloseTo(report.sheets[i].scale, 5);
        expect(
          Math.abs(predictedSheet.coverage / report.sheets[i].coverage - 1),
          `coverage of ${report.sheets[i].name}`,
        ).toBeLessThan(0.05);
      });
      expect(Math.abs((prediction.lowestDensity as number) / (report.density?.p5 as number) - 1)).toBeLessThan(0.05);
    }, 120_000);
});

test('maps are written at the sizes decided, or not at all; room kept free stays free', async () => {
  const [, files, decisions] = CASES[0];
  const out = folder();
  const inputs = (await collectModels([await put(files())])).files;
  const { report, layout } = await merge({ files: inputs, out, decisions, compare: false }, scope);
  const sizeOf = async (map: string) => {
    const { width, height } = await sharp(join(out, report.sheets[0].maps[map])).metadata();
    return [width, height];
  };
  expect(report.sheets[0]).toMatchObject({ size: 1024, width: 1024, height: 512 });
  expect(Object.keys(report.sheets[0].maps).sort()).toEqual(['baseColor', 'normal', 'orm']);
  expect(await sizeOf('baseColor')).toEqual([1024, 512]);
  expect(await sizeOf('orm')).toEqual([512, 256]);
  expect(await sizeOf('normal')).toEqual([256, 128]);
  for (const plot of layout.sheets[0].plots) {
    const [w, h] = plot.turns % 2 ? [plot.boxHeight, plot.boxWidth] : [plot.boxWidth, plot.boxHeight];
    // A true shape may reach round a corner with its box, so its texels are asked below; boxes must not lie inside.
    expect(plot.x >= 768 && plot.y >= 256 && plot.x + w <= 1024 && plot.y + h <= 512).toBe(false);
  }
  for (const file of report.written.filter((name) => name.endsWith('.glb'))) {
    const covered = await uvCoverage(join(out, file), [1024, 512], report.sheets[0].name);
    expect(covered.some((texel) => texel > 0)).toBe(true);
    for (let y = 256; y < 512; y++)
      expect(
        covered.subarray(y * 1024 + 768, (y + 1) * 1024).some((texel) => texel > 0),
        `${file}, row ${y}`,
      ).toBe(false);
  }
});

test('without the map of occlusion, roughness and metallic, factors stand for it', async () => {
  const inputs = (await collectModels([await put(furniture())])).files;
  const out = folder();
  const decisions = decide({ sheets: [sheet({ maps: { orm: 'off' } })] });
  await merge({ files: inputs, out, decisions, compare: false }, scope);
  const { json } = parseGlb('x', new Uint8Array(await readFile(join(out, 'stop.glb'))));
  const { materials } = json as { materials: { name: string; pbrMetallicRoughness: Record<string, unknown> }[] };
  const made = materials.find((material) => material.name.startsWith('halt'))?.pbrMetallicRoughness;
  expect(made?.metallicRoughnessTexture).toBeUndefined();
  expect(made?.roughnessFactor).toBeGreaterThan(0.3);
  expect(made?.roughnessFactor).toBeLessThan(1);
  expect(made?.metallicFactor).toBeLessThan(0.6);
});

test('a proposal for all of the halt under the budget of a standalone headset meets every line, also when it is packed', async () => {
  // The bollards are lighter than in the demo, and still far over the triangles.
  const pieces = {
    ...halt(),
    'bollards.glb': kept(buildBollards, 100),
    'tram.glb': kept(buildTram),
    'rails.glb': kept(buildRails),
    'platform.glb': kept(buildPlatform),
  };
  const inputs = (await collectModels([await put(pieces)])).files;
  const start = decide({ budget: BUDGETS.headset, effort: 1 });
  const basis = await planBasis({ files: inputs, decisions: start }, scope);
  const proposal = proposeBasis(basis, start, scope, { effort: 300 });
  expect(proposal.before.triangles).toBeGreaterThan(BUDGETS.headset.triangles as number);
  expect(proposal.reductions).toMatchObject([{ name: 'bollard', copies: 30 }]);
  expect(proposal.over).toEqual({});
  expect(proposal.after.drawCalls).toBeLessThan(proposal.before.drawCalls);
  // Rails that would each stay apart are cut at their repeats and become one.
  expect([...proposal.decisions.cutRepeats].sort()).toEqual(['BattenWood', 'HandrailSteel', 'KerbStone']);
  expect(proposal.routes.find((route) => route.name === 'KerbStone')?.why).toMatch(
    /cut at its repeats, \d+ more triangles/,
  );
  const packed = predictBasis(basis, proposal.decisions, await packBasis(basis, proposal.decisions, scope));
  expect(overPlan(basis.slots, packed, proposal.decisions, basis.sizes)).toEqual({});
  // Asked again, it says the same; taken in part, only what was taken is cut.
  const again = proposeBasis(basis, proposal.decisions, scope, { effort: 300 });
  expect(again.decisions).toEqual(proposal.decisions);
  const part = takeProposal(start, proposal, new Set(['KerbStone', 'TicketEnamel']), false);
  expect(part.cutRepeats).toEqual(['KerbStone']);
  expect(part.repairs.reduce).toEqual({});
}, 120_000);
