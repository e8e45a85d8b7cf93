import { useEffect, useRef, useState } from 'react';
import { ModelView, type ModelViewHandle } from '../../../stage/ModelView.tsx';
import type { StageMode } from '../../../stage/model-stage.ts';
import { TwoSides } from '../../../stage/TwoSides.tsx';
import { Button } from '../../../ui/Button.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import css from './StandInView.module.css';

const MODES: { value: 'side' | 'wipe' | 'difference' | 'wire'; label: string }[] = [
  { value: 'side', label: 'side by side' },
  { value: 'wipe', label: 'wipe' },
  { value: 'difference', label: 'difference' },
  { value: 'wire', label: 'edges' },
];

export interface StandInPictureProps {
  /** Address of the source, and of the level in sight; null where there is none yet. */
  source: string | null;
  made: string | null;
  /** What is on the right, in a few words. */
  title: string;
  onDistance: (metres: number) => void;
  metres: number | null;
}

/** Source and stand-in under one camera; going away from them shows lighter levels. */
export function StandInPicture({ source, made, title, onDistance, metres }: StandInPictureProps) {
  const picture = useRef<ModelViewHandle>(null);
  const [mode, setMode] = useState<(typeof MODES)[number]['value']>('side');
  const [split, setSplit] = useState(0.5);
  const [near, setNear] = useState<number | null>(null);
  const stage: StageMode = made === null ? 'one' : mode === 'wire' ? 'side' : mode;
  useEffect(() => {
    if (near === null && metres !== null) setNear(metres);
  }, [near, metres]);
  const far = near === null ? 0 : Math.log2((metres ?? near) / near);
  return (
    <>
      <div className={css.stage}>
        <ModelView
          ref={picture}
          label={made === null ? '3D picture of the source' : `Source and ${title}, ${mode}`}
          url={source}
          second={made}
          mode={stage}
          split={split}
          wire={mode === 'wire'}
          onDistance={onDistance}
        />
        {made !== null && (
          <TwoSides
            mode={stage}
            titles={stage === 'difference' ? null : ['Source', title]}
            split={split}
            onSplit={setSplit}
            label="Where the source ends and the stand-in begins"
          />
        )}
      </div>
      {made !== null && (
        <footer className={css.foot}>
          <Segments label="How to compare" value={mode} options={MODES} onChange={setMode} />
          <label className={css.away}>
            Go away
            <input
              type="range"
              min={-1}
              max={7}
              step={0.05}
              value={far}
              onChange={(event) =>
                near !== null && picture.current?.setDistance(near * 2 ** Number(event.target.value))
              }
            />
            <output>{metres === null ? '' : `${metres < 10 ? metres.toFixed(1) : Math.round(metres)} m`}</output>
          </label>
          <Button onClick={() => picture.current?.frame()}>Fit</Button>
        </footer>
      )}
    </>
  );
}
