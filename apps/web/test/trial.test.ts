import type { TrialLoad } from '@wembrel/runner/trial/trial-load';
import { describe, expect, test } from 'vitest';
import type { ResultView } from '../src/contract/project.ts';
import { gridPlaces } from '../src/stage/trial-grid.ts';
import type { TrialScene } from '../src/stage/trial-scene.ts';
import { byFolder, fileTitle } from '../src/views/handover/files-of.ts';
import { hashCheck, trialCheck, trialRows } from '../src/views/handover/trial-rows.ts';

const after = {
  drawCalls: 6,
  triangles: 1804,
  slots: 2,
  textures: 4,
  textureBytes: { rgba8: 1 << 20 },
} as ResultView['after'];
const trial = (over: Partial<TrialLoad> = {}): TrialLoad => ({
  models: [{ file: 'stop.glb', drawCalls: 6, triangles: 1804, materials: 2, textures: 4, gpuBytes: 1 << 20 }],
  drawCalls: 6,
  triangles: 1804,
  materials: 2,
  materialNames: 2,
  textures: 4,
  gpuBytes: 1 << 20,
  verified: { good: 7, of: 7 },
  problems: [],
  ...over,
});

describe('a trial load as one of the checks', () => {
  test('passes where all counts are the bill’s', () => {
    expect(trialCheck(after, trial(), null)).toEqual(['Trial load', '1 model; all counts as the bill says', true]);
  });

  test('fails where a count is another, where there is a problem, and where it could not be made', () => {
    expect(trialCheck(after, trial({ textures: 5 }), null).slice(1)).toEqual(['not as the bill says: textures', false]);
    const problems = [{ file: 'stop.glb', text: 'draws nothing' }];
    expect(trialCheck(after, trial({ problems }), null).slice(1)).toEqual([
      '1 problem: stop.glb: draws nothing',
      false,
    ]);
    expect(trialCheck(after, undefined, 'there is no such folder')[2]).toBe(false);
  });

  test('is open while it loads', () => {
    expect(trialCheck(after, undefined, null)[2]).toBeNull();
    expect(hashCheck(undefined)).toEqual([]);
  });

  test('what the 3D library drew counts as well', () => {
    const scene = { drawCalls: 7, triangles: 1804 } as TrialScene;
    expect(trialRows(after, trial(), scene).map(({ label, agrees }) => [label, agrees])).toEqual([
      ['Draw calls', false],
      ['Triangles', true],
      ['Materials', true],
      ['Textures', true],
      ['Memory, uncompressed', true],
    ]);
  });

  test('files that differ from the manifest fail a check of their own', () => {
    expect(hashCheck(trial({ verified: { good: 6, of: 7 } }))[0][2]).toBe(false);
    expect(hashCheck(trial())[0][2]).toBe(true);
    expect(hashCheck(trial({ verified: null }))).toEqual([]);
  });
});

test('models on the grid of the trial do not stand in each other', () => {
  const sizes = Array.from({ length: 30 }, (_, i): [number, number] => [1 + (i % 4), 0.5 + (i % 3)]);
  const places = gridPlaces(sizes);
  for (let i = 0; i < sizes.length; i++)
    for (let j = 0; j < i; j++) {
      const apart = [0, 1].some((k) => Math.abs(places[i][k] - places[j][k]) >= (sizes[i][k] + sizes[j][k]) / 2 - 1e-9);
      expect([i, j, apart]).toEqual([i, j, true]);
    }
});

test('files by folder, each with what it is', () => {
  expect([...byFolder(['a.glb', 'textures/x.png', 'textures/y.png'])]).toEqual([
    ['', ['a.glb']],
    ['textures/', ['textures/x.png', 'textures/y.png']],
  ]);
  const result = { sheets: [{ maps: { baseColor: 'textures/x.png' } }] } as unknown as ResultView;
  const titles = {
    'a.glb': 'model',
    'a.bin': 'model as glTF with side files',
    'a.mtl': 'model as OBJ and MTL',
    'collision/a.glb': 'collision shapes of a model',
    'textures/x.png': 'map of a sheet',
    'textures/y.png': 'texture of a slot that is kept apart',
    'profiles/p/x.png': 'image of a profile',
  };
  for (const [name, title] of Object.entries(titles)) expect([name, fileTitle(name, result)]).toEqual([name, title]);
});
