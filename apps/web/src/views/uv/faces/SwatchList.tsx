import type { FaceEditOf } from '@wembrel/core/decisions/face-decisions';
import { withRamp } from '@wembrel/core/faces/take-swatches';
import type { SwatchOrder } from '@wembrel/core/palette/palette';
import { useState } from 'react';
import { Button } from '../../../ui/Button.tsx';
import { Choice, NumberField } from '../../../ui/Field.tsx';
import css from './Faces.module.css';
import { ColourField } from './slot-fields.tsx';

/** Steps of a ramp, the colour itself among them. */
const STEPS = 5;

/** A palette: colours gathered from what faces show, each changed for all of them at once. */
export function SwatchList({
  edit: e,
  set,
  gather,
}: {
  edit: FaceEditOf<'swatches'>;
  set: (part: object) => void;
  gather: (edit: FaceEditOf<'swatches'>, most: number, by: SwatchOrder) => Promise<void>;
}) {
  const [most, setMost] = useState(16);
  const [by, setBy] = useState<SwatchOrder>('hue');
  const [busy, setBusy] = useState(false);
  const [open, setOpen] = useState<string | null>(null);
  const change = (i: number, part: object) => set({ swatches: e.swatches.with(i, { ...e.swatches[i], ...part }) });
  return (
    <>
      <NumberField
        label="Colours at most"
        unit=""
        value={most}
        min={1}
        max={256}
        onCommit={(n) => setMost(Math.round(n))}
      />
      <Choice
        label="Sort by"
        value={by}
        options={[
          { value: 'hue', label: 'hue' },
          { value: 'use', label: 'use, much first' },
        ]}
        onChange={setBy}
      />
      <Button
        disabled={busy}
        onClick={() => {
          setBusy(true);
          void gather(e, most, by).finally(() => setBusy(false));
        }}
      >
        {busy ? 'Gathering …' : 'Gather from the faces'}
      </Button>
      <ul className={css.swatches}>
        {e.swatches.map((swatch, i) => (
          <li key={swatch.slot}>
            <span
              className={css.chip}
              style={{ background: swatch.from }}
              title={`for faces that show ${swatch.from}`}
              aria-hidden
            />
            <button
              type="button"
              className={css.swatch}
              aria-expanded={open === swatch.slot}
              onClick={() => setOpen(open === swatch.slot ? null : swatch.slot)}
            >
              {swatch.slot}
            </button>
            <input
              key={swatch.colour}
              type="color"
              className={css.colour}
              aria-label={`Colour of ${swatch.slot}, for faces that show ${swatch.from}`}
              defaultValue={swatch.colour}
              onBlur={(v) => v.target.value !== swatch.colour && change(i, { colour: v.target.value })}
            />
            {open === swatch.slot && (
              <div className={css.more}>
                <NumberField
                  label="Roughness"
                  unit=""
                  value={swatch.roughness}
                  min={0}
                  max={1}
                  step={0.05}
                  onCommit={(roughness) => change(i, { roughness })}
                />
                <NumberField
                  label="Metallic"
                  unit=""
                  value={swatch.metallic}
                  min={0}
                  max={1}
                  step={0.05}
                  onCommit={(metallic) => change(i, { metallic })}
                />
                <ColourField label="Glow" value={swatch.emissive} onCommit={(emissive) => change(i, { emissive })} />
                <Button
                  tone="quiet"
                  disabled={e.swatches.length + STEPS - 1 > 256}
                  title="Two darker and two lighter steps; faces take the one that they show, and new colours shade alike"
                  onClick={() => set({ swatches: withRamp(e.swatches, i, STEPS) })}
                >
                  Steps from dark to light
                </Button>
                {e.swatches.length > 1 && (
                  <Button tone="quiet" onClick={() => set({ swatches: e.swatches.filter((_, k) => k !== i) })}>
                    Take out
                  </Button>
                )}
              </div>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}
