import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import fastJsonPatch, { type Operation } from 'fast-json-patch';
import { afterEach, describe, expect, test, vi } from 'vitest';
import type { ProjectView } from '../src/contract/project.ts';
import { editsOf } from '../src/project/edits.ts';
import { useNotices } from '../src/project/notices.ts';

const { applyPatch } = fastJsonPatch;

interface Request {
  path: string;
  body: { parent: number; label?: string; patch?: Operation[] };
}

/** A server that stores what it is sent, one version after another, and refuses what was not made from the last one. */
function server(id: string) {
  const requests: Request[] = [];
  let state = { version: 4, decisions: MergeDecisions.parse({}) };
  let waiting: (() => void)[] | null = null;
  vi.stubGlobal('fetch', async (path: string, init?: RequestInit) => {
    const body = JSON.parse(String(init?.body)) as Request['body'];
    requests.push({ path, body });
    if (waiting) await new Promise<void>((go) => waiting?.push(go));
    if (body.parent !== state.version) return Response.json({ error: 'changed elsewhere' }, { status: 409 });
    const undo: Operation[] = [{ op: 'replace', path: '/decisions/effort', value: 77 }];
    const patch = body.patch ?? [{ op: 'replace', path: '/effort', value: 77 }];
    state = { version: state.version + 1, decisions: applyPatch(state.decisions, patch, true, false).newDocument };
    return Response.json({ version: state.version, label: 'the last one', patch: undo });
  });
  const client = new QueryClient();
  const known = () => ({ id, ...state }) as ProjectView;
  client.setQueryData(['project', id], known());
  // As the page does: what was refused is asked for again.
  const unwatch = new QueryObserver(client, { queryKey: ['project', id], queryFn: known }).subscribe(() => {});
  return {
    requests,
    client,
    unwatch,
    state: () => state,
    hold: () => {
      waiting = [];
    },
    release: () => {
      const all = waiting ?? [];
      waiting = null;
      for (const go of all) go();
    },
    elsewhere: () => {
      state = { ...state, version: state.version + 1 };
    },
  };
}

const sized = (effort: number) => ({
  label: `effort ${effort}`,
  apply: (decisions: MergeDecisions): MergeDecisions => ({ ...decisions, effort, seed: decisions.seed + 1 }),
});

describe('edits of a project', () => {
  afterEach(() => {
    vi.unstubAllGlobals();
    useNotices.setState({ list: [] });
  });

  test('are shown at once, sent one after another, each made from the one before, and count as unsaved until then', async () => {
    const s = server('a');
    const edits = editsOf('a');
    s.hold();
    const done = [1, 2, 3].map((n) => edits.change(s.client, sized(n)));
    expect(edits.unsaved()).toBe(3);
    expect(edits.pending().map((edit) => edit.label)).toEqual(['effort 1', 'effort 2', 'effort 3']);
    await vi.waitFor(() => expect(s.requests).toHaveLength(1));
    s.release();
    await Promise.all(done);
    expect(s.requests.map((request) => [request.body.parent, request.body.label])).toEqual([
      [4, 'effort 1'],
      [5, 'effort 2'],
      [6, 'effort 3'],
    ]);
    expect(s.state().decisions).toMatchObject({ effort: 3, seed: 4 });
    expect([edits.unsaved(), edits.pending()]).toEqual([0, []]);
    s.unwatch();
  });

  test('one that is refused takes those behind it along, and says so; the next ones go through', async () => {
    const s = server('b');
    const edits = editsOf('b');
    s.hold();
    const done = [1, 2].map((n) => edits.change(s.client, sized(n)));
    await vi.waitFor(() => expect(s.requests).toHaveLength(1));
    s.elsewhere();
    s.release();
    await Promise.all(done);
    expect(s.requests).toHaveLength(1);
    expect([edits.unsaved(), edits.pending()]).toEqual([0, []]);
    expect(useNotices.getState().list.map((n) => n.text)).toEqual(['changed elsewhere']);
    expect(s.state().decisions.effort).toBe(MergeDecisions.parse({}).effort);
    await edits.change(s.client, sized(9));
    expect(s.state().decisions.effort).toBe(9);
    s.unwatch();
  });

  test('a step back waits for the edits before it, and counts as unsaved as well', async () => {
    const s = server('c');
    const edits = editsOf('c');
    s.hold();
    const done = [edits.change(s.client, sized(5)), edits.step(s.client, 'undo')];
    expect(edits.unsaved()).toBe(2);
    await vi.waitFor(() => expect(s.requests).toHaveLength(1));
    s.release();
    await Promise.all(done);
    expect(s.requests.map((request) => [request.path.split('/').at(-1), request.body.parent])).toEqual([
      ['decisions', 4],
      ['step', 5],
    ]);
    expect(edits.unsaved()).toBe(0);
    // What the step changed shows without asking for the decisions again.
    expect(s.client.getQueryData<ProjectView>(['project', 'c'])).toMatchObject({
      version: 6,
      decisions: { effort: 77 },
    });
    s.unwatch();
  });

  test('what is sent is the change alone, however large the decisions are', async () => {
    const s = server('d');
    await editsOf('d').change(s.client, sized(8));
    const patch = [...(s.requests[0].body.patch ?? [])].sort((a, b) => (a.path < b.path ? -1 : 1));
    expect(patch).toEqual([
      { op: 'replace', path: '/effort', value: 8 },
      { op: 'replace', path: '/seed', value: 2 },
    ]);
    s.unwatch();
  });
});
