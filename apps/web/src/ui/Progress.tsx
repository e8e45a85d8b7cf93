import { Button } from './Button.tsx';
import css from './Progress.module.css';

export interface ProgressProps {
  /** 0 … 1 */
  share: number;
  doing: string;
  /** Seconds left, when known. */
  left: number | null;
  onCancel?: () => void;
  paused?: boolean;
  /** Lets it wait, or go on. */
  onPause?: (on: boolean) => void;
}

/** A running job: how far, what it is doing, how long still, and a way to stop it. */
export function Progress({ share, doing, left, onCancel, paused = false, onPause }: ProgressProps) {
  const whole = Math.min(100, Math.round(share * 100));
  return (
    <div className={css.box}>
      <div
        className={css.track}
        role="progressbar"
        aria-label={doing}
        aria-valuenow={whole}
        aria-valuemin={0}
        aria-valuemax={100}
      >
        <div className={css.bar} style={{ width: `${whole}%` }} />
      </div>
      <div className={css.row}>
        <span className={css.text}>
          {whole} % · {paused ? 'paused' : doing}
          {!paused && left !== null && left > 0 ? ` · about ${left} s left` : ''}
        </span>
        {onPause && (
          <Button tone="quiet" onClick={() => onPause(!paused)}>
            {paused ? 'Go on' : 'Pause'}
          </Button>
        )}
        {onCancel && (
          <Button tone="quiet" onClick={onCancel}>
            Cancel
          </Button>
        )}
      </div>
    </div>
  );
}
