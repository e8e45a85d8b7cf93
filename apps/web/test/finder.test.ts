import { describe, expect, test } from 'vitest';
import type { ProjectView } from '../src/contract/project.ts';
import { type FinderEntry, type FinderMeans, finderEntries, found } from '../src/views/workbench/finder-entries.ts';

const entry = (group: FinderEntry['group'], text: string, note?: string): FinderEntry => ({
  id: `${group} ${text}`,
  group,
  text,
  note,
  run: () => {},
});
const ENTRIES = [
  entry('Slots', 'RoofZinc', 'halt/roof.glb'),
  entry('Slots', 'OldRoof', 'halt/shed.glb'),
  entry('Models', 'halt/roof.glb'),
  entry('Actions', 'Go to Plan'),
  entry('Findings', 'Mergeable slots'),
];
const texts = (typed: string) => found(ENTRIES, typed).map(({ text }) => text);

describe('what is found', () => {
  test('nothing typed: what can be done', () => expect(texts('  ')).toEqual(['Go to Plan']));

  test('every word has to occur, in the name or beside it; what begins with it comes first', () => {
    expect(texts('roof')).toEqual(['halt/roof.glb', 'RoofZinc', 'OldRoof']);
    expect(texts('ROOF shed')).toEqual(['OldRoof']);
    expect(texts('nobody')).toEqual([]);
  });

  test('names in other scripts', () => {
    const own = [entry('Slots', 'ДЕРЕВО'), entry('Slots', '木材_01')];
    expect(found(own, 'дер').map(({ text }) => text)).toEqual(['ДЕРЕВО']);
    expect(found(own, '木').map(({ text }) => text)).toEqual(['木材_01']);
  });

  test('of a thousand slots some are shown, and no group hides another', () => {
    const many = Array.from({ length: 1000 }, (_, i) => entry('Slots', `slot ${i}`));
    const shown = found([...many, entry('Models', 'a slot.glb')], 'slot');
    expect(shown).toHaveLength(31);
    expect(shown[0].text).toBe('a slot.glb');
  });
});

describe('what can be done', () => {
  const means = new Proxy({}, { get: () => () => {} }) as FinderMeans;
  const project = (more: object) =>
    ({ survey: null, jobs: [], undo: null, redo: null, stamp: 's', ...more }) as unknown as ProjectView;
  const actions = (more: object) =>
    finderEntries(project(more), [], means)
      .filter(({ group }) => group === 'Actions')
      .map(({ text }) => text);
  const survey = { models: [{ path: 'a.glb' }], slots: [{ name: 'A', path: 'a.glb', model: 0 }] };

  test('nothing is offered that cannot be done now', () => {
    expect(actions({})).not.toContain('Bake a proof');
    expect(actions({ survey })).toContain('Bake a proof');
    expect(actions({ survey, jobs: [{ kind: 'proof', state: 'running' }] })).not.toContain('Bake a proof');
    expect(actions({})).not.toContain('Undo');
    expect(actions({ undo: 'Routes' })).toContain('Undo');
  });

  test('models, slots and findings are there by name', () => {
    const names = finderEntries(project({ survey }), ['mergeable-slots'], means).map(({ text }) => text);
    expect(names).toEqual(expect.arrayContaining(['Mergeable slots', 'a.glb', 'A']));
  });
});
