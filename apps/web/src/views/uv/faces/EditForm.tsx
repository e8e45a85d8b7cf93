import type { FaceEdit, FaceEditOf, FaceGroup } from '@wembrel/core/faces/face-decisions';
import { useId, useState } from 'react';
import { Button } from '../../../ui/Button.tsx';
import { Check, Choice, Field, NumberField } from '../../../ui/Field.tsx';
import { KINDS } from './edit-kinds.ts';
import css from './Faces.module.css';

export interface EditFormProps {
  edit: FaceEdit;
  groups: readonly FaceGroup[];
  /** Names of slots that can be meant, required ones among them. */
  slots: readonly string[];
  /** Takes what was changed; one undo each. */
  change: (next: FaceEdit) => void;
  /** Gathers what the faces show into so many colours. */
  gather: (edit: FaceEditOf<'swatches'>, most: number) => Promise<void>;
}

/** All that can be said of one change of faces. */
export function EditForm({ edit, groups, slots, change, gather }: EditFormProps) {
  const set = (part: object) => change({ ...edit, ...part } as FaceEdit);
  return (
    <div className={css.form}>
      <p className={css.about}>{KINDS[edit.kind].about}</p>
      <fieldset className={css.chips}>
        <legend>Of the groups</legend>
        {groups.map((g) => (
          <label key={g.id}>
            <input
              type="checkbox"
              checked={edit.groups.includes(g.id)}
              disabled={edit.groups.length === 1 && edit.groups[0] === g.id}
              onChange={(e) =>
                set({ groups: e.target.checked ? [...edit.groups, g.id] : edit.groups.filter((id) => id !== g.id) })
              }
            />{' '}
            {g.name}
          </label>
        ))}
      </fieldset>
      {edit.kind === 'swatches' ? (
        <SwatchFields edit={edit} set={set} gather={gather} />
      ) : (
        <Fields edit={edit} slots={slots} set={set} />
      )}
    </div>
  );
}

interface FieldsProps {
  edit: FaceEdit;
  slots: readonly string[];
  set: (part: object) => void;
}

const AXES = [
  { value: 'x' as const, label: 'X' },
  { value: 'y' as const, label: 'Y (up)' },
  { value: 'z' as const, label: 'Z' },
];

const SETS = [0, 1, 2, 3].map((n) => ({
  value: String(n),
  label: n === 0 ? 'first' : n === 1 ? 'second (baked light)' : n === 2 ? 'third' : 'fourth',
}));

