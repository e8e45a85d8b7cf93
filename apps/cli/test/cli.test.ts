import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildGlb, parseGlb } from '@wembrel/core/formats/gltf/glb';
import { awkwardFiles, brokenFiles, sign } from '@wembrel/demo/broken';
import { describe, expect, test } from 'vitest';
import { SPOILED } from '../../../packages/core/test/malformed.ts';
import { put, temporary, wembrel } from './here.ts';

const STACK = /\n\s+at |Error:|\.m?js:\d/;

describe('bad input', () => {
  test('every broken file of the demo and thirty more: one sentence each, exit code 1, no stack trace', async () => {
    const good = sign().glb();
    const { json, bin } = parseGlb('x', good);
    const files: Record<string, Uint8Array> = { ...brokenFiles() };
    for (const { name, spoil } of SPOILED) {
      const copy = structuredClone(json);
      spoil(copy as never);
      files[`${name}.glb`] = buildGlb(copy, bin);
    }
    files['empty.glb'] = new Uint8Array(0);
    files['text.glb'] = new TextEncoder().encode('not a model');
    files['half.gltf'] = new TextEncoder().encode('{"asset":{"version":"2.0"');
    const at = await put(files);
    const { code, out, err } = await wembrel(['survey', at, '--json']);
    expect(code).toBe(1);
    const report = JSON.parse(out);
    const models = Object.keys(files).filter((file) => /\.(glb|gltf)$/.test(file));
    expect(models.length).toBeGreaterThan(38);
    expect(report.errors.map((error: { path: string }) => error.path).sort()).toEqual(models.sort());
    for (const { path, message } of report.errors) {
      expect(message.length, path).toBeGreaterThan(8);
      expect(message, path).not.toMatch(/\n|undefined|NaN is not|Cannot read prop|is not a function|at byte NaN/);
      const wanted = SPOILED.find((spoiled) => `${spoiled.name}.glb` === path);
      if (wanted) expect(message).toMatch(wanted.says);
    }
    expect(err.trim().split('\n')).toHaveLength(models.length);
    expect(err).not.toMatch(STACK);
    expect(report.totals).toMatchObject({ files: models.length, failed: models.length, drawCalls: 0 });
  });

  test('merging them fails the same way and writes nothing', async () => {
    const at = await put(brokenFiles());
    const out = join(temporary(), 'out');
    const { code, err } = await wembrel(['merge', at, '--out', out]);
    expect(code).toBe(1);
    expect(err).not.toMatch(STACK);
    expect(await readdir(out).catch(() => [])).toEqual([]);
  });

  test('a missing file is named; good ones beside it go on', async () => {
    const at = await put({ 'good.glb': sign().glb() });
    const { code, out, err } = await wembrel(['survey', join(at, 'good.glb'), join(at, 'gone.glb'), '--json']);
    expect(code).toBe(1);
    expect(JSON.parse(out).totals.drawCalls).toBe(1);
    expect(err).toContain('gone.glb: there is no such file or folder');
  });
});

