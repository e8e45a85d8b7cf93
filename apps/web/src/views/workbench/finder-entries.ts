import type { ProjectView } from '../../contract/project.ts';
import { newest, running } from '../../project/api.ts';
import { FINDING_TITLES } from '../../project/finding-titles.ts';
import { VIEW_TITLES, VIEWS, type ViewName } from '../../project/stages.ts';

/** One thing that can be found and done. */
export interface FinderEntry {
  id: string;
  group: 'Actions' | 'Findings' | 'Models' | 'Slots';
  text: string;
  /** Beside the text, smaller: the file of a slot, say. */
  note?: string;
  /** Keys that do the same, as `KeyCaps` takes them. */
  keys?: string;
  run: () => void;
}

export interface FinderMeans {
  go: (view: ViewName) => void;
  step: (way: 'undo' | 'redo') => void;
  bake: (kind: 'proof' | 'final') => void;
  download: (job: string) => void;
  selectSlot: (slot: number) => void;
  selectModel: (model: number) => void;
  openFinding: (code: string) => void;
  showHelp: () => void;
  showProjects: () => void;
}

/** Entries of a group that are shown. */
const MOST = 30;

/** What can be done now, and all that the survey knows by name. */
export function finderEntries(project: ProjectView, codes: readonly string[], means: FinderMeans): FinderEntry[] {
  return [
    ...actions(project, means),
    ...codes.map((code) => ({
      id: `finding ${code}`,
      group: 'Findings' as const,
      text: FINDING_TITLES[code] ?? code,
      run: () => means.openFinding(code),
    })),
    ...(project.survey?.models ?? []).map((model, m) => ({
      id: `model ${m}`,
      group: 'Models' as const,
      text: model.path,
      run: () => means.selectModel(m),
    })),
    ...(project.survey?.slots ?? []).map((slot, s) => ({
      id: `slot ${s}`,
      group: 'Slots' as const,
      text: slot.name,
      note: slot.path,
      run: () => means.selectSlot(s),
    })),
  ];
}

function actions(project: ProjectView, means: FinderMeans): FinderEntry[] {
  const action = (text: string, run: () => void, more: { keys?: string; note?: string } = {}): FinderEntry => ({
    id: `action ${text}`,
    group: 'Actions',
    text,
    run,
    ...more,
  });
  const final = newest(project, 'final');
  const bakes = project.survey !== null && !running(project, 'proof', 'final');
  return [
    ...VIEWS.map((view, i) => action(`Go to ${VIEW_TITLES[view]}`, () => means.go(view), { keys: `Alt ${i + 1}` })),
    ...(bakes
      ? [action('Bake a proof', () => means.bake('proof')), action('Bake the final', () => means.bake('final'))]
      : []),
    ...(final ? [action('Download as ZIP', () => means.download(final.id))] : []),
    ...(project.undo ? [action('Undo', () => means.step('undo'), { keys: 'Ctrl Z', note: project.undo })] : []),
    ...(project.redo ? [action('Redo', () => means.step('redo'), { keys: 'Ctrl Y', note: project.redo })] : []),
    action('Help: shortcuts, words, manual', means.showHelp, { keys: '?' }),
    action('All projects', means.showProjects),
  ];
}

/**
 * What fits to what was typed: every word must occur; what begins with the first word comes first. Nothing typed: the actions alone.
 * @returns in the order of the groups, some of each at most
 */
export function found(entries: readonly FinderEntry[], typed: string): FinderEntry[] {
  const words = typed.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  const counts = new Map<string, number>();
  const fit = (entry: FinderEntry) => {
    if (words.length === 0) return entry.group === 'Actions';
    const text = `${entry.text} ${entry.note ?? ''}`.toLocaleLowerCase();
    return words.every((word) => text.includes(word));
  };
  const begins = (entry: FinderEntry) => Number(!entry.text.toLocaleLowerCase().startsWith(words[0] ?? ''));
  const order = ['Actions', 'Findings', 'Models', 'Slots'];
  return entries
    .filter(fit)
    .sort((a, b) => order.indexOf(a.group) - order.indexOf(b.group) || begins(a) - begins(b))
    .filter((entry) => {
      const n = (counts.get(entry.group) ?? 0) + 1;
      counts.set(entry.group, n);
      return n <= MOST;
    });
}
