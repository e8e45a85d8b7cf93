import type { ReachesView } from '../../../contract/project.ts';
import { Button } from '../../../ui/Button.tsx';
import { percent } from '../../../ui/format.ts';
import { length } from './lengths.ts';
import css from './ReachCurve.module.css';

/** Faults by outward reach, and what was found best. */
export function ReachCurve({
  found,
  take,
}: {
  found: ReachesView['pairings'][number];
  take: (outward: number, inward: number) => void;
}) {
  const { points, best } = found.sweep;
  // The first half tries outward reaches, with one inward reach.
  const tried = points.filter((point) => point.inward === points[0].inward).slice(0, points.length / 2);
  const most = Math.max(0.01, ...tried.map((sweepPoint) => sweepPoint.missed + sweepPoint.stray + sweepPoint.cut));
  const widest = Math.max(...tried.map((sweepPoint) => sweepPoint.outward));
  const at = (sweepPoint: (typeof tried)[number], v: number) =>
    `${((sweepPoint.outward / widest) * 196 + 2).toFixed(1)} ${(42 - (v / most) * 38).toFixed(1)}`;
  return (
    <div className={css.curve}>
      <svg viewBox="0 0 200 46" role="img" aria-label="Faults by outward reach">
        <path className={css.axis} d="M2 42H198" />
        <path
          className={css.missedCurve}
          d={`M${tried.map((sweepPoint) => at(sweepPoint, sweepPoint.missed)).join('L')}`}
        />
        <path
          className={css.strayCurve}
          d={`M${tried.map((sweepPoint) => at(sweepPoint, sweepPoint.stray)).join('L')}`}
        />
        <path className={css.cutCurve} d={`M${tried.map((sweepPoint) => at(sweepPoint, sweepPoint.cut)).join('L')}`} />
        <line
          className={css.bestLine}
          x1={(best.outward / widest) * 196 + 2}
          x2={(best.outward / widest) * 196 + 2}
          y1={2}
          y2={42}
        />
      </svg>
      <p>
        <span className={css.keyMissed}>missed</span> <span className={css.keyStray}>stray</span>{' '}
        <span className={css.keyCut}>cut off</span> up to {percent(most, 1)}, by outward reach to {length(widest)}
      </p>
      <Button onClick={() => take(best.outward, best.inward)}>
        Use {length(best.outward)} outward, {length(best.inward)} inward
      </Button>
    </div>
  );
}
