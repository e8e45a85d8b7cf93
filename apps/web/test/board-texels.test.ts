import { expect, test } from 'vitest';
import type { SurveyView } from '../src/contract/project.ts';
import type { GatheredIslands } from '../src/project/packing/use-islands.ts';
import { boardPictures } from '../src/views/plan/use-board-texels.ts';

const look = (picture: object | null) => ({ colour: [1, 1, 1], opaque: true, picture });
const index = {
  sheets: [
    [
      { material: 0, islands: [[0, 3, 0, 1]] },
      { material: 0, islands: [[1, 0, 0, 1]] },
      { material: 1, islands: [[1, 2, 0, 1]] },
    ],
    [
      { material: 2, islands: [[1, 5, 0, 1]] },
      { material: 3, islands: [] },
    ],
  ],
  looks: [look({ width: 64 }), look(null), look({ width: 8 }), look({ width: 8 })],
} as unknown as GatheredIslands['index'];
const slot = (model: number, part: number, baseColor?: string) => ({ model, parts: [{ part }], images: { baseColor } });
const survey = { slots: [slot(0, 3, 'brick'), slot(1, 0, 'other'), slot(1, 2), slot(1, 5)] } as unknown as SurveyView;

test('each material is asked for once, by the picture of the part that its first bay comes from', () => {
  expect(boardPictures(survey, 'job', index)).toEqual([
    { url: '/api/jobs/job/files/thumbs/brick.png', material: 0, look: look({ width: 64 }) },
    { url: null, material: 1, look: look(null) },
    { url: null, material: 2, look: look(null) },
  ]);
});

test('islands that were gathered before looks were told show none', () => {
  expect(boardPictures(survey, 'job', { ...index, looks: undefined })).toEqual([]);
});
