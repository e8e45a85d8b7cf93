import { join } from 'node:path';
import { GltfEdit } from '@wembrel/demo/awkward/changes';
import { sign } from '@wembrel/demo/broken';
import { expect, test } from 'vitest';
import { loadModel } from '../src/read/load.ts';
import { folder, mergeFolder, put } from './here.ts';

/** Two objects of two materials each, and a third that shares one of them with the second. */
function street(): Uint8Array {
  const edit = new GltfEdit(sign({ names: ['Enamel', 'Steel'] }).glb());
  const { json } = edit;
  const [enamel, steel] = json.meshes[0].primitives;
  json.nodes[0].name = 'sign';
  json.meshes.push({ primitives: [{ ...enamel }, { ...steel }] }, { primitives: [{ ...steel }] });
  edit.node({ name: 'ランプ', mesh: 1, translation: [2, 0, 0] });
  edit.node({ name: 'bin', mesh: 2, translation: [4, 0, 0] });
  return edit.glb();
}

const slotsOf = async (out: string): Promise<Record<string, string[]>> => {
  const model = await loadModel({ name: 'street.glb', path: join(out, 'street.glb') });
  const slots: Record<string, string[]> = {};
  for (const part of model.parts)
    for (const { node } of part.instances)
      slots[node.getName()] = [...(slots[node.getName()] ?? []), model.slots[part.slot].name];
  return slots;
};

test('only the chosen objects are merged, the rest keeps its slots and textures', async () => {
  const at = await put({ 'street.glb': street() });
  const out = folder();
  const { report } = await mergeFolder(at, out, { only: ['sign', 'street/ラ*'], size: 128, mergeAll: false });
  expect(await slotsOf(out)).toEqual({ sign: ['sheet'], ランプ: ['sheet'], bin: ['Steel'] });
  expect(report.before).toMatchObject({ slots: 2, drawCalls: 5 });
  expect(report.after).toMatchObject({ slots: 2, drawCalls: 3 });
  expect(report.keptApart.map(({ slot, code }) => [slot, code])).toEqual([['Steel', 'not-chosen']]);
  expect(report.faults).toEqual([]);
});

test('a pattern that no object fits is refused, and says which objects there are', async () => {
  const at = await put({ 'street.glb': street() });
  await expect(mergeFolder(at, folder(), { only: ['Sign'] })).rejects.toThrow(
    'Sign: no object is called so; there are bin, sign, ランプ',
  );
});

test('chosen objects are merged by the plan that is made for them, though what they share stays in the file as well', async () => {
  const at = await put({ 'street.glb': street() });
  const out = folder();
  const { report } = await mergeFolder(at, out, { only: ['bin', 'sign'], mergeAll: false }, 2, { auto: {} });
  expect(report.sheets.map(({ scale }) => scale)).toEqual([1]);
  expect(report.keptApart.map(({ code }) => code)).toEqual(['not-chosen', 'not-chosen']);
  expect(await slotsOf(out)).toEqual({ sign: ['sheet'], ランプ: ['Enamel', 'Steel'], bin: ['sheet'] });
});

test('each object gets a sheet of its own, called after it, no larger than it needs', async () => {
  const at = await put({ 'street.glb': street() });
  const out = folder();
  const { report } = await mergeFolder(at, out, {}, 2, { auto: { eachObject: true } });
  expect(report.sheets.map(({ name, scale }) => [name, scale])).toEqual([
    ['bin', 1],
    ['sign', 1],
    ['ランプ', 1],
  ]);
  expect(await slotsOf(out)).toEqual({ sign: ['sign'], ランプ: ['ランプ'], bin: ['bin'] });
  expect(report.written).toContain('textures/ランプ_baseColor.png');
});
