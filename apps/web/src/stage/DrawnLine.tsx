import type { Point } from '@wembrel/core/math/outline';
import css from './DrawnLine.module.css';

/** What is being drawn over a picture with Shift; see `useOutline`. */
export function DrawnLine({ points }: { points: readonly Point[] }) {
  if (points.length < 2) return null;
  return (
    <svg className={css.outline} aria-hidden="true">
      <polygon points={points.map((point) => point.join()).join(' ')} />
    </svg>
  );
}
