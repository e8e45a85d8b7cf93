import { FaceGroup } from '@wembrel/core/decisions/face-decisions';
import { describe, expect, test } from 'vitest';
import { MergeDecisions } from '../src/contract/project.ts';
import type { PartGeometry } from '../src/stage/placed.ts';
import { withComing } from '../src/views/uv/faces/coming.ts';
import { freshEdit, freshId, KINDS, titleOf } from '../src/views/uv/faces/edit-kinds.ts';
import { layersOf } from '../src/views/uv/faces/face-looks.ts';
import {
  amountOf,
  faceTable,
  groupOfFaces,
  layOfFaces,
  litBy,
  regrouped,
  tilesOfSlot,
} from '../src/views/uv/faces/face-table.ts';

/** A rectangle w × h m of two triangles, its UVs in 0–1. */
const rectangle = (part: number, w: number, h: number, slot = part, scale = 1): PartGeometry => ({
  part,
  mesh: part,
  slot,
  positions: Float32Array.from([0, 0, 0, w, 0, 0, w, h, 0, 0, h, 0]),
  indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
  uv: Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0]),
  scale,
});

const PARTS = [
  { name: 'A', slot: 'Wall', faces: 2 },
  { name: 'B', slot: 'Roof', faces: 2 },
];
const group = (id: string, faces: Record<string, Record<string, string>> = {}, slots: string[] = []): FaceGroup =>
  FaceGroup.parse({ id, name: id.toUpperCase(), hue: 20, faces, slots });

describe('faces of a model as they are numbered in its source', () => {
  test('what was shifted to other parts by edits is found again', () => {
    // The shown part 0 holds the second face of A and all of B, part 1 the first of A.
    const shown: PartGeometry[] = [
      { ...rectangle(0, 1, 1), indices: Uint32Array.from([0, 1, 2, 0, 2, 3, 1, 2, 3]) },
      { ...rectangle(1, 2, 2, 5), indices: Uint32Array.from([0, 1, 2]) },
    ];
    const table = faceTable(shown, PARTS, [
      [
        { part: 0, faces: '1' },
        { part: 1, faces: '0-1' },
      ],
      [{ part: 0, faces: '0' }],
    ]);
    expect(table.faces).toBe(4);
    expect([...table.slots]).toEqual([5, 0, 0, 0]);
    expect([...table.areas]).toEqual([2, 0.5, 0.5, 0.5]);
    const lit = litBy(table, (f) => f === 0 || f === 2);
    expect([...(lit.get(0) as Uint32Array)]).toEqual([1]);
    expect([...(lit.get(1) as Uint32Array)]).toEqual([0]);
  });
  test('amounts count what instances make of areas', () => {
    const table = faceTable([rectangle(0, 2, 1, 0, 3), rectangle(1, 1, 1)], PARTS, null);
    expect(amountOf(table, Uint8Array.from([1, 1, 0, 1]))).toEqual({ faces: 3, area: 18.5, quads: null });
    const partner = Int32Array.from([1, 0, 3, 2]);
    expect(amountOf(table, Uint8Array.from([1, 1, 0, 1]), partner).quads).toBe(1);
  });
});

describe('groups', () => {
  const table = faceTable([rectangle(0, 1, 1), rectangle(1, 1, 1)], PARTS, null);
  test('a face that is put into one group leaves the others; whole slots stay below named faces', () => {
    const start = [group('a', { 'm.glb': { 0: '0-1' } }), group('b', {}, ['Roof'])];
    const next = regrouped(start, 'b', 'm.glb', table, Uint8Array.from([0, 1, 1, 0]), 'in');
    expect(next.map((g) => g.faces)).toEqual([{ 'm.glb': { 0: '0' } }, { 'm.glb': { 0: '1', 1: '0' } }]);
    expect([...groupOfFaces(table, 'm.glb', PARTS, next)]).toEqual([0, 1, 1, 1]);
    const out = regrouped(next, 'b', 'm.glb', table, Uint8Array.from([0, 1, 1, 1]), 'out');
    expect(out[1].faces).toEqual({});
    expect([...groupOfFaces(table, 'm.glb', PARTS, out)]).toEqual([0, -1, 1, 1]);
  });
  test('a group that names a model by the end of its path keeps doing so', () => {
    const next = regrouped(
      [group('a', { 'm.glb': { 0: '0' } })],
      'a',
      'props/m.glb',
      table,
      Uint8Array.from([0, 1, 0, 0]),
      'in',
    );
    expect(next[0].faces).toEqual({ 'm.glb': { 0: '0-1' } });
  });
});

