import type { SourceOptions } from '../decisions/reading.ts';
import type { Repairs } from '../decisions/repairs.ts';

type Severity = 'fault' | 'warning' | 'info';

/** What a finding's action does: it changes decisions, or leads to where the change is made. */
export type FindingAction =
  | { do: 'repair'; label: string; repairs: Partial<Repairs> }
  | { do: 'route-together'; label: string; slots: string[] }
  | { do: 'keep-apart'; label: string; slots: string[] }
  | { do: 'join'; label: string }
  | { do: 'read-as'; label: string; path: string; options: Partial<SourceOptions> }
  /** `model`: which one is then in sight, by its position. */
  | { do: 'go'; label: string; to: 'reading' | 'plan' | 'uv' | 'bake' | 'files' | 'stand-in'; model?: number };

/** Things that a finding is about; positions in the survey's lists, parts as [model, part], pictures by key. */
interface FindingObjects {
  models?: number[];
  slots?: number[];
  parts?: [model: number, part: number][];
  pictures?: string[];
}

/** One thing that the survey noticed. */
export interface Finding {
  code: string;
  severity: Severity;
  /** The one thing it is about, or how many. */
  subject: string;
  message: string;
  saves: { drawCalls?: number; bytes?: number; vertices?: number; triangles?: number };
  objects: FindingObjects;
  action: FindingAction | null;
  /** Without an action: why there is nothing to do. */
  why?: string;
}

/** Largest saving first: draw calls, then memory, then vertices; faults before warnings before remarks where nothing is saved. */
export function bySaving(finding: Finding, b: Finding): number {
  const rank = { fault: 0, warning: 1, info: 2 };
  return (
    Number(b.severity === 'fault') - Number(finding.severity === 'fault') ||
    (b.saves.drawCalls ?? 0) - (finding.saves.drawCalls ?? 0) ||
    (b.saves.bytes ?? 0) - (finding.saves.bytes ?? 0) ||
    (b.saves.triangles ?? 0) - (finding.saves.triangles ?? 0) ||
    (b.saves.vertices ?? 0) - (finding.saves.vertices ?? 0) ||
    rank[finding.severity] - rank[b.severity] ||
    (finding.code < b.code ? -1 : finding.code > b.code ? 1 : 0)
  );
}

/** `3 slots`, or the one by its name. */
export function several(names: string[], one: string, many: string): string {
  return names.length === 1 ? `"${names[0]}"` : `${names.length} ${names.length === 1 ? one : many}`;
}

/** The first few names, and how many more. */
export function few(names: string[], most = 3): string {
  const shown = names.slice(0, most).map((name) => `"${name}"`);
  return names.length > most ? `${shown.join(', ')} and ${names.length - most} more` : shown.join(', ');
}
