import { fitsRule, type RuleCondition } from '@wembrel/core/decisions/rules';
import { traitsOf } from '@wembrel/core/predict/predict';
import { useId, useState } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { ruleTitle, withRule } from '../../project/change-plan.ts';
import type { Forecast } from '../../project/prediction.ts';
import { useSelection } from '../../project/selection.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import css from './Rules.module.css';
import { SheetOptions } from './SheetOptions.tsx';

const KINDS: { value: RuleCondition['kind']; label: string }[] = [
  { value: 'name', label: 'called' },
  { value: 'model', label: 'of models called' },
  { value: 'object', label: 'of objects called' },
  { value: 'picture', label: 'that reads the texture of' },
  { value: 'flat', label: 'of one colour' },
  { value: 'repeats', label: 'whose texture repeats' },
  { value: 'alpha', label: 'with transparency' },
];

const EXAMPLES = { name: 'Wood*', model: 'props/*', object: 'bench*' };

/** Rules send slots to sheets by what they are, those of models that come later as well. */
export function Rules({
  survey,
  decisions,
  forecast,
  edit,
}: {
  survey: SurveyView | null;
  decisions: MergeDecisions;
  forecast: Forecast;
  edit: ViewProps['edit'];
}) {
  const id = useId();
  const selected = useSelection((selection) => [...selection.slots][0] ?? null);
  const [adding, setAdding] = useState(false);
  const [kind, setKind] = useState<RuleCondition['kind']>('name');
  const [pattern, setPattern] = useState('');
  const [to, setTo] = useState('');
  const pictureName = (key: string) =>
    survey?.pictures.find((picture) => picture.key === key)?.name ?? 'a texture that is gone';
  const traits = forecast.planSlots.map(traitsOf);
  const caught = (when: RuleCondition) => traits.filter((trait) => fitsRule(when, trait)).length;
  const picture = selected === null ? undefined : forecast.planSlots[selected]?.images.baseColor;
  const condition = (): RuleCondition | null => {
    if (kind === 'name' || kind === 'model' || kind === 'object')
      return pattern.trim() === '' ? null : { kind, pattern: pattern.trim() };
    if (kind === 'picture') return picture ? { kind, picture } : null;
    return { kind };
  };
  const when = condition();
  const target = to || decisions.sheets[0].id;
  const add = () => {
    if (!when) return;
    edit(`Rule: ${ruleTitle(decisions, { when, to: target }, pictureName)}`, (decisions) =>
      withRule(decisions, when, target),
    );
    setAdding(false);
    setPattern('');
  };
  return (
    <section className={css.box} aria-label="Rules">
      <header className={css.head}>
        <h2>Rules</h2>
        <Button tone="quiet" aria-expanded={adding} onClick={() => setAdding(!adding)}>
          {adding ? 'Cancel' : 'Add a rule'}
        </Button>
      </header>
      {decisions.rules.length === 0 && !adding && (
        <p className={css.none}>None. A rule also catches slots of models that are added later.</p>
      )}
      <ol className={css.rules}>
        {decisions.rules.map((rule) => (
          <li key={rule.id}>
            <span>
              {ruleTitle(decisions, rule, pictureName)} <em>{caught(rule.when)} fit</em>
            </span>
            <Button
              tone="quiet"
              aria-label={`Delete rule: ${ruleTitle(decisions, rule, pictureName)}`}
              onClick={() =>
                edit('Delete a rule', (decisions) => ({
                  ...decisions,
                  rules: decisions.rules.filter((x) => x.id !== rule.id),
                }))
              }
            >
              Delete
            </Button>
          </li>
        ))}
      </ol>
      {adding && (
        <form
          className={css.form}
          onSubmit={(event) => {
            event.preventDefault();
            add();
          }}
        >
          <label htmlFor={`${id}kind`}>Every slot</label>
          <select
            id={`${id}kind`}
            value={kind}
            onChange={(event) => setKind(event.target.value as RuleCondition['kind'])}
          >
            {KINDS.map((k) => (
              <option key={k.value} value={k.value}>
                {k.label}
              </option>
            ))}
          </select>
          {(kind === 'name' || kind === 'model' || kind === 'object') && (
            <input
              aria-label="Pattern; * stands for any letters"
              placeholder={EXAMPLES[kind]}
              value={pattern}
              onChange={(event) => setPattern(event.target.value)}
            />
          )}
          {kind === 'picture' && (
            <span className={css.none}>
              {picture && selected !== null
                ? `${forecast.planSlots[selected].name} (${pictureName(picture)})`
                : 'a slot with a picture: select one'}
            </span>
          )}
          <label htmlFor={`${id}to`}>goes to</label>
          <select id={`${id}to`} value={target} onChange={(event) => setTo(event.target.value)}>
            <SheetOptions sheets={decisions.sheets} />
          </select>
          <Button type="submit" tone="main" aria-disabled={!when}>
            Add the rule
          </Button>
          <em>{when ? `${caught(when)} of ${traits.length} slots fit` : ''}</em>
        </form>
      )}
    </section>
  );
}
