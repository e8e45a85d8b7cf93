import { APART, addRule } from '@wembrel/core/decisions/rules';
import { objectPattern, type SceneObject, sheetForEachObject } from '@wembrel/core/plan/sheet-for-each';
import { useState } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { notify } from '../../project/notices.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import css from './Objects.module.css';
import boxes from './Rules.module.css';
import { SheetOptions } from './SheetOptions.tsx';

/** Objects shown before the rest is asked for. */
const FIRST = 12;

/** Sends objects to a sheet or keeps them apart, in place of what was said of them before. */
function withObjectsOn(decisions: MergeDecisions, patterns: readonly string[], to: string): MergeDecisions {
  const others = decisions.rules.filter(({ when }) => when.kind !== 'object' || !patterns.includes(when.pattern));
  return {
    ...decisions,
    rules: patterns.reduce((list, pattern) => addRule(list, { kind: 'object', pattern }, to), others),
  };
}

/** What a plan says of an object, as the end of its line. */
function saidOf(decisions: MergeDecisions, pattern: string): string {
  if (decisions.only.length > 0 && !decisions.only.includes(pattern)) return 'stays as it is';
  const rule = decisions.rules.find(({ when }) => when.kind === 'object' && when.pattern === pattern);
  if (!rule) return '';
  if (rule.to === APART) return 'kept apart';
  return decisions.sheets.find((sheet) => sheet.id === rule.to)?.name ?? '';
}

/** Objects of the scene are chosen here or in the 3D picture, and merged alone, sent to a sheet, or given one each. */
export function Objects({
  objects,
  survey,
  decisions,
  chosen,
  choose,
  edit,
}: {
  objects: readonly SceneObject[];
  survey: SurveyView;
  decisions: MergeDecisions;
  /** Patterns of the chosen objects. */
  chosen: ReadonlySet<string>;
  choose: (patterns: ReadonlySet<string>) => void;
  edit: ViewProps['edit'];
}) {
  const [all, setAll] = useState(false);
  const [to, setTo] = useState('');
  const target = to || decisions.sheets[0].id;
  const patterns = [...chosen];
  const titled = patterns.length === 1 ? patterns[0] : `${patterns.length} objects`;
  const several = new Set(objects.map((object) => object.path)).size > 1;
  const toggle = (pattern: string) => {
    const next = new Set(chosen);
    if (!next.delete(pattern)) next.add(pattern);
    choose(next);
  };
  const eachAlone = () => {
    try {
      const own = sheetForEachObject(decisions, survey.slots);
      edit('A sheet for each object', () => own);
    } catch (error) {
      notify({ tone: 'fault', text: error instanceof Error ? error.message : String(error) });
    }
  };
  if (objects.length < 2) return null;
  return (
    <section className={boxes.box} aria-label="Objects">
      <header className={boxes.head}>
        <h2>Objects</h2>
        {decisions.only.length > 0 ? (
          <Button tone="quiet" onClick={() => edit('Merge all objects', (plan) => ({ ...plan, only: [] }))}>
            Merge all again
          </Button>
        ) : (
          <Button tone="quiet" onClick={eachAlone}>
            A sheet for each
          </Button>
        )}
      </header>
      <p className={boxes.none}>
        {decisions.only.length > 0
          ? `Only ${decisions.only.length === 1 ? `${decisions.only[0]} is` : `${decisions.only.length} objects are`} merged; the rest stays as it is.`
          : 'Choose some here or in the 3D picture, to merge only them or to send them to a sheet.'}
      </p>
      <ul className={css.list}>
        {objects.slice(0, all ? objects.length : FIRST).map((object) => {
          const pattern = objectPattern(object, objects);
          return (
            <li key={pattern}>
              <label>
                <input type="checkbox" checked={chosen.has(pattern)} onChange={() => toggle(pattern)} />
                <span title={pattern}>{object.name}</span>
                {several && <em>{object.path.slice(object.path.lastIndexOf('/') + 1)}</em>}
              </label>
              <em>{saidOf(decisions, pattern)}</em>
            </li>
          );
        })}
      </ul>
      {objects.length > FIRST && (
        <Button tone="quiet" onClick={() => setAll(!all)}>
          {all ? 'Fewer' : `All ${objects.length}`}
        </Button>
      )}
      <div className={css.acts}>
        <Button
          disabled={patterns.length === 0}
          onClick={() => edit(`Merge only ${titled}`, (plan) => ({ ...plan, only: patterns }))}
        >
          Merge only these
        </Button>
        <span>
          <select
            aria-label="Sheet for the chosen objects"
            value={target}
            onChange={(event) => setTo(event.target.value)}
          >
            <SheetOptions sheets={decisions.sheets} />
          </select>
          <Button
            disabled={patterns.length === 0}
            onClick={() => edit(`Route ${titled}`, (plan) => withObjectsOn(plan, patterns, target))}
          >
            Send them there
          </Button>
        </span>
      </div>
    </section>
  );
}
