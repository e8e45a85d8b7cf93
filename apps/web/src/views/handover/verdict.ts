/** One thing that was checked; `good` is null where it cannot be judged yet. */
export type DeliveryCheck = [name: string, said: string, good: boolean | null];

export interface Verdict {
  tone: 'ready' | 'open' | 'faulty';
  title: string;
  /** How many checks it rests on, and what is to be done. */
  text: string;
}

/** Whether a delivery can be handed over, in one line. @param stale it was made from what has changed since */
export function verdictOf(
  checks: readonly DeliveryCheck[],
  { proof, stale }: { proof: boolean; stale: boolean },
): Verdict {
  const good = checks.filter(([, , is]) => is === true).length;
  const bad = checks.filter(([, , is]) => is === false);
  const open = checks.length - good - bad.length;
  const count = `${good} of ${checks.length} checks passed`;
  if (bad.length > 0)
    return {
      tone: 'faulty',
      title: 'Not ready',
      text: `${count}; look at: ${bad.map(([name]) => name).join(', ')}`,
    };
  if (proof) return { tone: 'open', title: 'A proof', text: `${count}; the final makes the files` };
  if (stale) return { tone: 'open', title: 'Out of date', text: `${count}, before the plan or a source changed` };
  if (open > 0) return { tone: 'open', title: 'Complete', text: `${count}, ${open} not judged yet` };
  return { tone: 'ready', title: 'Ready', text: count };
}