describe('usage', () => {
  for (const [args, says] of [
    [['paint'], /no verb "paint"/],
    [['run', 'x.glb'], /run is not in this build yet/],
    [['unwrap', 'x.glb'], /needs --out/],
    [['unwrap', 'x.glb', '--out', 'o', '--stretch', '0.5'], /--stretch/],
    [['pack', '--out', 'o'], /needs at least one/],
    [['cut-repeats', 'x.glb', '--out', 'o', '--axis', 'w'], /--axis/],
    [['survey'], /needs at least one/],
    [['survey', 'x.glb', '--speed', '9'], /--speed/],
    [['merge', 'x.glb'], /needs --out/],
    [['merge', 'x.glb', '--out', 'o', '--size', '1000'], /power of two/],
    [['merge', 'x.glb', '--out', 'o', '--rotate', 'sideways'], /--rotate/],
    [['merge', 'x.glb', '--out', 'o', '--normal-y', 'left'], /--normal-y takes up or down/],
    [['merge', 'x.glb', '--out', 'o', '--profile', 'gone'], /there is no profile "gone"; there are /],
    [['merge', 'x.glb', '--out', 'o', '--profile', 'gone.json'], /--profile gone\.json: /],
    [['profile', 'paint'], /profile takes list, show, schema/],
    [['profile', 'show', 'gone'], /there is no profile "gone"/],
    [['merge', 'x.glb', '--out', 'o', '--format', 'ktx2'], /not in this build yet/],
    [['merge', 'x.glb', '--out', 'o', '--margin', 'wide'], /margin/],
    [['merge', 'x.glb', '--out', 'o', '--samples', '5'], /samples/],
    [['merge', 'x.glb', '--out', 'o', '--compare-at', '300'], /compare/],
    [['merge', 'x.glb', '--out', 'o', '--plan', 'gone.json'], /--plan gone\.json: /],
    [['plan', 'paint', 'x.glb'], /propose, predict, tighten or schema/],
    [['plan', 'propose'], /needs at least one/],
    [['plan', 'propose', 'x.glb', '--weight', 'Wood'], /SLOT=W/],
    [['plan', 'propose', 'x.glb', '--budget', 'pocket'], /--budget takes/],
  ] as [string[], RegExp][])
    test(`${args.join(' ')}: exit code 2`, async () => {
      const { code, out, err } = await wembrel(args);
      expect(code).toBe(2);
      expect(out).toBe('');
      expect(err).toMatch(says);
      expect(err.trim().split('\n')).toHaveLength(1);
    });

  test('help of every verb has examples', async () => {
    const { code, out } = await wembrel(['--help']);
    expect(code).toBe(0);
    for (const verb of ['survey', 'merge', 'plan', 'bench', 'demo-files']) {
      expect(out).toContain(verb);
      const help = await wembrel([verb, '--help']);
      expect(help.code).toBe(0);
      expect(help.out).toContain('Examples:');
    }
  });
});

describe('merge', () => {
  test('follows the contract, for people and for programs', async () => {
    const at = await put({ 'a.glb': sign().glb(), 'b.glb': sign().glb() });
    const out = join(temporary(), 'out');
    const zip = join(temporary(), 'all.zip');
    const { code, out: said } = await wembrel([
      'merge',
      at,
      '--out',
      out,
      '--size',
      '128',
      '--all',
      '--margin',
      '4',
      '--compare-at',
      '256',
      '--zip',
      zip,
      '--json',
    ]);
    expect(code).toBe(0);
    const r = JSON.parse(said);
    for (const key of [
      'before',
      'after',
      'sheets',
      'density',
      'fidelity',
      'seconds',
      'peakBytes',
      'written',
      'faults',
      'errors',
    ])
      expect(r).toHaveProperty(key);
    expect(r.sheets[0]).toMatchObject({ name: 'sheet', size: 128, protectedMip: 0 });
    expect(r.written).toContain('manifest.json');
    expect((await readFile(zip)).length).toBeGreaterThan(500);
    for (const name of ['report.json', 'manifest.json']) {
      const text = await readFile(join(out, name), 'utf8');
      expect(text).not.toContain(out);
      expect(text).not.toContain('seconds');
    }
    const human = await wembrel(['merge', at, '--out', out, '--size', '128', '--compare-at', '256']);
    expect(human.out).toMatch(/draw calls\s+2\s+2/);
    expect(human.out).toContain('files written to');
  });

  test('interrupted: exit code 1, nothing under a final name', async () => {
    const at = temporary();
    const input = await put(awkwardFiles());
    const out = join(at, 'out');
    const writing = async () => (await readdir(out).catch(() => [])).length > 0;
    const { code, err } = await wembrel(['merge', input, '--out', out], writing);
    expect(code).toBe(1);
    expect(err).toContain('cancelled');
    expect(await readdir(out).catch(() => [])).toEqual([]);
  });
});