function Fields({ edit: e, slots, set }: FieldsProps) {
  switch (e.kind) {
    case 'slot':
      return <SlotField label="Slot" value={e.slot} slots={slots} onCommit={(slot) => set({ slot })} />;
    case 'swatch':
      return (
        <>
          <SlotField label="Slot" value={e.slot} slots={slots} onCommit={(slot) => set({ slot })} />
          <ColourField label="Colour" value={e.colour} onCommit={(colour) => set({ colour })} />
          <NumberField
            label="Roughness"
            unit=""
            value={e.roughness}
            min={0}
            max={1}
            step={0.05}
            onCommit={(roughness) => set({ roughness })}
          />
          <NumberField
            label="Metallic"
            unit=""
            value={e.metallic}
            min={0}
            max={1}
            step={0.05}
            onCommit={(metallic) => set({ metallic })}
          />
          <ColourField label="Glow" value={e.emissive} onCommit={(emissive) => set({ emissive })} />
        </>
      );
    case 'unwrap':
      return (
        <>
          <OtherSlot edit={e} slots={slots} set={set} />
          <Choice
            label="Laid flat"
            value={e.method}
            options={[
              { value: 'charts', label: 'few charts, little stretch' },
              { value: 'strips', label: 'rows of quads as rectangles' },
              { value: 'box', label: 'from six sides' },
              { value: 'planar', label: 'along an axis' },
              { value: 'cylindrical', label: 'around an axis' },
            ]}
            onChange={(method) => set({ method })}
          />
          {(e.method === 'planar' || e.method === 'cylindrical') && (
            <Choice label="Axis" value={e.axis} options={AXES} onChange={(axis) => set({ axis })} />
          )}
          {(e.method === 'charts' || e.method === 'strips') && (
            <>
              <NumberField
                label="Stretch up to"
                unit=""
                value={e.stretch}
                min={1.0001}
                max={10}
                step={0.01}
                onCommit={(stretch) => set({ stretch })}
              />
              <NumberField
                label="Cut at bends over"
                unit="°"
                value={e.cutAngle}
                min={1}
                max={180}
                note={e.cutAngle === 180 ? '180: nowhere. Borders of groups are always cuts.' : undefined}
                onCommit={(cutAngle) => set({ cutAngle })}
              />
            </>
          )}
          <NumberField
            label="Margin"
            unit="px"
            value={e.margin}
            min={0}
            max={256}
            onCommit={(margin) => set({ margin })}
          />
          <NumberField label="On" unit="px" value={e.size} min={16} max={8192} onCommit={(size) => set({ size })} />
          <Choice label="UV set" value={String(e.set)} options={SETS} onChange={(v) => set({ set: Number(v) })} />
          <Check label="all slots in one 0–1" checked={e.together} onChange={(together) => set({ together })} />
        </>
      );
    case 'project':
      return (
        <>
          <OtherSlot edit={e} slots={slots} set={set} />
          <Choice
            label="Seen"
            value={e.method}
            options={[
              { value: 'box', label: 'from six sides' },
              { value: 'planar', label: 'along an axis' },
              { value: 'cylindrical', label: 'around an axis' },
            ]}
            onChange={(method) => set({ method })}
          />
          {e.method !== 'box' && (
            <Choice label="Axis" value={e.axis} options={AXES} onChange={(axis) => set({ axis })} />
          )}
          <NumberField
            label="One repeat covers"
            unit="m"
            value={e.repeat}
            min={0.0001}
            max={100000}
            step={0.1}
            onCommit={(repeat) => set({ repeat })}
          />
          <Choice label="UV set" value={String(e.set)} options={SETS} onChange={(v) => set({ set: Number(v) })} />
        </>
      );
    case 'strip':
      return (
        <>
          <OtherSlot edit={e} slots={slots} set={set} />
          <NumberField
            label="Strip from"
            unit="V"
            value={e.top}
            min={0}
            max={Math.max(0, e.bottom - 0.001)}
            step={0.05}
            onCommit={(top) => set({ top })}
          />
          <NumberField
            label="to"
            unit="V"
            value={e.bottom}
            min={Math.min(1, e.top + 0.001)}
            max={1}
            step={0.05}
            note="0 is the upper edge of the texture, 1 the lower one."
            onCommit={(bottom) => set({ bottom })}
          />
          <Choice
            label="Length"
            value={e.fit}
            options={[
              { value: 'proportion', label: 'in proportion' },
              { value: 'metres', label: 'metres a repeat' },
              { value: 'repeats', label: 'repeats in all' },
            ]}
            onChange={(fit) => set({ fit })}
          />
          {e.fit !== 'proportion' && (
            <NumberField
              label={e.fit === 'metres' ? 'One repeat covers' : 'Repeats'}
              unit={e.fit === 'metres' ? 'm' : '×'}
              value={e.amount}
              min={0.0001}
              max={100000}
              step={0.5}
              onCommit={(amount) => set({ amount })}
            />
          )}
          <NumberField
            label="Begins at"
            unit="U"
            value={e.offset}
            min={-1000}
            max={1000}
            step={0.05}
            onCommit={(offset) => set({ offset })}
          />
          <Choice
            label="Along"
            value={e.along}
            options={[
              { value: 'long', label: 'the long side' },
              { value: 'short', label: 'the short side' },
            ]}
            onChange={(along) => set({ along })}
          />
          <NumberField
            label="Pieces end at bends over"
            unit="°"
            value={e.bend}
            min={1}
            max={180}
            onCommit={(bend) => set({ bend })}
          />
          <Check
            label="rows of quads exactly straight"
            checked={e.straight}
            onChange={(straight) => set({ straight })}
          />
          <Check
            label="both ends alike (second half mirrored)"
            checked={e.ends === 'mirrored'}
            onChange={(on) => set({ ends: on ? 'mirrored' : 'run' })}
          />
          <Check label="upside down" checked={e.flip} onChange={(flip) => set({ flip })} />
        </>
      );
    case 'cells':
      return (
        <>
          {e.mix.map((m, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the place in the mix is what it is
            <div key={i} className={css.mix}>
              <SlotField
                label={`Texture ${i + 1}`}
                value={m.slot}
                slots={slots}
                onCommit={(slot) => set({ mix: e.mix.with(i, { ...m, slot }) })}
              />
              <NumberField
                label="Share"
                unit="×"
                value={m.share}
                min={0}
                max={1000}
                onCommit={(share) => set({ mix: e.mix.with(i, { ...m, share }) })}
              />
              {e.mix.length > 1 && (
                <Button tone="quiet" onClick={() => set({ mix: e.mix.filter((_, k) => k !== i) })}>
                  Take out
                </Button>
              )}
            </div>
          ))}
          <Button
            tone="quiet"
            onClick={() =>
              set({
                mix: [...e.mix, { slot: slots.find((s) => !e.mix.some((m) => m.slot === s)) ?? 'Variant', share: 1 }],
              })
            }
          >
            Mix in another texture
          </Button>
          <Choice
            label="Turned at random"
            value={e.turns}
            options={[
              { value: 'none', label: 'never' },
              { value: 'half', label: 'by halves' },
              { value: 'quarter', label: 'by quarters' },
            ]}
            onChange={(turns) => set({ turns })}
          />
          <Check label="some mirrored" checked={e.mirror} onChange={(mirror) => set({ mirror })} />
          <Choice
            label="Fit"
            value={e.fit}
            options={[
              { value: 'whole', label: 'to its corners' },
              { value: 'proportion', label: 'in proportion' },
            ]}
            onChange={(fit) => set({ fit })}
          />
          <NumberField
            label="Dealt out by number"
            unit=""
            value={e.seed}
            min={0}
            max={0x7fffffff}
            onCommit={(seed) => set({ seed: Math.round(seed) })}
          />
        </>
      );
    case 'move':
      return (
        <>
          <NumberField
            label="Right by"
            unit="U"
            value={e.u}
            min={-10000}
            max={10000}
            step={0.05}
            onCommit={(u) => set({ u })}
          />
          <NumberField
            label="Down by"
            unit="V"
            value={e.v}
            min={-10000}
            max={10000}
            step={0.05}
            onCommit={(v) => set({ v })}
          />
          <NumberField label="Turned" unit="°" value={e.turn} min={-360} max={360} onCommit={(turn) => set({ turn })} />
          <NumberField
            label="Wider by"
            unit="×"
            value={e.scaleU}
            min={-1000}
            max={1000}
            step={0.1}
            note="−1 mirrors."
            onCommit={(scaleU) => set({ scaleU })}
          />
          <NumberField
            label="Higher by"
            unit="×"
            value={e.scaleV}
            min={-1000}
            max={1000}
            step={0.1}
            onCommit={(scaleV) => set({ scaleV })}
          />
          <Choice
            label="About"
            value={e.about}
            options={[
              { value: 'island', label: 'each island’s middle' },
              { value: 'all', label: 'the middle of all' },
              { value: 'origin', label: 'the upper left of 0–1' },
            ]}
            onChange={(about) => set({ about })}
          />
          <Choice label="UV set" value={String(e.set)} options={SETS} onChange={(v) => set({ set: Number(v) })} />
        </>
      );
    case 'relax':
      return (
        <>
          <NumberField
            label="Rounds"
            unit="×"
            value={e.rounds}
            min={1}
            max={200}
            onCommit={(rounds) => set({ rounds: Math.round(rounds) })}
          />
          <Choice label="UV set" value={String(e.set)} options={SETS} onChange={(v) => set({ set: Number(v) })} />
        </>
      );
    case 'join':
      return (
        <>
          <NumberField
            label="Over bends up to"
            unit="°"
            value={e.bend}
            min={0}
            max={180}
            onCommit={(bend) => set({ bend })}
          />
          <Choice label="UV set" value={String(e.set)} options={SETS} onChange={(v) => set({ set: Number(v) })} />
        </>
      );
    case 'normals':
      return (
        <>
          <NumberField
            label="Hard above bends of"
            unit="°"
            value={e.angle}
            min={0}
            max={180}
            onCommit={(angle) => set({ angle })}
          />
          <Choice
            label="Borders of islands"
            value={e.borders === null ? 'smooth' : String(e.borders)}
            options={[
              { value: 'smooth', label: 'as they bend' },
              ...SETS.map((s) => ({ ...s, label: `hard, of UV set ${s.value}` })),
            ]}
            onChange={(v) => set({ borders: v === 'smooth' ? null : Number(v) })}
          />
        </>
      );
    case 'tiles':
    case 'swatches':
      return null;
  }
}

