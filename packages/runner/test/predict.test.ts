import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { predict } from '@wembrel/core/predict/predict';
import { awkwardFiles, sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { beforeAll, describe, expect, test } from 'vitest';
import { decide, type Plan } from '../../core/test/build.ts';
import { sampled } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import { collectModels } from '../src/read/collect.ts';
import { readFiles } from '../src/stages/read.ts';
import { type SurveyDetails, surveyDetails } from '../src/survey/details.ts';
import { fidelityOf, folder, put, testScope } from './here.ts';

const scope = testScope();

async function both(files: Record<string, Uint8Array>, decisions: MergeDecisions) {
  const at = await put(files);
  const inputs = (await collectModels([at])).files;
  const read = await readFiles(inputs, scope);
  const details = await surveyDetails(read, inputs);
  const sizes = new Map(details.pictures.map((picture) => [picture.key, picture]));
  const predicted = predict(details.slots, decisions, (k) => sizes.get(k) ?? { width: 1, height: 1 });
  const { report } = await merge({ files: inputs, out: folder(), decisions, picture: 64 }, scope);
  return { predicted, report, details };
}

const CASES: [name: string, files: () => Record<string, Uint8Array>, plan: Plan][] = [
  [
    'the furniture, glass apart',
    () => ({ 'a.glb': kept(buildFurniture, 0.25) }),
    { size: 512, margin: 6, keepApart: ['ShelterGlass'] },
  ],
  [
    'the furniture, joined',
    () => ({ 'a.glb': kept(buildFurniture, 0.25) }),
    { size: 512, margin: 6, keepApart: ['ShelterGlass'], join: true },
  ],
  [
    'the furniture on two sheets, joined',
    () => ({ 'a.glb': kept(buildFurniture, 0.25) }),
    { size: 256, margin: 6, sheets: 2, join: true },
  ],
  ['the furniture, too small a sheet', () => ({ 'a.glb': kept(buildFurniture, 0.25) }), { size: 128, margin: 2 }],
  [
    'a pack of signs',
    () => Object.fromEntries([0, 1, 2, 3].map((i) => [`s${i}.glb`, sign().glb()])),
    { size: 128, margin: 4 },
  ],
  ['awkward files, joined', () => awkwardFiles(), { size: 256, margin: 4, join: true }],
];

describe('a prediction against what is measured after the bake', () => {
  for (const [name, files, plan] of sampled(CASES, 2))
    test(name, async () => {
      const { predicted, report } = await both(files(), decide(plan));
      expect(predicted.drawCalls).toBe(report.after.drawCalls);
      expect(predicted.slots).toBe(report.after.slots);
      expect(predicted.bytes).toEqual(report.after.distinctTextureBytes);
      expect(predicted.triangles).toBe(report.after.triangles);
      const used = predicted.sheets.filter((sheet) => sheet.slots > 0);
      expect(used).toHaveLength(report.sheets.length);
      used.forEach((predictedSheet, i) => {
        expect(predictedSheet.scale / report.sheets[i].scale).toBeGreaterThan(0.8);
        expect(predictedSheet.scale / report.sheets[i].scale).toBeLessThan(1.25);
      });
      // What cannot be merged is handed over as it was and looks the same, textures without UVs too.
      if (plan.size && plan.size >= 256) expect(fidelityOf(report).psnr ?? Infinity).toBeGreaterThan(24);
      const apart = predicted.flows.filter((flow) => flow.sheet < 0);
      expect(apart.map((flow) => flow.code).sort()).toEqual(report.keptApart.map((k) => k.code).sort());
    });
});

describe('what the views are told of the pile', () => {
  let details: SurveyDetails;
  beforeAll(async () => {
    const at = await put({ 'a.glb': kept(buildFurniture, 0.25), 'b.glb': sign().glb(), 'c.glb': sign().glb() });
    const { files } = await collectModels([at]);
    details = await surveyDetails(await readFiles(files, scope), files);
  });

  test('every slot with its look, density and parts', () => {
    expect(details.slots).toHaveLength(15);
    const [one, two] = details.slots.slice(13);
    expect(one.look).toBe(two.look);
    // One quad: 64 texels a side over the UVs that it spans, 0.6 × 0.4 m.
    expect(one.density?.median).toBeCloseTo(Math.sqrt(one.islands[0].area / 0.24), 4);
    expect(one.islands[0].area).toBeLessThan(64 * 64);
    expect(one.islands[0].area).toBeGreaterThan(0.5 * 64 * 64);
    const bench = details.slots.find((slot) => slot.name === 'BenchSlats');
    expect(bench?.parts[0]).toMatchObject({ drawCalls: 2, apart: true, joinable: true });
  });

  test('twins among textures are one row that says how many there are', () => {
    const shared = details.pictures.filter((picture) => picture.copies > 1);
    expect(shared).toMatchObject([{ copies: 2, models: 2 }]);
  });

  test('a model knows how large it is', () => {
    expect(details.models.map((model) => model.path)).toEqual(['a.glb', 'b.glb', 'c.glb']);
    expect(details.models[1].span).toBeCloseTo(0.6, 5);
  });
});

test('five hundred slots are all routed, over all sheets', async () => {
  const at = await put({ 'a.glb': kept(buildFurniture, 0.25) });
  const { files } = await collectModels([at]);
  const { slots, pictures } = await surveyDetails(await readFiles(files, scope), files);
  const many = Array.from({ length: 40 }, (_, m) =>
    slots.map((slot) => ({ ...slot, model: m, name: `${slot.name} ${m}`, look: `${slot.look} ${m % 7}` })),
  ).flat();
  const sizes = new Map(pictures.map((picture) => [picture.key, picture]));
  const prediction = predict(many, decide({ sheets: 4 }), (k) => sizes.get(k) ?? { width: 1, height: 1 });
  expect(prediction.flows).toHaveLength(520);
  expect(new Set(prediction.flows.map((flow) => flow.sheet))).toEqual(new Set([0, 1, 2, 3]));
});
