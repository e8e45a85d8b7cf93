import { nameProblems, plannedNames } from '@wembrel/core/predict/required';
import { useEffect, useId, useMemo, useState } from 'react';
import type { MergeDecisions } from '../../contract/project.ts';
import type { Forecast } from '../../project/prediction.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import css from './Rules.module.css';

const lines = (text: string): string[] => [
  ...new Set(
    text
      .split('\n')
      .map((line) => line.trim().slice(0, 120))
      .filter((line) => line !== ''),
  ),
];

/** Names that slots and textures have to bear when they are handed over, and what of the plan is against them. */
export function Required({
  decisions,
  forecast,
  edit,
}: {
  decisions: MergeDecisions;
  forecast: Forecast;
  edit: ViewProps['edit'];
}) {
  const { requiredNames, requiredTextures, sheets } = decisions;
  const [open, setOpen] = useState(false);
  const any = requiredNames.length + requiredTextures.length > 0;
  const problems = useMemo(
    () =>
      nameProblems(
        { requiredNames, requiredTextures },
        plannedNames(forecast.planSlots, forecast, { sheets }),
        forecast.flows.every((flow) => flow.sheet >= 0),
      ),
    [requiredNames, requiredTextures, sheets, forecast],
  );
  return (
    <section className={css.box} aria-label="Required names">
      <header className={css.head}>
        <h2>Required names</h2>
        <Button tone="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Done' : any ? 'Change them' : 'Require names'}
        </Button>
      </header>
      {!any && !open && <p className={css.none}>None. What is handed over may be called anything.</p>}
      {open && (
        <div className={css.lists}>
          <NameList
            title="Slots"
            value={requiredNames}
            set={(v) => edit('Required names of slots', (decisions) => ({ ...decisions, requiredNames: v }))}
          />
          <NameList
            title="Textures"
            value={requiredTextures}
            set={(v) => edit('Required names of textures', (decisions) => ({ ...decisions, requiredTextures: v }))}
          />
        </div>
      )}
      {any && (
        <ul className={css.problems}>
          {problems.length === 0 && <li className={css.none}>The plan brings forth these names and no others.</li>}
          {problems.slice(0, 8).map((problem) => (
            <li key={problem.message}>{problem.message}</li>
          ))}
          {problems.length > 8 && <li>and {problems.length - 8} more</li>}
        </ul>
      )}
    </section>
  );
}

function NameList({ title, value, set }: { title: string; value: string[]; set: (v: string[]) => void }) {
  const id = useId();
  const stored = value.join('\n');
  const [text, setText] = useState(stored);
  useEffect(() => setText(stored), [stored]);
  const keep = () => {
    const next = lines(text).slice(0, 200);
    if (next.join('\n') === stored) setText(stored);
    else set(next);
  };
  return (
    <label htmlFor={id}>
      {title}, one a line; * stands for any letters
      <textarea id={id} rows={4} value={text} onChange={(event) => setText(event.target.value)} onBlur={keep} />
    </label>
  );
}
