import type { StageMode } from './model-stage.ts';
import css from './TwoSides.module.css';

export interface TwoSidesProps {
  mode: StageMode;
  /** What the first and the second model are; null: they are not named. */
  titles: readonly [first: string, second: string] | null;
  split: number;
  onSplit: (split: number) => void;
  /** What the wipe's border is called. */
  label: string;
}

/** What lies over the picture of two models: their titles, the line between them, and what moves it. */
export function TwoSides({ mode, titles, split, onSplit, label }: TwoSidesProps) {
  return (
    <>
      {titles && (
        <>
          <span className={css.tag} style={{ left: 10 }}>
            {titles[0]}
          </span>
          <span className={css.tag} style={{ right: 10 }}>
            {titles[1]}
          </span>
        </>
      )}
      {mode === 'side' && <span className={css.line} style={{ left: '50%' }} />}
      {mode === 'wipe' && (
        <>
          <span className={css.line} style={{ left: `${split * 100}%` }} />
          <input
            className={css.wipe}
            type="range"
            min={0}
            max={1}
            step={0.01}
            value={split}
            aria-label={label}
            onChange={(event) => onSplit(Number(event.target.value))}
          />
        </>
      )}
    </>
  );
}