/** A palette: colours gathered from what faces show, each changed for all of them at once. */
function SwatchFields({
  edit: e,
  set,
  gather,
}: {
  edit: FaceEditOf<'swatches'>;
  set: (part: object) => void;
  gather: EditFormProps['gather'];
}) {
  const [most, setMost] = useState(16);
  const [busy, setBusy] = useState(false);
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
      <Button
        disabled={busy}
        onClick={() => {
          setBusy(true);
          void gather(e, most).finally(() => setBusy(false));
        }}
      >
        {busy ? 'Gathering …' : 'Gather from the faces'}
      </Button>
      <ul className={css.swatches}>
        {e.swatches.map((s, i) => (
          <li key={s.slot}>
            <span
              className={css.chip}
              style={{ background: s.from }}
              title={`for faces that show ${s.from}`}
              aria-hidden
            />
            <span>{s.slot}</span>
            <input
              key={s.colour}
              type="color"
              className={css.colour}
              aria-label={`Colour of ${s.slot}, for faces that show ${s.from}`}
              defaultValue={s.colour}
              onBlur={(v) =>
                v.target.value !== s.colour && set({ swatches: e.swatches.with(i, { ...s, colour: v.target.value }) })
              }
            />
          </li>
        ))}
      </ul>
    </>
  );
}

