import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import { Button } from '../../../ui/Button.tsx';
import { NumberField } from '../../../ui/Field.tsx';
import { percent } from '../../../ui/format.ts';
import css from './LocalReaches.module.css';
import { length } from './lengths.ts';
import type { LocalReach, ReachDraft } from './local-reach.ts';

export interface LocalReachesProps {
  pairing: PairingDecision | undefined;
  /** What the next one will be. */
  draft: ReachDraft;
  onDraft: (draft: ReachDraft) => void;
  /** Place of the one that is being changed. */
  chosen: number | null;
  onChoose: (i: number | null) => void;
  /** Sets one at the picked texel; null while none is picked. */
  here: (() => void) | null;
  change: (label: string, reaches: LocalReach[]) => void;
}

/** Reaches and directions that are changed around single points of a pairing. */
export function LocalReaches({ pairing, draft, onDraft, chosen, onChoose, here, change }: LocalReachesProps) {
  if (!pairing) return <p className={css.hint}>Open a pairing first.</p>;
  const { localReaches: reaches, name } = pairing;
  const reach = chosen === null ? undefined : reaches[chosen];
  const set = (label: string, part: Partial<ReachDraft>) => {
    onDraft({ ...draft, ...part });
    const { radius, ...rest } = { ...(reach ?? draft), ...part };
    if (reach)
      change(
        label,
        reaches.map((r) => (r === reach ? { ...rest, at: r.at, radius: radius ?? r.radius } : r)),
      );
  };
  const remove = (i: number) => {
    onChoose(null);
    change(
      `Delete local reach ${i + 1}`,
      reaches.filter((_, k) => k !== i),
    );
  };
  return (
    <div className={css.panel}>
      <p className={css.hint}>
        Around a point, rays get other reaches or another direction. Pick a texel, or click on the low-poly in the 3D
        picture.
      </p>
      <ReachFields now={reach ?? draft} fixed={reach !== undefined} set={set} />
      <Button onClick={here ?? undefined} disabled={!here} title="At the texel that the section goes through">
        Add at the picked texel
      </Button>
      {reaches.length > 0 && (
        <>
          <h3>
            {reaches.length} on {name}
          </h3>
          <ul>
            {reaches.map((r, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: local reaches have no other name than their place
              <li key={i} className={i === chosen ? css.open : ''}>
                <button type="button" aria-pressed={i === chosen} onClick={() => onChoose(i === chosen ? null : i)}>
                  {i + 1} · {length(r.radius)}
                  <em>{reachText(r)}</em>
                </button>
                <button type="button" aria-label={`Delete local reach ${i + 1}`} onClick={() => remove(i)}>
                  ×
                </button>
              </li>
            ))}
          </ul>
          <Button
            tone="quiet"
            onClick={() => {
              onChoose(null);
              change(`Delete local reaches of ${name}`, []);
            }}
          >
            Delete all
          </Button>
        </>
      )}
    </div>
  );
}

/** What a local reach changes, in a few words. */
function reachText({ outward, inward, straight }: Omit<LocalReach, 'at' | 'radius'>): string {
  const said = [
    outward !== 1 && `out ${percent(outward)}`,
    inward !== 1 && `in ${percent(inward)}`,
    straight > 0 && `straight ${percent(straight)}`,
  ];
  return said.filter(Boolean).join(', ') || 'no change';
}

interface ReachFieldsProps {
  now: ReachDraft;
  /** It is set already, so that its radius cannot be left open. */
  fixed: boolean;
  set: (label: string, part: Partial<ReachDraft>) => void;
}

function ReachFields({ now, fixed, set }: ReachFieldsProps) {
  return (
    <>
      <NumberField
        label="Radius"
        unit="mm"
        value={now.radius === null ? 0 : Number((now.radius * 1000).toPrecision(4))}
        min={0}
        max={1e9}
        note={now.radius === null ? '0: 6 % of the largest side' : undefined}
        onCommit={(mm) => (mm > 0 || !fixed) && set('Radius of a local reach', { radius: mm > 0 ? mm / 1000 : null })}
      />
      <NumberField
        label="Outward reach"
        unit="%"
        value={Math.round(now.outward * 100)}
        min={0}
        max={10_000}
        step={10}
        onCommit={(v) => set('Local outward reach', { outward: v / 100 })}
      />
      <NumberField
        label="Inward reach"
        unit="%"
        value={Math.round(now.inward * 100)}
        min={0}
        max={10_000}
        step={10}
        onCommit={(v) => set('Local inward reach', { inward: v / 100 })}
      />
      <NumberField
        label="Along the face's normal"
        unit="%"
        value={Math.round(now.straight * 100)}
        min={0}
        max={100}
        step={10}
        onCommit={(v) => set('Local direction', { straight: v / 100 })}
      />
    </>
  );
}
