import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import { sheetOf } from '@wembrel/core/rays/pairing/pairings';
import type { ObjectRef } from '@wembrel/core/rays/target/scene-objects';
import { Button } from '../../../ui/Button.tsx';
import { Field, NumberField } from '../../../ui/Field.tsx';
import { count } from '../../../ui/format.ts';
import css from './PairingList.module.css';
import { PairingMembers } from './PairingMembers.tsx';
import type { PairingListProps } from './pairing-list-props.ts';
import { keyOf } from './pairing-objects.ts';
import { ReachCurve } from './ReachCurve.tsx';

export interface PairingInspectorProps {
  pairing: PairingDecision;
  index: number;
  list: PairingListProps;
}

/** What can be decided for one pairing; its reaches are set on the histogram. */
export function PairingInspector({ pairing: q, index, list }: PairingInspectorProps) {
  const baked = list.baked.get(q.name);
  const found = list.reaches?.pairings.find((pairing) => pairing.name === q.name);
  const set = (label: string, part: Partial<PairingDecision>) => list.change(label, index, { ...q, ...part });
  const alone = new Set(list.alone.map(keyOf));
  const one = (label: string, value: ObjectRef | null, none: string, put: (objectRef: ObjectRef | null) => void) => (
    <Field label={label}>
      {(id) => (
        <select
          id={id}
          value={value ? keyOf(value) : ''}
          onChange={(event) => {
            const object = list.objects.find((object) => keyOf(object) === event.target.value);
            put(object ? { path: object.path, name: object.name } : null);
          }}
        >
          <option value="">{none}</option>
          {list.objects
            .filter((object) => alone.has(keyOf(object)) || (value && keyOf(value) === keyOf(object)))
            .map((object) => (
              <option key={keyOf(object)} value={keyOf(object)}>
                {object.name}
              </option>
            ))}
        </select>
      )}
    </Field>
  );
  return (
    <div className={css.pairing}>
      <PairingMembers
        title="high-poly"
        refs={q.high}
        list={list}
        put={(high) => set(`High-polys of ${q.name}`, { high })}
      />
      <PairingMembers title="low-poly" refs={q.low} list={list} put={(low) => set(`Low-polys of ${q.name}`, { low })} />
      {q.low.length > 1 && <Shares pairing={q} set={set} />}
      {!baked && (q.outward !== null || q.inward !== null) && (
        <Button onClick={() => set(`Measured reaches for ${q.name}`, { outward: null, inward: null })}>
          Use measured reaches
        </Button>
      )}
      {found && (
        <ReachCurve found={found} take={(outward, inward) => set(`Reaches found for ${q.name}`, { outward, inward })} />
      )}
      <Field label="Name of map set">
        {(id) => (
          <input
            id={id}
            key={q.sheet ?? ''}
            defaultValue={q.sheet ?? ''}
            placeholder={sheetOf({ ...q, sheet: null })}
            onBlur={(event) => {
              const sheet = event.target.value.trim() || null;
              if (sheet !== q.sheet) set(`Maps of ${q.name}`, { sheet });
            }}
          />
        )}
      </Field>
      {one('Cage', q.cage, 'none: reaches', (cage) => set(`Cage of ${q.name}`, { cage }))}
      {one('Casting surface', q.surface, 'the low-poly', (surface) => set(`Casting surface of ${q.name}`, { surface }))}
      {q.move.some((v) => v !== 0) && (
        <p className={css.hint}>The high-poly is moved by {q.move.map((v) => v.toFixed(3)).join(', ')} m first.</p>
      )}
      {baked && baked.outside > 0 && (
        <p className={css.hint}>{count(baked.outside)} triangles lie outside 0 to 1 of their UVs and are not baked.</p>
      )}
      <Button
        onClick={() => list.prove?.(q.name)}
        disabled={!list.prove || q.high.length === 0 || q.low.length === 0}
        title="Only this pairing, at a quarter of the side"
      >
        Proof of this pairing
      </Button>
      <Button tone="quiet" onClick={() => list.remove(index)}>
        Delete pairing
      </Button>
    </div>
  );
}

/** Each object of the low-poly may have its own share of the outward reach. */
function Shares({
  pairing,
  set,
}: {
  pairing: PairingDecision;
  set: (label: string, part: Partial<PairingDecision>) => void;
}) {
  const own = Object.values(pairing.offsets).filter((v) => v !== 1).length;
  return (
    <details>
      <summary>Outward reach by object{own > 0 && `: ${own} of their own`}</summary>
      {pairing.low.map((object) => (
        <NumberField
          key={keyOf(object)}
          label={object.name}
          unit="%"
          value={Math.round((pairing.offsets[object.name] ?? 1) * 100)}
          min={0}
          max={10_000}
          step={10}
          onCommit={(v) => {
            const { [object.name]: _, ...others } = pairing.offsets;
            set(`Reach of ${object.name}`, { offsets: v === 100 ? others : { ...others, [object.name]: v / 100 } });
          }}
        />
      ))}
    </details>
  );
}
