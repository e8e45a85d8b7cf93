import type { QueryClient } from '@tanstack/react-query';
import { useSyncExternalStore } from 'react';
import type { MergeDecisions, ProjectView } from '../../contract/project.ts';
import { saveDecisions } from './api.ts';

type Part = Partial<MergeDecisions>;

/**
 * Edits of a project's decisions: shown at once, sent one after another, each on the revision that the one before made. When
 * one is refused (another tab was faster), those behind it are dropped too and the server's state shows again.
 */
class Edits {
  private waiting: readonly Part[] = [];
  private revision = 0;
  private tail: Promise<void> = Promise.resolve();
  private readonly listeners = new Set<() => void>();

  constructor(private readonly project: string) {}

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Edits that the server has not confirmed yet. */
  readonly pending = (): readonly Part[] => this.waiting;

  private set(waiting: readonly Part[]): void {
    this.waiting = waiting;
    for (const l of this.listeners) l();
  }

  /** Resolves when the edit is stored. @throws Error with the server's sentence */
  async change(client: QueryClient, part: Part): Promise<void> {
    this.set([...this.waiting, part]);
    const before = this.tail;
    const mine = (async () => {
      await before;
      if (!this.waiting.includes(part)) return;
      const key = ['project', this.project];
      try {
        const known = client.getQueryData<ProjectView>(key);
        if (!known) return;
        const parent = Math.max(this.revision, known.revision);
        const { revision } = await saveDecisions(this.project, parent, { ...known.decisions, ...part });
        this.revision = revision;
        client.setQueryData<ProjectView>(key, (p) =>
          p ? { ...p, revision, decisions: { ...p.decisions, ...part } } : p,
        );
        this.set(this.waiting.filter((p) => p !== part));
        await client.invalidateQueries({ queryKey: key });
      } catch (error) {
        this.set([]);
        this.revision = 0;
        await client.invalidateQueries({ queryKey: key });
        throw error;
      }
    })();
    this.tail = mine.catch(() => {});
    await mine;
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

/** The project with edits that are still under way laid over it. */
export function usePendingEdits(project: ProjectView | undefined): ProjectView | undefined {
  const edits = editsOf(project?.id ?? '');
  const pending = useSyncExternalStore(edits.subscribe, edits.pending);
  if (!project || pending.length === 0) return project;
  return { ...project, decisions: Object.assign({}, project.decisions, ...pending) };
}
