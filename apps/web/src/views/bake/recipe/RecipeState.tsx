import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import type { LiveSide } from '../../../contract/live-recipe.ts';
import { Button } from '../../../ui/Button.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { percent } from '../../../ui/format.ts';
import css from './Recipe.module.css';
import type { LineCoverage } from './use-coverage.ts';
import type { LaidState } from './use-laid.ts';
import type { LiveModelState } from './use-live-model.ts';

export interface RecipeStateProps {
  state: LaidState;
  /** Whether the model is read and laid out. */
  ready: boolean;
  opening: Pick<LiveModelState, 'busy' | 'stop' | 'again'>;
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
}

/** What is going on, how sharp the picture is, and what lies beside it. */
export function RecipeState(props: RecipeStateProps) {
  const { state, ready, opening, side, onSide, others, other, onOther } = props;
  return (
    <p className={css.state} role="status" data-state={state.busy || !state.laid ? 'busy' : 'laid'}>
      <StateText {...props} />
      {(state.busy || opening.busy) && (
        <Button
          tone="quiet"
          onClick={() => {
            opening.stop();
            state.stop();
          }}
        >
          Stop
        </Button>
      )}
      {!ready && !opening.busy && (
        <Button tone="quiet" onClick={opening.again}>
          Read it again
        </Button>
      )}
      {others.length > 0 && (
        <Choice
          label="Beside it"
          value={other ?? ''}
          options={[
            { value: '', label: 'nothing' },
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

function StateText({ state, ready, opening, doing, coverage, hint }: RecipeStateProps) {
  if (hint) return <strong>{hint}</strong>;
  if (!ready && !opening.busy) return <span>It was stopped before it was read.</span>;
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
