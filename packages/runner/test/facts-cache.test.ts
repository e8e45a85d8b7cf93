import { mkdtemp, readdir, readFile, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildSign } from '@wembrel/demo/signs';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { runs } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { FactsCache } from '../src/cache/facts-cache.ts';
import { readFiles } from '../src/stages/read.ts';
import { surveyDetails } from '../src/survey/details.ts';
import { testScope } from './here.ts';

const folder = () => mkdtemp(join(tmpdir(), 'wembrel-cache-'));

async function filesOf(root: string): Promise<string[]> {
  const entries = await readdir(root, { recursive: true, withFileTypes: true });
  return entries.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name));
}

test('what is kept is found again; what was damaged or cut short is found anew', async () => {
  const root = await folder();
  const cache = new FactsCache(root, []);
  const value = { numbers: new Uint8Array([1, 2, 3]), text: 'Überdachung', nothing: null };
  await cache.put('picture', 'a', value);
  expect(await cache.get('picture', 'a')).toEqual(value);
  expect(await cache.get('picture', 'b')).toBeUndefined();
  expect(await cache.get('slots', 'a')).toBeUndefined();
  const [path] = await filesOf(root);
  const bytes = await readFile(path);
  for (const damaged of [
    bytes.subarray(0, 10),
    bytes.subarray(0, bytes.length - 1),
    bytes.map((b, i) => (i === 30 ? b ^ 1 : b)),
  ]) {
    await writeFile(path, damaged);
    expect(await cache.get('picture', 'a')).toBeUndefined();
  }
  expect(await cache.of('picture', 'a', async () => 'anew')).toBe('anew');
  expect(await cache.of('picture', 'a', async () => 'never asked')).toBe('anew');
});

test('what other code found is found anew', async () => {
  const root = await folder();
  const code = join(await folder(), 'code.mjs');
  await writeFile(code, 'one');
  await new FactsCache(root, [code]).put('slots', 'a', 1);
  expect(await new FactsCache(root, [code]).get('slots', 'a')).toBe(1);
  await writeFile(code, 'other');
  expect(await new FactsCache(root, [code]).get('slots', 'a')).toBeUndefined();
});

test('beyond the bound what was used longest ago goes', async () => {
  const root = await folder();
  const kilobyte = (n: number) => new Uint8Array(1000).fill(n);
  const first = new FactsCache(root, []);
  for (let i = 0; i < 10; i++) await first.put('picture', `${i}`, kilobyte(i));
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (const path of await filesOf(root)) await utimes(path, hourAgo, hourAgo);
  // Another run uses two of them.
  const second = new FactsCache(root, [], 8000);
  await second.get('picture', '0');
  await second.get('picture', '1');
  await second.put('picture', 'new', kilobyte(10));
  await second.trim();
  expect(await second.size()).toBeLessThanOrEqual(8000);
  for (const key of ['0', '1', 'new']) expect(await second.get('picture', key)).toBeDefined();
});

test('a folder that cannot be written to is as good as none', async () => {
  const path = join(await folder(), 'a file');
  await writeFile(path, 'no folder');
  const cache = new FactsCache(path, []);
  expect(await cache.of('picture', 'a', async () => 1)).toBe(1);
  await cache.trim();
});

test('a survey with what former ones found says what one without says, after any edits', async () => {
  const root = await folder();
  const sources = await folder();
  const pieces = [kept(buildFurniture, 0.125), kept(buildFurniture, 0.125, 1), kept(buildSign, 0), kept(buildSign, 4)];
  const survey = async (names: readonly string[], cache?: FactsCache) => {
    const scope = testScope({ cache });
    try {
      const files = names.map((name) => ({ name, path: join(sources, name) }));
      return JSON.stringify(await surveyDetails(await readFiles(files, scope), files, scope));
    } finally {
      await scope.close();
    }
  };
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.nat(3), fc.constantFrom('a', 'b', 'Ω'), fc.integer({ min: 0, max: 40 })), {
        minLength: 1,
        maxLength: 3,
      }),
      async (edits) => {
        const names = new Set<string>();
        for (const [piece, name, shift] of edits) {
          await writeFile(join(sources, `${name}.glb`), moved(pieces[piece], shift));
          names.add(`${name}.glb`);
        }
        const list = [...names].sort();
        expect(await survey(list, new FactsCache(root, []))).toBe(await survey(list));
      },
    ),
    { numRuns: runs(6) },
  );
}, 120_000);

/** The same file with one number of its geometry changed: the lowest bits of a position. */
function moved(glb: Uint8Array, by: number): Uint8Array {
  const out = glb.slice();
  const view = new DataView(out.buffer, out.byteOffset);
  const { accessors, bufferViews } = JSON.parse(
    new TextDecoder().decode(out.subarray(20, 20 + view.getUint32(12, true))),
  );
  const position = accessors.find((one: { type: string }) => one.type === 'VEC3');
  const at = 20 + view.getUint32(12, true) + 8 + (bufferViews[position.bufferView].byteOffset ?? 0);
  view.setFloat32(at, view.getFloat32(at, true) + by * 1e-4, true);
  return out;
}
