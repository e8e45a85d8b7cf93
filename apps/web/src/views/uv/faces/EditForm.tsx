import type { FaceEdit, FaceEditOf, FaceGroup } from '@wembrel/core/decisions/face-decisions';
import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import type { SwatchOrder } from '@wembrel/core/palette/palette';
import { Button } from '../../../ui/Button.tsx';
import { Check, Choice, NumberField } from '../../../ui/Field.tsx';
import { type EditField, fieldsOf, resolved } from './edit-fields.ts';
import { KINDS } from './edit-kinds.ts';
import css from './Faces.module.css';
import { SwatchList } from './SwatchList.tsx';
import { ColourField, SlotField } from './slot-fields.tsx';

export interface EditFormProps {
  edit: FaceEdit;
  groups: readonly FaceGroup[];
  /** Names of slots that can be meant, required and planned ones among them. */
  slots: readonly string[];
  /** What it did, as it is now. */
  report: FaceEditReport | undefined;
  /** Takes what was changed; one undo each. */
  change: (next: FaceEdit) => void;
  /** Gathers what the faces show into so many colours. */
  gather: (edit: FaceEditOf<'swatches'>, most: number, by: SwatchOrder) => Promise<void>;
}

/** All that can be said of one change of faces. */
export function EditForm({ edit, groups, slots, report, change, gather }: EditFormProps) {
  const set = (part: object) => change({ ...edit, ...part } as FaceEdit);
  return (
    <div className={css.form}>
      <p className={css.about}>{KINDS[edit.kind].about}</p>
      <fieldset className={css.chips}>
        <legend>Of the groups</legend>
        {groups.map((group) => (
          <label key={group.id}>
            <input
              type="checkbox"
              checked={edit.groups.includes(group.id)}
              disabled={edit.groups.length === 1 && edit.groups[0] === group.id}
              onChange={(event) =>
                set({
                  groups: event.target.checked
                    ? [...edit.groups, group.id]
                    : edit.groups.filter((id) => id !== group.id),
                })
              }
            />{' '}
            {group.name}
          </label>
        ))}
      </fieldset>
      {edit.kind === 'swatches' && <SwatchList edit={edit} set={set} gather={gather} />}
      {edit.kind === 'cells' && <Mix edit={edit} slots={slots} groups={groups} set={set} />}
      {fieldsOf(edit).map((field, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the fields of a kind are always in this order
        <OneField key={`${edit.kind} ${i}`} field={field} edit={edit} slots={slots} set={set} />
      ))}
      {edit.kind === 'strip' && <StripHeight edit={edit} report={report} set={set} />}
    </div>
  );
}

function OneField({
  field,
  edit,
  slots,
  set,
}: {
  field: EditField<FaceEdit>;
  edit: FaceEdit;
  slots: readonly string[];
  set: (part: object) => void;
}) {
  const label = resolved(field.label, edit);
  const value = (key: string) => (edit as Record<string, unknown>)[key];
  switch (field.as) {
    case 'number':
      return (
        <NumberField
          label={label}
          unit={resolved(field.unit, edit)}
          value={value(field.key) as number}
          min={resolved(field.min, edit)}
          max={resolved(field.max, edit)}
          step={field.step}
          note={resolved(field.note, edit)}
          onCommit={(v) => set({ [field.key]: field.whole ? Math.round(v) : v })}
        />
      );
    case 'choice':
      return (
        <Choice label={label} value={field.get(edit)} options={field.options} onChange={(v) => set(field.set(v))} />
      );
    case 'check':
      return <Check label={label} checked={field.get(edit)} onChange={(on) => set(field.set(on))} />;
    case 'colour':
      return <ColourField label={label} value={value(field.key) as string} onCommit={(v) => set({ [field.key]: v })} />;
    case 'slot':
      return (
        <SlotField
          label={label}
          value={(value('slot') as string | null) ?? ''}
          slots={slots}
          placeholder={field.mayStay ? 'stays as it is' : undefined}
          mayBeEmpty={field.mayStay}
          onCommit={(slot) => set({ slot: slot === '' ? null : slot })}
        />
      );
  }
}

/** The strip is made as high as its pieces are wide. */
function StripHeight({
  edit,
  report,
  set,
}: {
  edit: FaceEditOf<'strip'>;
  report: FaceEditReport | undefined;
  set: (part: object) => void;
}) {
  const bottom = report?.bottom === undefined ? null : Number(Math.min(1, report.bottom).toFixed(4));
  if (edit.fit !== 'metres' || bottom === null) return null;
  return (
    <Button
      tone="quiet"
      disabled={Math.abs(bottom - edit.bottom) < 5e-5 || bottom <= edit.top}
      title="At so many metres a repeat, a strip of this height shows the texture without stretching on half of the pieces or more"
      onClick={() => set({ bottom })}
    >
      As high as the pieces are wide: to {bottom.toFixed(3)}
      {(report?.bottom ?? 0) > 1 ? ' (the texture ends there)' : ''}
    </Button>
  );
}

/** Textures that are dealt out to faces, by their shares. */
function Mix({
  edit: e,
  slots,
  groups,
  set,
}: {
  edit: FaceEditOf<'cells'>;
  slots: readonly string[];
  groups: readonly FaceGroup[];
  set: (part: object) => void;
}) {
  return (
    <>
      {e.mix.map((variant, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the place in the mix is what it is
        <div key={i} className={css.mix}>
          <SlotField
            label={`Texture ${i + 1}`}
            value={variant.slot}
            slots={slots}
            onCommit={(slot) => set({ mix: e.mix.with(i, { ...variant, slot }) })}
          />
          <NumberField
            label="Share"
            unit="×"
            value={variant.share}
            min={0}
            max={1000}
            onCommit={(share) => set({ mix: e.mix.with(i, { ...variant, share }) })}
          />
          {e.mix.length > 1 && (
            <Button tone="quiet" onClick={() => set({ mix: e.mix.filter((_, k) => k !== i) })}>
              Remove
            </Button>
          )}
        </div>
      ))}
      <Button
        tone="quiet"
        onClick={() =>
          set({
            mix: [
              ...e.mix,
              { slot: slots.find((slot) => !e.mix.some((variant) => variant.slot === slot)) ?? 'Variant', share: 1 },
            ],
          })
        }
      >
        Mix in another texture
      </Button>
      <SlotField
        label="Transition"
        value={e.edge?.slot ?? ''}
        slots={slots}
        placeholder="none"
        mayBeEmpty
        onCommit={(slot) => set({ edge: slot === '' ? null : { to: e.edge?.to ?? null, slot } })}
      />
      {e.edge && (
        <Choice
          label="Border with"
          value={e.edge.to ?? ''}
          options={[
            { value: '', label: 'open sides' },
            ...groups
              .filter((group) => !e.groups.includes(group.id))
              .map((group) => ({ value: group.id, label: group.name })),
          ]}
          onChange={(to) => set({ edge: { slot: e.edge?.slot, to: to === '' ? null : to } })}
        />
      )}
    </>
  );
}
