import { expect, test } from 'vitest';
import { bayLayers, baysOfFaces, facesOfBays } from '../src/views/uv/bay-faces.ts';
import { bayScale, middleDensity } from '../src/views/uv/bay-tints.ts';
import { bay } from './bay.ts';

const sheet = (bays: Partial<ReturnType<typeof bay>>[]) =>
  ({ plots: bays.map((b, i) => ({ ...bay(i, 0, 0, 10, 10), ...b })) }) as never;

test('densities are told from their middle: alike are one colour, a quarter and four times are the ends', () => {
  const s = sheet([
    { density: 100 },
    { density: 100 },
    { density: 400 },
    { density: 25 },
    { density: 6 },
    { density: null },
  ]);
  expect(middleDensity(s)).toBe(100);
  const scale = bayScale('density', s);
  const colours = [0, 1, 2, 3, 4, 5].map((id) => scale?.colour(id));
  expect(colours[0]).toBe(colours[1]);
  expect(colours[3]).toBe(colours[4]);
  expect(new Set(colours).size).toBe(4);
  expect(scale?.ends).toEqual(['¼ of 100 px/m', '4 ×']);
  expect(bayScale('slot', s)).toBeNull();
});

test('stretch runs one way, from square to twice as long; what cannot be told is grey', () => {
  const s = sheet([{ stretch: 1 }, { stretch: 1.5 }, { stretch: 2 }, { stretch: 7 }, { stretch: null }]);
  const colours = [0, 1, 2, 3, 4].map((id) => bayScale('stretch', s)?.colour(id));
  expect(colours[2]).toBe(colours[3]);
  expect(new Set(colours).size).toBe(4);
  expect(colours[4]).toBe('oklch(0.62 0 0)');
});

test('faces and bays find each other, model by model and sheet by sheet', () => {
  const islands = {
    index: {
      sheets: [
        [
          {
            id: 4,
            islands: [
              [0, 1, 0, 2],
              [1, 0, 2, 1],
            ],
          },
          { id: 5, islands: [[0, 1, 3, 1]] },
        ],
        [{ id: 4, islands: [[0, 2, 4, 2]] }],
      ],
    },
    faces: Uint32Array.of(7, 8, 0, 9, 1, 2),
  } as never;
  const of = baysOfFaces(islands, 0);
  expect([of.get(1)?.get(8), of.get(1)?.get(9), of.get(2)?.get(1)]).toEqual([
    { sheet: 0, id: 4 },
    { sheet: 0, id: 5 },
    { sheet: 1, id: 4 },
  ]);
  expect([...baysOfFaces(islands, 1).keys()]).toEqual([0]);
  const four = (s: number, id: number) => s === 0 && id === 4;
  expect(facesOfBays(islands, 0, four, false)).toEqual(new Map([[1, Uint32Array.of(7, 8)]]));
  expect(facesOfBays(islands, 0, four, true)).toEqual(new Map([[1, 'all']]));
  const layers = bayLayers(islands, 0, 0, (id) => (id === 4 ? 'violet' : 'ochre'));
  expect(layers.map((layer) => [layer.colour, layer.faces])).toEqual([
    ['violet', new Map([[1, Uint32Array.of(7, 8)]])],
    ['ochre', new Map([[1, Uint32Array.of(9)]])],
  ]);
});
