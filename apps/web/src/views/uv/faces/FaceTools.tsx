import { useState } from 'react';
import { Button } from '../../../ui/Button.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import type { Take } from '../../../workers/faces.worker.ts';
import css from './Faces.module.css';

/** What a click takes, in words. */
const TAKES: { value: Take; label: string }[] = [
  { value: 'face', label: 'face' },
  { value: 'piece', label: 'piece' },
  { value: 'island', label: 'island' },
  { value: 'slot', label: 'slot' },
  { value: 'flat', label: 'flat' },
  { value: 'loop', label: 'loop' },
  { value: 'colour', label: 'colour' },
];

export interface HowToTake {
  how: Take;
  degrees: number;
  range: number;
}

export interface FaceToolsProps {
  take: HowToTake;
  setTake: (t: HowToTake) => void;
  some: boolean;
  hiding: boolean;
  grow: () => void;
  shrink: () => void;
  invert: () => void;
  all: () => void;
  none: () => void;
  share: (share: number) => void;
  hide: () => void;
  hideOthers: () => void;
  showAll: () => void;
}

/** How faces are taken, and what can be done to a selection. */
export function FaceTools(faceToolsProps: FaceToolsProps) {
  const [share, setShare] = useState(50);
  return (
    <div className={css.tools}>
      <div className={css.row}>
        <Segments
          label="A click takes"
          value={faceToolsProps.take.how}
          options={TAKES}
          onChange={(how) => faceToolsProps.setTake({ ...faceToolsProps.take, how })}
        />
        {faceToolsProps.take.how === 'flat' && (
          <label>
            up to
            <input
              type="number"
              min={0}
              max={180}
              value={faceToolsProps.take.degrees}
              onChange={(event) =>
                faceToolsProps.setTake({ ...faceToolsProps.take, degrees: Number(event.target.value) })
              }
            />
            °
          </label>
        )}
        {faceToolsProps.take.how === 'colour' && (
          <label>
            alike to ΔE
            <input
              type="number"
              min={0}
              max={100}
              value={faceToolsProps.take.range}
              onChange={(event) =>
                faceToolsProps.setTake({ ...faceToolsProps.take, range: Number(event.target.value) })
              }
            />
          </label>
        )}
      </div>
      <div className={css.row}>
        <Button tone="quiet" disabled={!faceToolsProps.some} onClick={faceToolsProps.grow}>
          Grow
        </Button>
        <Button tone="quiet" disabled={!faceToolsProps.some} onClick={faceToolsProps.shrink}>
          Shrink
        </Button>
        <Button tone="quiet" onClick={faceToolsProps.invert}>
          Invert
        </Button>
        <Button tone="quiet" onClick={faceToolsProps.all}>
          All
        </Button>
        <Button tone="quiet" disabled={!faceToolsProps.some} onClick={faceToolsProps.none}>
          None
        </Button>
        <label>
          <Button tone="quiet" disabled={!faceToolsProps.some} onClick={() => faceToolsProps.share(share / 100)}>
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
        <Button tone="quiet" disabled={!faceToolsProps.some} onClick={faceToolsProps.hide}>
          Hide
        </Button>
        <Button tone="quiet" disabled={!faceToolsProps.some} onClick={faceToolsProps.hideOthers}>
          Hide others
        </Button>
        <Button tone="quiet" disabled={!faceToolsProps.hiding} onClick={faceToolsProps.showAll}>
          Show all
        </Button>
      </div>
    </div>
  );
}
