import type { BrushStamp, PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import { Button } from '../../../ui/Button.tsx';
import { NumberField } from '../../../ui/Field.tsx';
import { percent } from '../../../ui/format.ts';
import css from './BrushPanel.module.css';
import type { Brush } from './brush.ts';
import { length } from './lengths.ts';

export interface BrushPanelProps {
  pairing: PairingDecision | undefined;
  brush: Brush;
  onBrush: (brush: Brush) => void;
  /** Place of the brush stamp that is being changed. */
  chosen: number | null;
  onChoose: (i: number | null) => void;
  /** Puts a brush stamp at the picked texel; null while none is picked. */
  here: (() => void) | null;
  change: (label: string, dabs: BrushStamp[]) => void;
}

/** Reaches and directions that are changed around single points of a pairing. */
export function BrushPanel({ pairing, brush, onBrush, chosen, onChoose, here, change }: BrushPanelProps) {
  if (!pairing) return <p className={css.hint}>Open a pairing first.</p>;
  const { dabs, name } = pairing;
  const dab = chosen === null ? undefined : dabs[chosen];
  const now: Brush = dab ?? brush;
  const set = (label: string, part: Partial<Brush>) => {
    onBrush({ ...brush, ...part });
    const { radius, ...rest } = { ...now, ...part };
    if (dab)
      change(
        label,
        dabs.map((d) => (d === dab ? { ...rest, at: d.at, radius: radius ?? d.radius } : d)),
      );
  };
  return (
    <div className={css.panel}>
      <p className={css.hint}>
        Click on the low-poly in the 3D picture, or pick a texel and brush there: rays around that point get other
        reaches or another direction.
      </p>
      <NumberField
        label="Radius"
        unit="mm"
        value={now.radius === null ? 0 : Number((now.radius * 1000).toPrecision(4))}
        min={0}
        max={1e9}
        note={now.radius === null ? '0: six hundredths of the largest side' : undefined}
        onCommit={(mm) => (mm > 0 || !dab) && set('Radius of the brush', { radius: mm > 0 ? mm / 1000 : null })}
      />
      <NumberField
        label="Outward reach"
        unit="%"
        value={Math.round(now.outward * 100)}
        min={0}
        max={10_000}
        step={10}
        onCommit={(v) => set('Brushed outward reach', { outward: v / 100 })}
      />
      <NumberField
        label="Inward reach"
        unit="%"
        value={Math.round(now.inward * 100)}
        min={0}
        max={10_000}
        step={10}
        onCommit={(v) => set('Brushed inward reach', { inward: v / 100 })}
      />
      <NumberField
        label="Along the face's normal"
        unit="%"
        value={Math.round(now.straight * 100)}
        min={0}
        max={100}
        step={10}
        onCommit={(v) => set('Brushed direction', { straight: v / 100 })}
      />
      <Button onClick={here ?? undefined} disabled={!here} title="At the texel that the section goes through">
        Brush at the picked texel
      </Button>
      {dabs.length > 0 && (
        <>
          <h3>
            {dabs.length} on {name}
          </h3>
          <ul>
            {dabs.map((dab, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: brush stamps have no other name than their place
              <li key={i} className={i === chosen ? css.open : ''}>
                <button type="button" aria-pressed={i === chosen} onClick={() => onChoose(i === chosen ? null : i)}>
                  {i + 1} · {length(dab.radius)}
                  <em>
                    {[
                      dab.outward !== 1 && `out ${percent(dab.outward, 0)}`,
                      dab.inward !== 1 && `in ${percent(dab.inward, 0)}`,
                      dab.straight > 0 && `straight ${percent(dab.straight, 0)}`,
                    ]
                      .filter(Boolean)
                      .join(', ') || 'no change'}
                  </em>
                </button>
                <button
                  type="button"
                  aria-label={`Take dab ${i + 1} off`}
                  onClick={() => {
                    onChoose(null);
                    change(
                      'Take a dab off',
                      dabs.filter((_, k) => k !== i),
                    );
                  }}
                >
                  ×
                </button>
              </li>
            ))}
          </ul>
          <Button
            tone="quiet"
            onClick={() => {
              onChoose(null);
              change(`Take the brush off ${name}`, []);
            }}
          >
            Take all off
          </Button>
        </>
      )}
    </div>
  );
}
