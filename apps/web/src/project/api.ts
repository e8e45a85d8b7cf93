import { QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Operation } from 'fast-json-patch';
import { useEffect, useState } from 'react';
import type {
  JobKind,
  JobView,
  OneSheetView,
  ProjectView,
  ReadFileView,
  Region,
  ResultView,
  SheetOutlines,
} from '../contract/project.ts';
import { call } from './call.ts';
import { loadProject, projectKey } from './load-project.ts';

export const queryClient = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

/** Live state of a running job, from the event stream. */
export interface Live {
  share: number;
  doing: string;
  left: number | null;
  /** The sheet that is being baked and the number of its newest picture. */
  preview?: { sheet: string; count: number };
  /** What a survey has read since the project was fetched. */
  read?: ReadFileView[];
}

const WAITING: Live = { share: 0, doing: '', left: null };

type LiveMessage = { type: string; id: string; sheet: string; count: number; file: ReadFileView } & Live;

export function useProject(id: string) {
  const client = useQueryClient();
  const [live, setLive] = useState<Record<string, Live>>({});
  const [connected, setConnected] = useState(true);
  const query = useQuery({ queryKey: projectKey(id), queryFn: () => loadProject(client, id) });
  useEffect(() => {
    const stream = new EventSource(`/api/projects/${id}/events`);
    // The browser tries again by itself; what was missed meanwhile is fetched.
    stream.onerror = () => setConnected(false);
    stream.onopen = () =>
      setConnected((was) => {
        if (!was) void client.invalidateQueries({ queryKey: projectKey(id) });
        return true;
      });
    stream.onmessage = (event) => {
      const liveMessage = JSON.parse(event.data) as LiveMessage;
      if (liveMessage.type === 'progress')
        setLive((l) => ({
          ...l,
          [liveMessage.id]: {
            ...l[liveMessage.id],
            share: liveMessage.share,
            doing: liveMessage.doing,
            left: liveMessage.left,
          },
        }));
      else if (liveMessage.type === 'preview')
        setLive((l) => ({
          ...l,
          [liveMessage.id]: { ...l[liveMessage.id], preview: { sheet: liveMessage.sheet, count: liveMessage.count } },
        }));
      else if (liveMessage.type === 'read')
        setLive((l) => ({
          ...l,
          [liveMessage.id]: {
            ...WAITING,
            ...l[liveMessage.id],
            read: [...(l[liveMessage.id]?.read ?? []), liveMessage.file],
          },
        }));
      else if (liveMessage.type !== 'beat') void client.invalidateQueries({ queryKey: projectKey(id) });
    };
    return () => stream.close();
  }, [id, client]);
  return { ...query, live, connected };
}

/** The newest finished job of the given kinds; one that was made from just what is decided now comes first (after an undo). */
export function newest(project: ProjectView, ...kinds: JobKind[]) {
  const done = project.jobs.filter((j) => kinds.includes(j.kind) && j.state === 'done' && j.sheet === null);
  return done.find((j) => j.madeFrom === project.stamp) ?? done[0];
}

/** The newest bake that holds a sheet, alone or with the others; one of the present state comes first. */
export function newestOfSheet(project: ProjectView, sheet: string) {
  const done = project.jobs.filter(
    (j) => (j.kind === 'proof' || j.kind === 'final') && j.state === 'done' && (j.sheet === null || j.sheet === sheet),
  );
  const fresh = done.filter((j) => j.madeFrom === project.stamp);
  return fresh.find((j) => j.kind === 'final') ?? fresh[0] ?? done[0];
}

export function running(project: ProjectView, ...kinds: JobKind[]) {
  return project.jobs.find((j) => kinds.includes(j.kind) && (j.state === 'running' || j.state === 'queued'));
}

/** The last job of the kinds, when it ended without a result. */
export function failedLast(project: ProjectView, ...kinds: JobKind[]) {
  const last = project.jobs.find((j) => kinds.includes(j.kind));
  return last && (last.state === 'failed' || last.state === 'interrupted') ? last : undefined;
}

/** The result of a finished bake; while it is compared, without the comparison. */
export function useResult(job: Pick<JobView, 'id' | 'comparing'> | undefined) {
  // Each state of the file has an address of its own, so that both can be kept.
  const as = job?.comparing ? 'delivered' : 'compared';
  return useQuery({
    queryKey: ['result', job?.id, as],
    enabled: job !== undefined,
    staleTime: Infinity,
    placeholderData: (previous, query) => (query?.queryKey[1] === job?.id ? previous : undefined),
    queryFn: async () => withDistances(await call<ResultView>(`/api/jobs/${job?.id}/files/result.json?${as}`)),
  });
}

