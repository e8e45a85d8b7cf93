import { weighSlots, weightOf } from '@wembrel/core/decisions/routes';
import { openSurfaces } from '@wembrel/core/predict/planned';
import { useEffect, useMemo, useState } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import type { Forecast } from '../../project/prediction.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/Field.tsx';
import { count, percent } from '../../ui/format.ts';
import { firstPlanned, slotTitle } from './list-rows.ts';
import css from './SlotCard.module.css';
import { Ways, waysOf } from './Ways.tsx';

/** What is selected: importance, what it gets of its sharpness, and the ways that a tiling slot can go, each with its price. */
export function SlotCard({
  survey,
  decisions,
  forecast,
  selected,
  edit,
  onPlanned,
}: {
  survey: SurveyView | null;
  decisions: MergeDecisions;
  forecast: Forecast;
  selected: number[];
  edit: ViewProps['edit'];
  /** Opens a planned surface. */
  onPlanned: (id: string) => void;
}) {
  const [first] = selected;
  const planSlot = forecast.planSlots[first];
  const ways = useMemo(() => (planSlot ? waysOf(planSlot) : null), [planSlot]);
  if (!planSlot) return null;
  const flow = forecast.flows[first];
  const title = slotTitle(forecast, decisions.planned, first);
  const at = firstPlanned(forecast, decisions.planned);
  const own = selected.filter((i) => i < at);
  const names = [...new Set(own.map((i) => forecast.planSlots[i].name))];
  const planned = first >= at ? openSurfaces(decisions.planned)[first - at] : null;
  const density = (d: typeof flow.density) =>
    d ? `${count(d.p5)} px/m lowest, ${count(d.median)} median` : 'no picture';
  return (
    <section className={css.box} aria-label="What is selected">
      <header>
        <h2>{selected.length === 1 ? title : `${selected.length} slots`}</h2>
        {names.length > 0 && <Weight names={names} decisions={decisions} edit={edit} />}
        {names.length > 0 && (
          <Check
            label="never turned"
            checked={names.every((name) => decisions.keepTurn.includes(name))}
            onChange={(on) =>
              edit(
                `${names.length === 1 ? names[0] : `${names.length} slots`}: ${on ? 'never turned' : 'may be turned'}`,
                (decisions) => ({
                  ...decisions,
                  keepTurn: [...decisions.keepTurn.filter((name) => !names.includes(name)), ...(on ? names : [])],
                }),
              )
            }
          />
        )}
        {planned && selected.length === 1 && <Button onClick={() => onPlanned(planned.id)}>Edit</Button>}
      </header>
      {selected.length === 1 && (
        <p className={css.facts}>
          {flow.sheet < 0
            ? `kept apart: ${flow.reason}`
            : `on ${decisions.sheets[flow.sheet].name}, ${
                flow.by === 'hand' ? 'routed by hand' : flow.by === 'rule' ? 'sent by a rule' : 'spread by area'
              }; ${density(flow.density)}${planSlot.flat ? '' : `, ${percent(Math.min(1, flow.sharpness))} of its source`}`}
        </p>
      )}
      {selected.length === 1 && !planned && ways && (
        <Ways {...ways} survey={survey} decisions={decisions} slot={first} now={forecast} edit={edit} />
      )}
    </section>
  );
}

function Weight({ names, decisions, edit }: { names: string[]; decisions: MergeDecisions; edit: ViewProps['edit'] }) {
  const now = weightOf(decisions.weights, names[0]);
  const [text, setText] = useState(String(now));
  useEffect(() => setText(String(now)), [now]);
  const set = () => {
    const v = Number(text);
    if (text.trim() === '' || !(v >= 0.05 && v <= 8)) return setText(String(now));
    if (v === now) return;
    edit(`Importance of ${names.length === 1 ? names[0] : `${names.length} slots`}: ${v}`, (decisions) => ({
      ...decisions,
      weights: weighSlots(decisions.weights, names, v),
    }));
  };
  return (
    <label title="How much sharper than the others it shall be: 2 is twice as sharp where room is short.">
      Importance{' '}
      <input
        inputMode="decimal"
        value={text}
        aria-label="Importance"
        onChange={(event) => setText(event.target.value)}
        onBlur={set}
        onKeyDown={(event) => event.key === 'Enter' && set()}
      />
    </label>
  );
}
