import { readdirSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { sign } from '@wembrel/demo/broken';
import { zipSync } from 'fflate';
import { afterAll, afterEach, describe, expect, test, vi } from 'vitest';
import { decide } from '../../core/test/build.ts';
import { merge } from '../src/merge/merge.ts';
import { JobScope } from '../src/pool/job-scope.ts';
import { collectModels } from '../src/read/collect.ts';
import { validateGltf } from '../src/write/validate.ts';
import { folder, mergeFolder, put, WORKER } from './here.ts';

vi.mock('../src/write/validate.ts', async (original) => {
  const actual = await original<typeof import('../src/write/validate.ts')>();
  return { ...actual, validateGltf: vi.fn(actual.validateGltf) };
});

const PLAN = { size: 64, margin: 4, effort: 0 };

describe('awkward models', () => {
  const scope = new JobScope(WORKER, 2);
  afterAll(() => scope.close());

  for (const { name, build, expected } of AWKWARD)
    test(`${name} beside a sound one: ${expected.kind}`, async () => {
      const out = join(folder(), 'out');
      const { files } = await collectModels([await put({ 'sound.glb': sign().glb(), [name]: build() })]);
      const { report } = await merge({ files, out, decisions: decide(PLAN), picture: 64 }, scope);
      const said = report.errors.map(({ path, message }) => ({ path, message }));
      const faults = report.faults.filter((fault) => fault.subject === name);
      if (expected.kind === 'refused') {
        expect(said).toEqual([{ path: name, message: expect.stringMatching(expected.says) }]);
        expect(report.written.filter((file) => file.endsWith('.glb'))).toEqual(['sound.glb']);
        return;
      }
      expect(said).toEqual([]);
      expect(report.written).toContain(name);
      expect(await validateGltf(join(out, name))).toEqual([]);
      if (expected.kind === 'delivered') expect(faults).toEqual([]);
      else expect(faults.map((fault) => fault.message).join('\n')).toMatch(expected.says);
    });
});

describe('a model that cannot be delivered', () => {
  const validator = vi.mocked(validateGltf);
  const actual = validator.getMockImplementation();
  afterEach(() => void validator.mockImplementation(actual as typeof validateGltf));

  /** Lets the results of some models be found invalid. */
  const invalid = (...names: string[]) =>
    validator.mockImplementation(async (path) => {
      const inResult = names.some((name) => path.endsWith(`/${name}`)) && path.includes('.wembrel-');
      return inResult ? [{ code: 'WRONG', text: 'something is wrong (/nodes/0)' }] : [];
    });

  test('is named, and the others are delivered without it', async () => {
    const glb = sign().glb();
    const input = await put({ 'a.glb': glb, 'b.glb': sign({ names: ['Other'] }).glb(), 'c.glb': glb });
    invalid('b.glb');
    const { report, manifest, sources } = await mergeFolder(input, join(folder(), 'out'), PLAN);
    expect(report.errors).toEqual([
      { path: 'b.glb', message: 'the result is not valid glTF: something is wrong (/nodes/0)' },
    ]);
    expect(report.written.filter((file) => file.endsWith('.glb'))).toEqual(['a.glb', 'c.glb']);
    expect(sources).toEqual([0, 2]);
    expect(JSON.stringify(manifest)).not.toContain('Other');
  });

  test('with strict, or where it is the only one, nothing is written', async () => {
    invalid('a.glb');
    const both = await put({ 'a.glb': sign().glb(), 'b.glb': sign().glb() });
    const out = join(folder(), 'out');
    await expect(mergeFolder(both, out, PLAN, 2, { strict: true })).rejects.toThrow(/a\.glb: the result is not valid/);
    await expect(mergeFolder(await put({ 'a.glb': sign().glb() }), out, PLAN)).rejects.toThrow(/not valid/);
    expect(readdirSync(out)).toEqual([]);
  });

  test('what its source already has wrong is said, and it is delivered', async () => {
    const input = await put({ 'a.glb': sign().glb() });
    validator.mockResolvedValue([{ code: 'OLD', text: 'wrong all along' }]);
    const { report } = await mergeFolder(input, join(folder(), 'out'), PLAN);
    expect(report.errors).toEqual([]);
    expect(report.faults).toContainEqual({
      code: 'source',
      subject: 'a.glb',
      message: 'the source is not valid glTF, nor is the result: wrong all along',
    });
  });
});

describe('archives', () => {
  const leftovers = () => readdirSync(tmpdir()).filter((name) => name.startsWith('wembrel-zip-'));

  test('hold names that a disk does not take: too long, a file where a folder is, folders called like models', async () => {
    const before = new Set(leftovers());
    const obj = new TextEncoder().encode('v 0 0 0\nv 1 0 0\nv 0 1 0\nmtllib paint.mtl\nusemtl red\nf 1 2 3\n');
    const long = `${'x'.repeat(300)}.obj`;
    const archive = zipSync({
      'a.obj/inner.obj': obj,
      'a.obj': obj,
      [long]: obj,
      'paint.mtl': new TextEncoder().encode('newmtl red\nKd 1 0 0\n'),
    });
    const path = join(folder(), 'names.zip');
    await writeFile(path, archive);
    const { files, problems, close } = await collectModels([path]);
    expect(problems).toEqual([]);
    expect(files.map((file) => file.name.slice(path.length + 1))).toEqual(['a.obj', 'a.obj/inner.obj', long]);
    // Side files are found by their names in the archive.
    const { loadModel } = await import('../src/read/load.ts');
    const [model, inner] = await Promise.all(files.map((file) => loadModel(file)));
    expect(model.missing).toEqual([]);
    expect(model.slots[0].look.baseColorFactor.slice(0, 3)).toEqual([1, 0, 0]);
    expect(inner.missing).toEqual(['paint.mtl']);
    await close();
    expect(leftovers().filter((name) => !before.has(name))).toEqual([]);
  });
});
