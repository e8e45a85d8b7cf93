import type { QueryClient } from '@tanstack/react-query';
import { useEffect, useSyncExternalStore } from 'react';
import type { JobKind, MergeDecisions, ProjectView, Region } from '../contract/project.ts';
import { patchDecisions, startJob, stepProject } from './api.ts';
import { patchBetween, patched } from './decision-patch.ts';
import { keepDecisions, projectKey } from './load-project.ts';
import { notify } from './notices.ts';

interface Edit {
  /** What is done, for the undo button. */
  label: string;
  apply: (d: MergeDecisions) => MergeDecisions;
}

/**
 * Edits of a project's decisions: shown at once, sent one after another, each on the version that the one before made. When
 * one is refused (another tab was faster), those behind it are dropped too and the server's state shows again.
 */
class Edits {
  private waiting: readonly Edit[] = [];
  private open = 0;
  private version = 0;
  private tail: Promise<void> = Promise.resolve();
  private readonly listeners = new Set<() => void>();

  constructor(private readonly project: string) {}

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Edits that the server has not confirmed yet. */
  readonly pending = (): readonly Edit[] => this.waiting;

  /** How many edits and steps the server has not confirmed or refused yet. */
  readonly unsaved = (): number => this.open;

  private set(waiting: readonly Edit[], open = this.open): void {
    this.waiting = waiting;
    this.open = open;
    for (const listener of this.listeners) listener();
  }

  private queue(client: QueryClient, work: (known: ProjectView, parent: number) => Promise<void>): Promise<void> {
    const key = projectKey(this.project);
    const before = this.tail;
    this.set(this.waiting, this.open + 1);
    this.tail = (async () => {
      await before;
      try {
        const known = client.getQueryData<ProjectView>(key);
        if (known) await work(known, Math.max(this.version, known.version));
      } catch (error) {
        this.set([]);
        this.version = 0;
        notify({ tone: 'fault', text: (error as Error).message });
      } finally {
        this.set(this.waiting, this.open - 1);
      }
      await client.invalidateQueries({ queryKey: key });
    })();
    return this.tail;
  }

  /** Shows what the server has stored now. */
  private show(client: QueryClient, version: number, decisions: MergeDecisions): void {
    this.version = version;
    keepDecisions(client, this.project, version, decisions);
    client.setQueryData<ProjectView>(projectKey(this.project), (p) => p && { ...p, version, decisions });
  }

  /** Resolves when all that was asked for so far is stored or refused. */
  settled(): Promise<void> {
    return this.tail;
  }

  /** Resolves when the edit is stored or refused; a refusal is shown to the user. */
  change(client: QueryClient, edit: Edit): Promise<void> {
    this.set([...this.waiting, edit]);
    return this.queue(client, async (known, parent) => {
      if (!this.waiting.includes(edit)) return;
      const decisions = edit.apply(known.decisions);
      const patch = await patchBetween(known.decisions, decisions);
      const { version } = await patchDecisions(this.project, parent, edit.label, patch);
      this.show(client, version, decisions);
      this.set(this.waiting.filter((e) => e !== edit));
    });
  }

  step(client: QueryClient, way: 'undo' | 'redo'): Promise<void> {
    return this.queue(client, async (known, parent) => {
      const { label, version, patch } = await stepProject(this.project, parent, way);
      this.show(client, version, await patched(known.decisions, patch));
      notify({ tone: 'plain', text: way === 'undo' ? `Undone: ${label}` : `Redone: ${label}` });
    });
  }
}

const byProject = new Map<string, Edits>();

export function editsOf(project: string): Edits {
  let edits = byProject.get(project);
  if (!edits) {
    edits = new Edits(project);
    byProject.set(project, edits);
  }
  return edits;
}

/** Starts a job on what is decided, with edits that are still on their way; what stands in the way is shown to the user. */
export async function startDecided(
  project: string,
  kind: JobKind,
  sheet: string | null = null,
  region: Region = null,
): Promise<void> {
  await editsOf(project).settled();
  await startJob(project, kind, sheet, region).catch((error: Error) => notify({ tone: 'fault', text: error.message }));
}

/** How many edits and steps are not stored yet. While there are any, the browser asks before it leaves the page: they would be lost. */
export function useUnsaved(project: string): number {
  const edits = editsOf(project);
  const unsaved = useSyncExternalStore(edits.subscribe, edits.unsaved);
  useEffect(() => {
    if (unsaved === 0) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [unsaved]);
  return unsaved;
}

/** The project with edits that are still under way laid over it. */
export function usePendingEdits(project: ProjectView | undefined): ProjectView | undefined {
  const edits = editsOf(project?.id ?? '');
  const pending = useSyncExternalStore(edits.subscribe, edits.pending);
  if (!project || pending.length === 0) return project;
  return { ...project, decisions: pending.reduce((decisions, edit) => edit.apply(decisions), project.decisions) };
}
