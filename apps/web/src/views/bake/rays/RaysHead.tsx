import type { ReactNode } from 'react';
import { RemoveResult } from '../../../project/RemoveResult.tsx';
import type { ViewProps } from '../../../project/view-props.ts';
import { Button } from '../../../ui/Button.tsx';
import { count } from '../../../ui/format.ts';
import frame from '../../../ui/View.module.css';
import type { RaysState } from './use-rays-view.ts';

export interface RaysHeadProps {
  state: RaysState;
  edit: ViewProps['edit'];
  switcher: ReactNode;
}

/** What was baked last, and what can be baked now. */
export function RaysHead({ state, edit, switcher }: RaysHeadProps) {
  const { last, job, ready, start, objects, bakeAll } = state;
  const busy = Boolean(job);
  const why = busy
    ? 'Wait until the running job has ended'
    : ready
      ? undefined
      : 'Pair a high-poly and a low-poly first';
  const bake = (kind: 'ray-reaches' | 'ray-proof' | 'ray-final', label: string) => (
    <Button onClick={() => start(kind)} disabled={busy || !ready} title={why}>
      {label}
    </Button>
  );
  return (
    <header className={frame.head}>
      <h1>Bake</h1>
      {switcher}
      {last && <ResultLine state={state} />}
      {last && !job && <RemoveResult job={last} edit={edit} />}
      {bake('ray-reaches', 'Find reaches')}
      {bake('ray-proof', 'Bake a proof')}
      {bake('ray-final', 'Bake the final')}
      <Button
        tone="main"
        onClick={bakeAll}
        disabled={busy || objects.length < 2}
        title={
          objects.length < 2
            ? 'Add a high-poly and a low-poly first'
            : 'Pairs what has no partner yet, finds reaches, bakes a proof, and where that is good the final with finished models'
        }
      >
        Bake all
      </Button>
    </header>
  );
}

function ResultLine({ state: { last, result, sheet, stale } }: { state: RaysState }) {
  const what = last?.kind === 'ray-final' ? 'Final' : last?.region ? 'Part of the final' : 'Proof';
  const pace = result
    ? `${count(result.rays / 1e6)} million rays, ${(result.raysPerSecond / 1e6).toFixed(1)} million a second`
    : undefined;
  return (
    <p title={pace}>
      {what}
      {sheet ? `, ${sheet.size} px` : ''}
      {stale ? ' · out of date' : ''}
    </p>
  );
}