/** Results of earlier versions were compared from one distance alone. */
const withDistances = (result: ResultView): ResultView => ({
  ...result,
  fidelity: result.fidelity && { ...result.fidelity, distances: result.fidelity.distances ?? [] },
});

/** What is known of a bake of one sheet alone. */
export function useOneSheet(jobId: string | undefined) {
  return useQuery({
    queryKey: ['sheet', jobId],
    enabled: jobId !== undefined,
    staleTime: Infinity,
    queryFn: () => call<OneSheetView>(`/api/jobs/${jobId}/files/sheet.json`),
  });
}

export function useOutlines(jobId: string | undefined) {
  return useQuery({
    queryKey: ['outlines', jobId],
    enabled: jobId !== undefined,
    staleTime: Infinity,
    queryFn: () => call<SheetOutlines[]>(`/api/jobs/${jobId}/files/layout.json`),
  });
}

export const startJob = (project: string, kind: JobKind, sheet: string | null = null, region: Region = null) =>
  call<{ id: string }>(`/api/projects/${project}/jobs`, { method: 'POST', json: { kind, sheet, region } });

export const cancelJob = (job: string) => call(`/api/jobs/${job}/cancel`, { method: 'POST', json: {} });

export const adoptBaked = (job: string, into: 'project' | 'new') =>
  call<{ project: string }>(`/api/jobs/${job}/adopt`, { method: 'POST', json: { into } });

export const pauseJob = (job: string, on: boolean) => call(`/api/jobs/${job}/pause`, { method: 'POST', json: { on } });

/** @param patch of the stored decisions (RFC 6902) */
export const patchDecisions = (project: string, parent: number, label: string, patch: Operation[]) =>
  call<{ version: number }>(`/api/projects/${project}/decisions`, { method: 'PATCH', json: { parent, label, patch } });

export const stepProject = (project: string, parent: number, way: 'undo' | 'redo') =>
  call<{ label: string; version: number; patch: Operation[] }>(`/api/projects/${project}/step`, {
    method: 'POST',
    json: { parent, way },
  });

export const changeSources = (project: string, add: { path: string; hash: string }[], remove: string[]) =>
  call<{ version: number }>(`/api/projects/${project}/sources`, { method: 'POST', json: { add, remove } });

export interface Dropped {
  path: string;
  file: File;
}

/** Sends files one after another, then adds all that arrived in one step. Returns a sentence for each that was refused. */
export async function upload(
  project: string,
  files: Dropped[],
  onProgress: (done: number, name: string) => void,
): Promise<string[]> {
  const problems: string[] = [];
  const stored: { path: string; hash: string }[] = [];
  for (let i = 0; i < files.length; i++) {
    onProgress(i, files[i].path);
    const response = await fetch(`/api/uploads?path=${encodeURIComponent(files[i].path)}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/octet-stream' },
      body: files[i].file,
    });
    const value = (await response.json().catch(() => null)) as { error?: string; stored?: typeof stored } | null;
    if (response.ok && value?.stored) stored.push(...value.stored.map(({ path, hash }) => ({ path, hash })));
    else problems.push(value?.error ?? `${files[i].path}: the server answered ${response.status}`);
  }
  if (stored.length > 0) await changeSources(project, stored, []);
  return problems;
}

/** All files of a drop, folders walked through. */
export async function droppedFiles(items: DataTransferItemList): Promise<{ path: string; file: File }[]> {
  const out: { path: string; file: File }[] = [];
  const walk = async (entry: FileSystemEntry, prefix: string): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((ok, no) => (entry as FileSystemFileEntry).file(ok, no));
      out.push({ path: prefix + entry.name, file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (some.length === 0) return;
      for (const e of some) await walk(e, `${prefix}${entry.name}/`);
    }
  };
  // Both must be asked for at once: the list is empty as soon as anything is awaited.
  const dropped = [...items].map((i) => ({ entry: i.webkitGetAsEntry(), file: i.getAsFile() }));
  for (const { entry, file } of dropped) {
    if (entry) await walk(entry, '');
    else if (file) out.push({ path: file.name, file });
  }
  return out;
}
