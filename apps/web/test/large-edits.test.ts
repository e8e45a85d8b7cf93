import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { faceText, parseFaceText } from '@wembrel/core/decisions/face-list';
import { faceSetHash, LONG_FACE_TEXT } from '@wembrel/core/decisions/face-sets';
import { routesFrom, routeTo, weightOf } from '@wembrel/core/decisions/routes';
import { pinnedBays } from '@wembrel/core/decisions/sheets';
import fastJsonPatch from 'fast-json-patch';
import { beforeAll, describe, expect, test } from 'vitest';
import { type MergeDecisions, PatchDecisions } from '../src/contract/project.ts';
import { body, bodyText } from '../src/server/http/answer.ts';

process.env.WEMBREL_DATA = mkdtempSync(join(tmpdir(), 'wembrel-edits-'));

const { compare } = fastJsonPatch;

let projects: typeof import('../src/server/store/projects.ts');
let steps: typeof import('../src/server/store/steps.ts');
let faceSets: typeof import('../src/server/store/face-sets.ts');
let view: typeof import('../src/server/http/project-view.ts');
beforeAll(async () => {
  projects = await import('../src/server/store/projects.ts');
  steps = await import('../src/server/store/steps.ts');
  faceSets = await import('../src/server/store/face-sets.ts');
  view = await import('../src/server/http/project-view.ts');
});

/** Every other face of so many, which no ranges shorten. */
const scattered = (count: number) => Uint32Array.from({ length: count }, (_, i) => i * 2);

const grouped = (text: string) =>
  FaceDecisions.parse({ groups: [{ id: 'g', name: 'Picked', hue: 1, faces: { 'heavy.glb': { 0: text } } }] });

/** Stores decisions as the page does: the change alone. */
async function save(id: string, to: MergeDecisions): Promise<{ bytes: number; version: number }> {
  const { version, state } = await projects.requireProject(id);
  const request = { parent: version, label: 'change', patch: compare(state.decisions, to) };
  const sent = JSON.stringify(request);
  const { patch } = PatchDecisions.parse(JSON.parse(sent));
  return { bytes: sent.length, version: await steps.patchDecisions(id, version, 'change', patch as never) };
}

const decisionsOf = async (id: string) => (await projects.requireProject(id)).state.decisions;

describe('a change of large sets is small', () => {
  test('one face of 300 000 taken out of a group', async () => {
    const id = await projects.createProject('faces');
    const faces = scattered(300_000);
    const all = await faceSets.withFaceReferences(grouped(faceText(faces)));
    const reference = all.groups[0].faces['heavy.glb'][0];
    expect(faceSetHash(reference)).not.toBeNull();
    await save(id, { ...(await decisionsOf(id)), faces: all });
    const fewer = await faceSets.withFaceReferences(grouped(faceText(faces.filter((face) => face !== 123_456))));
    expect((await save(id, { ...(await decisionsOf(id)), faces: fewer })).bytes).toBeLessThan(1000);
    const { groups } = await faceSets.withFaceTexts((await decisionsOf(id)).faces);
    const stored = parseFaceText(groups[0].faces['heavy.glb'][0]);
    expect([stored.length, stored.includes(123_456), stored[0], stored.at(-1)]).toEqual([299_999, false, 0, 599_998]);
    const { version } = await projects.requireProject(id);
    await steps.stepProject(id, version, 'undo');
    expect((await decisionsOf(id)).faces.groups[0].faces['heavy.glb'][0]).toBe(reference);
  });

  test('one bay of 20 000 locked ones unlocked, and all of them locked at once', async () => {
    const id = await projects.createProject('bays');
    const start = await decisionsOf(id);
    const bay = (i: number) => ({ key: `Slot ${i} plot a${i}`, x: i % 2000, y: 3, width: 9, height: 9, scale: 1 });
    const bays = Array.from({ length: 20_000 }, (_, i) => ({ ...bay(i), turns: 0 as const }));
    const [sheet] = start.sheets;
    const locked = (list: typeof bays): MergeDecisions => ({
      ...start,
      sheets: [{ ...sheet, pinned: pinnedBays(list) }],
    });
    await save(id, locked(bays));
    const { bytes } = await save(id, locked(bays.filter((_, i) => i !== 7)));
    expect(bytes).toBeLessThan(1000);
    expect(Object.keys((await decisionsOf(id)).sheets[0].pinned)).toHaveLength(19_999);
  });

  test('texts that are short stay where they are; a reference to nothing, or to what is no face set, is a problem', async () => {
    const short = grouped('0-11,15');
    expect(await faceSets.withFaceReferences(short)).toBe(short);
    await expect(faceSets.withFaceTexts(grouped(`sha256:${'0'.repeat(64)}`))).rejects.toMatchObject({ status: 404 });
    await expect(faceSets.storeFaceText('x'.repeat(LONG_FACE_TEXT))).rejects.toMatchObject({ status: 400 });
  });
});

