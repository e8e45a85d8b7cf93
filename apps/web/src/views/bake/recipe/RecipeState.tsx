import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import type { LiveSide } from '../../../contract/live-recipe.ts';
import { Button } from '../../../ui/Button.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { percent } from '../../../ui/format.ts';
import css from './Recipe.module.css';
import type { LineCoverage } from './use-coverage.ts';
import type { LaidState } from './use-laid.ts';

export interface RecipeStateProps {
  state: LaidState;
  /** Whether the model is read and laid out. */
  ready: boolean;
  /** What takes long. */
  doing: string | null;
  coverage: LineCoverage | null;
  hint: string | null;
  side: LiveSide;
  onSide: (side: LiveSide) => void;
  /** Other recipes that may be laid beside it, and which one is. */
  others: readonly RecipeUse[];
  other: string | null;
  onOther: (name: string | null) => void;
  /** Where the other one is. */
  where: string;
}

/** What is going on, how sharp the picture is, and what lies beside it. */
export function RecipeState(props: RecipeStateProps) {
  const { state, side, onSide, others, other, onOther, where } = props;
  return (
    <p className={css.state} role="status" data-state={state.busy || !state.laid ? 'busy' : 'laid'}>
      <StateText {...props} />
      {state.busy && (
        <Button tone="quiet" onClick={state.stop}>
          Stop
        </Button>
      )}
      {others.length > 0 && (
        <Choice
          label={where}
          value={other ?? ''}
          options={[
            { value: '', label: where === 'Around it' ? 'itself' : 'nothing' },
            ...others.map(({ recipe }) => ({ value: recipe.name, label: recipe.name })),
          ]}
          onChange={(name) => onOther(name || null)}
        />
      )}
      <Choice
        label="Tuned at"
        value={String(side)}
        options={[256, 512, 1024].map((px) => ({ value: String(px), label: `${px} px` }))}
        onChange={(px) => onSide(Number(px) as LiveSide)}
      />
    </p>
  );
}

/** What is there at all is not nothing. */
const shareText = (share: number): string => (share > 0 && share < 0.005 ? 'less than 1 %' : percent(share));

function StateText({ state, ready, doing, coverage, hint }: RecipeStateProps) {
  if (hint) return <strong>{hint}</strong>;
  if (state.busy || !ready) return <span>{doing ? `${doing} …` : 'laying its lines …'}</span>;
  if (coverage)
    return (
      <span>
        <strong>{coverage.line}</strong> covers {shareText(coverage.share)} of the surface
      </span>
    );
  if (!state.laid) return <span />;
  const { width, milliseconds } = state.laid.view;
  return (
    <span>
      {width} px in {(milliseconds / 1000).toFixed(2)} s. Click a place to see through it; hold B to see it without the
      recipe.
    </span>
  );
}
