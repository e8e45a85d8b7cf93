import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { sign } from '@wembrel/demo/broken';
import { buildKiosk, buildPlanters } from '@wembrel/demo/pieces';
import { buildSign } from '@wembrel/demo/signs';
import { buildBracket } from '@wembrel/demo/simple-formats';
import { describe, expect, test } from 'vitest';
import { kept } from '../../../packages/demo/test/kept.ts';
import { put, temporary, wembrel } from './here.ts';

describe('survey', () => {
  test('a budget, required names, a CSV and a page come from one call; the document says what is over', async () => {
    const at = await put({ 'planters.glb': kept(buildPlanters), '=danger.glb': sign().glb() });
    const out = temporary();
    const budget = join(out, 'budget.json');
    await writeFile(budget, JSON.stringify({ drawCalls: 2, density: 100 }));
    const ran = await wembrel([
      ...['survey', at, '--json', '--details', '--budget', budget, '--required', 'Planter*'],
      ...['--csv', join(out, 'a.csv'), '--html', join(out, 'a.html')],
    ]);
    expect([ran.code, ran.err]).toEqual([0, '']);
    const report = JSON.parse(ran.out);
    expect(report.overBudget.drawCalls).toBe(report.totals.drawCalls / 2);
    expect(report.findings.map((finding: { code: string }) => finding.code)).toEqual(
      expect.arrayContaining(['factor-materials', 'required-names']),
    );
    expect(report.details.slots).toHaveLength(report.totals.slots);
    const csv = (await readFile(join(out, 'a.csv'), 'utf8')).split('\r\n');
    expect(csv[0]).toMatch(/^model,draw calls,/);
    expect(csv.some((line) => line.startsWith("'=danger.glb,"))).toBe(true);
    const html = await readFile(join(out, 'a.html'), 'utf8');
    expect(html).toMatch(/^<!doctype html>/);
    expect(html).not.toMatch(/<script|https?:|src="(?!data:)/);
    expect(await readdir(out)).toEqual(['a.csv', 'a.html', 'budget.json']);
  });

  test('a budget as a gate: 3 where it is exceeded, 0 within it, 1 where a file cannot be read, 2 without a budget', async () => {
    const at = await put({ 'planters.glb': kept(buildPlanters) });
    const gate = async (drawCalls: number, ...more: string[]) => {
      const budget = join(temporary(), 'budget.json');
      await writeFile(budget, JSON.stringify({ drawCalls }));
      return wembrel(['survey', at, '--gate', '--budget', budget, ...more]);
    };
    const over = await gate(2);
    expect([over.code, over.err]).toEqual([3, '']);
    expect(over.out).toContain('over budget: draw calls');
    expect((await gate(500)).code).toBe(0);
    const bad = await put({ 'bad.glb': new Uint8Array(20) });
    expect((await gate(2, bad)).code).toBe(1);
    expect((await wembrel(['survey', at, '--gate'])).code).toBe(2);
  });

  test('units, loose textures and their options', async () => {
    const at = await put({ 'bracket.stl': kept(buildBracket), ...kept(buildKiosk) });
    const spans = async (...more: string[]) => {
      const { details } = JSON.parse((await wembrel(['survey', at, '--json', '--details', ...more])).out);
      return details.models.find((model: { format: string }) => model.format === 'stl').span as number;
    };
    expect(await spans()).toBeCloseTo(0.08, 6);
    expect(await spans('--unit', '0.01')).toBeCloseTo(0.8, 5);
    const human = await wembrel(['survey', at]);
    expect(human.out).toContain('kiosk_Panels_ORM.png: occlusion, roughness, metallic of kiosk: Panels');
    expect(human.out).toContain('kiosk sketch.png: not used: its name ends like no map');
  });

  test.each([
    [['--budget', 'toaster'], /--budget takes phone/],
    [['--unit', '-1'], /--unit/],
    [['--up', 'x'], /--up takes y or z/],
    [['--reading', '/nowhere.json'], /--reading/],
  ])('%j is wrong usage', async (args, says) => {
    const at = await put({ 'a.glb': sign().glb() });
    const { code, err } = await wembrel(['survey', at, ...args]);
    expect(code).toBe(2);
    expect(err).toMatch(says);
  });
});

describe('repair', () => {
  test('three signs become three files and one texture, and say what was done', async () => {
    const at = await put({ 'a.glb': kept(buildSign, 0), 'b.glb': kept(buildSign, 1), 'c.glb': kept(buildSign, 4) });
    const out = temporary();
    const { code, out: text } = await wembrel(['repair', at, '--out', out, '--json']);
    expect(code).toBe(0);
    const report = JSON.parse(text);
    expect(report.repaired.sharedTextures).toBe(2);
    expect(report.written.filter((word: string) => word.endsWith('.png'))).toHaveLength(1);
    expect(report.sheets).toEqual([]);
    expect(report.keptApart).toHaveLength(3);
  });

  test('without a folder for the results it is wrong usage; a bad file is reported and the others go on', async () => {
    const at = await put({ 'a.glb': kept(buildSign, 0), 'bad.glb': kept(buildSign, 1).slice(0, 300) });
    expect((await wembrel(['repair', at])).code).toBe(2);
    const out = temporary();
    const { code, err } = await wembrel(['repair', at, '--out', out]);
    expect(code).toBe(1);
    expect(err.trim().split('\n')).toHaveLength(1);
    expect((await readdir(out)).filter((file) => file.endsWith('.glb'))).toEqual(['a.glb']);
  });
});