describe('names that objects have of their own', () => {
  test('slots called __proto__ and constructor are routed and weighed like others, through the server and back', async () => {
    const id = await projects.createProject('names');
    const start = await decisionsOf(id);
    const odd = ['__proto__', 'constructor', 'toString'];
    const routes = odd.map((slot) => ({ slot, to: 'apart' }));
    const weights = odd.map((slot) => ({ slot, weight: 3 }));
    await save(id, { ...start, routes, weights });
    const stored = await decisionsOf(id);
    for (const slot of odd)
      expect([routeTo(stored.routes, slot), weightOf(stored.weights, slot)]).toEqual(['apart', 3]);
    expect([routeTo([], '__proto__'), weightOf([], '__proto__')]).toEqual([undefined, 1]);
  });

  test('a patch that reaches for the prototype is refused', async () => {
    const id = await projects.createProject('prototype');
    const { version } = await projects.requireProject(id);
    const patch = [{ op: 'add' as const, path: '/__proto__/polluted', value: true }];
    await expect(steps.patchDecisions(id, version, 'x', patch)).rejects.toMatchObject({ status: 400 });
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });
});

describe('what a patch may do', () => {
  test('one that does not fit is a problem, one that leads to what is not allowed is refused; nothing is stored', async () => {
    const id = await projects.createProject('unfit');
    const { version } = await projects.requireProject(id);
    const remove = [{ op: 'remove' as const, path: '/sheets/9/name' }];
    await expect(steps.patchDecisions(id, version, 'x', remove)).rejects.toMatchObject({ status: 400 });
    const bad = [{ op: 'replace' as const, path: '/samples', value: 7 }];
    await expect(steps.patchDecisions(id, version, 'x', bad)).rejects.toThrow();
    expect((await projects.requireProject(id)).version).toBe(version);
    await expect(steps.patchDecisions(id, version + 1, 'x', [])).rejects.toMatchObject({ status: 409 });
  });
});

test('the head of a project with 500 sources and as many routes stays under 10 KB, whatever came before', async () => {
  const id = await projects.createProject('many');
  const hash = 'a'.repeat(64);
  await steps.changeProject(id, null, 'add', (projectState) => {
    for (let i = 0; i < 500; i++) projectState.sources[`folder/of/a/pack/model-${i}.glb`] = { hash, bytes: 1 };
    const routes = routesFrom(Object.fromEntries(Array.from({ length: 500 }, (_, i) => [`Slot ${i}`, 'apart'])));
    return { ...projectState, decisions: { ...projectState.decisions, routes } };
  });
  const { database } = await import('../src/server/store/database.ts');
  const db = await database();
  for (let i = 0; i < 60; i++)
    await db
      .insertInto('job')
      .values({
        id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
        project: id,
        kind: i % 2 ? 'proof' : 'survey',
        sheet: null,
        state: 'done',
        share: 1,
        doing: 'done',
        message: null,
        made_from: `${i}`.padStart(24, '0'),
        files_stamp: null,
        created: '',
        started: null,
        finished: '2026-01-01T00:00:00.000Z',
      })
      .execute();
  const head = await view.projectHead(id);
  expect(JSON.stringify(head).length).toBeLessThan(10_000);
  expect(head.jobs.length).toBeGreaterThan(0);
});

describe('bodies of requests', () => {
  const request = (chunks: Uint8Array[], seen: { pulled: number }) =>
    new Request('http://localhost/', {
      method: 'POST',
      duplex: 'half',
      body: new ReadableStream({
        pull(controller) {
          const chunk = chunks[seen.pulled++];
          if (chunk) controller.enqueue(chunk);
          else controller.close();
        },
      }),
    } as RequestInit);

  test('one over the limit is refused while it comes in, not after', async () => {
    const seen = { pulled: 0 };
    const chunks = Array.from({ length: 1000 }, () => new Uint8Array(1000).fill(32));
    await expect(bodyText(request(chunks, seen), 5000)).rejects.toMatchObject({ status: 413 });
    expect(seen.pulled).toBeLessThan(10);
  });

  test('one that fits is read whole, characters that are cut in two among it', async () => {
    const bytes = new TextEncoder().encode(JSON.stringify({ parent: 0, label: 'Größe 漢', patch: [] }));
    const chunks = Array.from(bytes, (b) => Uint8Array.of(b));
    const read = await body(request(chunks, { pulled: 0 }), PatchDecisions);
    expect(read.label).toBe('Größe 漢');
  });
});
