import type { Offer } from '@wembrel/core/predict/offer';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count, percent } from '../../ui/format.ts';
import css from './OfferLine.module.css';

/** Names that are listed. */
const MOST_NAMES = 40;

/** What the project could gain beyond its plan, in one line, with the click that takes it. */
export function OfferLine({
  offer,
  format,
  edit,
  onReview,
}: {
  offer: Offer;
  format: keyof Offer['now']['bytes'];
  edit: ViewProps['edit'];
  onReview: () => void;
}) {
  const { now, then, kind, joined, sharpness } = offer;
  const calls = now.drawCalls !== then.drawCalls;
  const memory = bytes(now.bytes[format]) !== bytes(then.bytes[format]);
  return (
    <section className={css.offer} aria-label="What could be gained">
      <p>
        To be gained:{' '}
        {calls && (
          <b>
            {count(now.drawCalls)} → {count(then.drawCalls)} draw calls
          </b>
        )}
        {calls && memory && ', '}
        {memory && (
          <b>
            {bytes(now.bytes[format])} → {bytes(then.bytes[format])}
          </b>
        )}
      </p>
      {joined.length > 0 && (
        <details className={css.price}>
          <summary>{count(joined.length)} parts are joined across nodes and culled as one; their nodes go</summary>
          <ul>
            {joined.slice(0, MOST_NAMES).map((name) => (
              <li key={name}>{name}</li>
            ))}
            {joined.length > MOST_NAMES && <li>and {count(joined.length - MOST_NAMES)} more</li>}
          </ul>
        </details>
      )}
      {sharpness < 0.99 && (
        <p className={css.price}>
          The least sharp slot keeps ≈ {percent(sharpness)} of what its pictures show; larger sheets would keep more.
        </p>
      )}
      <p className={css.choices}>
        <Button
          tone="main"
          onClick={() => edit(kind === 'join' ? 'Join across nodes' : 'Apply the proposed plan', () => offer.decisions)}
        >
          Apply
        </Button>
        <Button tone="quiet" onClick={onReview}>
          Review
        </Button>
      </p>
    </section>
  );
}