/** Another slot, where the change does not need one. */
function OtherSlot({
  edit,
  slots,
  set,
}: {
  edit: { slot: string | null };
  slots: readonly string[];
  set: (p: object) => void;
}) {
  return (
    <SlotField
      label="Slot"
      value={edit.slot ?? ''}
      slots={slots}
      placeholder="stays as it is"
      onCommit={(slot) => set({ slot: slot === '' ? null : slot })}
      mayBeEmpty
    />
  );
}

interface SlotFieldProps {
  label: string;
  value: string;
  slots: readonly string[];
  placeholder?: string;
  mayBeEmpty?: boolean;
  onCommit: (slot: string) => void;
}

/** The name of a slot, one that is there or a new one. */
function SlotField({ label, value, slots, placeholder, mayBeEmpty = false, onCommit }: SlotFieldProps) {
  const list = useId();
  return (
    <Field label={label}>
      {(id) => (
        <>
          <input
            // What was undone shows again.
            key={value}
            id={id}
            className={css.text}
            defaultValue={value}
            list={list}
            placeholder={placeholder}
            maxLength={120}
            onBlur={(e) => {
              const name = e.target.value.trim();
              if (name === value || (name === '' && !mayBeEmpty)) {
                e.target.value = value;
                return;
              }
              onCommit(name);
            }}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          />
          <datalist id={list}>
            {slots.map((s) => (
              <option key={s} value={s} />
            ))}
          </datalist>
        </>
      )}
    </Field>
  );
}

function ColourField({ label, value, onCommit }: { label: string; value: string; onCommit: (v: string) => void }) {
  return (
    <Field label={label}>
      {(id) => (
        <input
          key={value}
          id={id}
          type="color"
          className={css.colour}
          defaultValue={value}
          onBlur={(e) => e.target.value !== value && onCommit(e.target.value)}
        />
      )}
    </Field>
  );
}
