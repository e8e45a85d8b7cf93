import { useState } from 'react';
import { Button } from '../../../ui/Button.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import type { Take } from '../../../workers/faces.worker.ts';
import css from './Faces.module.css';
import type { FaceSelection } from './use-face-selection.ts';

/** What a click takes, in words. */
const TAKES: { value: Take; label: string }[] = [
  { value: 'face', label: 'face' },
  { value: 'piece', label: 'piece' },
  { value: 'part', label: 'part' },
  { value: 'island', label: 'island' },
  { value: 'slot', label: 'slot' },
  { value: 'flat', label: 'flat' },
  { value: 'loop', label: 'loop' },
  { value: 'colour', label: 'colour' },
];

/** How faces are taken, and what can be done to a selection. */
export function FaceTools({ selection, some }: { selection: FaceSelection; some: boolean }) {
  const [share, setShare] = useState(50);
  const { take, setTake } = selection;
  return (
    <div className={css.tools}>
      <div className={css.row}>
        <Segments
          label="A click takes"
          value={take.how}
          options={TAKES}
          onChange={(how) => setTake({ ...take, how })}
        />
        {take.how === 'flat' && (
          <label>
            up to
            <input
              type="number"
              min={0}
              max={180}
              value={take.degrees}
              onChange={(event) => setTake({ ...take, degrees: Number(event.target.value) })}
            />
            °
          </label>
        )}
        {take.how === 'colour' && (
          <label>
            alike to ΔE
            <input
              type="number"
              min={0}
              max={100}
              value={take.range}
              onChange={(event) => setTake({ ...take, range: Number(event.target.value) })}
            />
          </label>
        )}
      </div>
      <div className={css.row}>
        <Button tone="quiet" disabled={!some} onClick={selection.grow}>
          Grow
        </Button>
        <Button tone="quiet" disabled={!some} onClick={selection.shrink}>
          Shrink
        </Button>
        <Button tone="quiet" onClick={selection.invert}>
          Invert
        </Button>
        <Button tone="quiet" onClick={selection.all}>
          All
        </Button>
        <Button tone="quiet" disabled={!some} onClick={selection.none}>
          None
        </Button>
        <label title="Two triangles that make a quad are taken, counted and dealt out as one">
          <input
            type="checkbox"
            checked={take.quads}
            onChange={(event) => setTake({ ...take, quads: event.target.checked })}
          />{' '}
          quads
        </label>
        <label title="A box (Shift, drag) and a line (Shift and Alt, drag) also take what lies behind">
          <input
            type="checkbox"
            checked={take.through}
            onChange={(event) => setTake({ ...take, through: event.target.checked })}
          />{' '}
          through
        </label>
        <label>
          <Button tone="quiet" disabled={!some} onClick={() => selection.share(share / 100)}>
            Keep
          </Button>
          <input
            type="number"
            aria-label="Share kept"
            min={0}
            max={100}
            value={share}
            onChange={(event) => setShare(Number(event.target.value))}
          />
          % at random
        </label>
        <Button tone="quiet" disabled={!some} onClick={selection.hide}>
          Hide
        </Button>
        <Button tone="quiet" disabled={!some} onClick={selection.hideOthers}>
          Hide others
        </Button>
        <Button tone="quiet" disabled={selection.hidden === null} onClick={selection.showAll}>
          Show all
        </Button>
      </div>
    </div>
  );
}