describe('how faces lie in their pictures', () => {
  test('density and stretch of a rectangle on a texture', () => {
    const table = faceTable([rectangle(0, 2, 1), rectangle(1, 1, 1)], PARTS, null);
    const { density, stretch } = layOfFaces(table, (slot) => (slot === 0 ? [256, 256] : [100, 100]));
    // 256 texels over 2 m and over 1 m.
    for (const f of [0, 1]) {
      expect(stretch[f]).toBeCloseTo(2, 5);
      expect(density[f]).toBeCloseTo(256 / Math.SQRT2, 3);
    }
    for (const f of [2, 3]) {
      expect(stretch[f]).toBeCloseTo(1, 5);
      expect(density[f]).toBeCloseTo(100, 3);
    }
  });
  test('UV tiles of a slot with their densities', () => {
    const shifted = { ...rectangle(0, 1, 1), uv: Float32Array.from([1, 1, 2, 1, 2, 0, 1, 0]) };
    const table = faceTable([shifted, rectangle(1, 2, 2, 0)], PARTS, null);
    expect(tilesOfSlot(table, 0, [100, 100])).toEqual([
      { number: 1001, faces: 2, density: 50 },
      { number: 1002, faces: 2, density: 100 },
    ]);
    // A texture that goes on over a border tiles.
    const tiling = { ...shifted, uv: Float32Array.from([0, 1, 3, 1, 3, 0, 0, 0]) };
    expect(tilesOfSlot(faceTable([tiling, rectangle(1, 2, 2, 0)], PARTS, null), 0, [100, 100])).toEqual([]);
  });
  test('hidden faces have no colour, others one', () => {
    const table = faceTable([rectangle(0, 2, 1), rectangle(1, 1, 1)], PARTS, null);
    const groups = [group('a', {}, ['Wall'])];
    const groupOf = groupOfFaces(table, 'm.glb', PARTS, groups);
    const hidden = Uint8Array.from([1, 0, 0, 0]);
    for (const [look, seen] of [
      ['groups', 1],
      ['density', 3],
      ['stretch', 3],
      ['own', 0],
    ] as const) {
      const { layers } = layersOf(look, table, groups, groupOf, hidden, () => [64, 64]);
      const lit = layers.flatMap((layer) =>
        [...layer.faces.values()].map((v) => (v === 'all' ? Number.NaN : v.length)),
      );
      expect(lit.reduce((sum, b) => sum + b, 0)).toBe(seen);
    }
  });
});

test('every kind of change can be begun and stored, and says what it is', () => {
  for (const kind of Object.keys(KINDS) as (keyof typeof KINDS)[]) {
    const edits = [freshEdit(kind, freshId('e', []), ['a'], 'Rails')];
    const d = MergeDecisions.safeParse({ faces: { groups: [group('a')], edits } });
    expect(d.error?.issues ?? []).toEqual([]);
    expect(titleOf(edits[0], [group('a')])).toMatch(new RegExp(`^${KINDS[kind].title}: A`));
  }
  expect(freshId('e', [{ id: 'e1' }, { id: 'e3' }])).toBe('e2');
});

describe('planned surfaces that faces are laid on', () => {
  const planned = (more: object) => ({
    id: 'p1',
    name: 'Kerb',
    area: 2,
    width: 1024,
    height: 256,
    colour: '#336699',
    ...more,
  });
  const edited = (slot: string | null) =>
    MergeDecisions.parse({
      planned: [planned({}), planned({ id: 'p2', name: 'Rail' })],
      faces: {
        groups: [{ id: 'g', name: 'All', hue: 0 }],
        edits: slot === null ? [] : [{ id: 'e', kind: 'strip', groups: ['g'], slot }],
      },
    });
  test('stand in for the slot and are linked; when no change names them any more they are planned again', () => {
    const on = withComing(edited('Kerb'), new Set());
    expect(on.faces.coming).toEqual([{ slot: 'Kerb', colour: '#336699', width: 1024, height: 256 }]);
    expect(on.planned.map((planned) => planned.linked)).toEqual(['Kerb', null]);
    // The slot is there now, since the faces were given it; all stays as it is.
    expect(withComing(on, new Set(['Kerb']))).toEqual(on);
    const off = withComing({ ...on, faces: { ...on.faces, edits: [] } }, new Set(['Kerb']));
    expect(off).toEqual(edited(null));
  });
  test('their slots go where the surfaces were sent, unless they were sent somewhere themselves', () => {
    const start = edited('Kerb');
    const [{ id }] = start.sheets;
    const sent = { ...start, planned: start.planned.map((surface) => ({ ...surface, to: id })) };
    expect(withComing(sent, new Set()).routes).toEqual([{ slot: 'Kerb', to: id }]);
    const routes = [{ slot: 'Kerb', to: 'apart' }];
    expect(withComing({ ...sent, routes }, new Set()).routes).toEqual(routes);
  });
  test('a slot that a model has goes before a planned surface; one that was linked by hand is left alone', () => {
    const there = edited('Kerb');
    expect(withComing(there, new Set(['Kerb']))).toEqual(there);
    const linked = { ...there, planned: [{ ...there.planned[0], linked: 'KerbStone' }, there.planned[1]] };
    expect(withComing(linked, new Set())).toEqual(linked);
  });
});
