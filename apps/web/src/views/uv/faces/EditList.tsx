import type { FaceEdit, FaceEditKind, FaceGroup } from '@wembrel/core/decisions/face-decisions';
import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import { useState } from 'react';
import { Button } from '../../../ui/Button.tsx';
import { EditForm, type EditFormProps } from './EditForm.tsx';
import { KINDS, titleOf } from './edit-kinds.ts';
import css from './Faces.module.css';

export interface EditListProps {
  edits: readonly FaceEdit[];
  groups: readonly FaceGroup[];
  slots: readonly string[];
  /** What each edit did, by its id; of all models. */
  reports: ReadonlyMap<string, FaceEditReport[]>;
  /** Group that a new change is for, or null. */
  forGroup: FaceGroup | null;
  /** The models are being read with the last change. */
  busy: boolean;
  gather: EditFormProps['gather'];
  add: (kind: FaceEditKind) => void;
  change: (label: string, next: FaceEdit) => void;
  move: (id: string, by: -1 | 1) => void;
  remove: (id: string) => void;
}

/** What is done to groups, in order; each can be opened, changed, switched off and moved. */
export function EditList(editListProps: EditListProps) {
  const [open, setOpen] = useState<string | null>(null);
  const [kind, setKind] = useState<FaceEditKind>('strip');
  return (
    <section className={css.section}>
      <header>
        <h2>Changes, in order</h2>
      </header>
      <div className={css.row}>
        <select
          aria-label="Kind of change"
          value={kind}
          onChange={(event) => setKind(event.target.value as FaceEditKind)}
        >
          {Object.entries(KINDS).map(([k, { title }]) => (
            <option key={k} value={k}>
              {title}
            </option>
          ))}
        </select>
        <Button disabled={!editListProps.forGroup} onClick={() => editListProps.add(kind)}>
          {editListProps.forGroup ? `Add for ${editListProps.forGroup.name}` : 'Add'}
        </Button>
      </div>
      {editListProps.edits.length === 0 && (
        <p className={css.hint}>Nothing yet. Sources stay as they are; every change can be switched off again.</p>
      )}
      <ol className={css.list}>
        {editListProps.edits.map((edit, i) => {
          const title = titleOf(edit, editListProps.groups);
          const reports = editListProps.reports.get(edit.id) ?? [];
          return (
            <li key={edit.id} className={open === edit.id ? css.open : ''}>
              <div className={css.line}>
                <input
                  type="checkbox"
                  checked={!edit.off}
                  aria-label={`${title}: in force`}
                  onChange={(v) =>
                    editListProps.change(v.target.checked ? `On: ${title}` : `Off: ${title}`, {
                      ...edit,
                      off: !v.target.checked,
                    })
                  }
                />
                <button
                  type="button"
                  className={css.name}
                  aria-expanded={open === edit.id}
                  onClick={() => setOpen(open === edit.id ? null : edit.id)}
                >
                  {i + 1}. {title}
                </button>
              </div>
              {!edit.off && reports.length > 0 && (
                <p className={css.said}>
                  {reports.length === 1 ? reports[0].said : `${reports.length} models: ${reports[0].said}, …`}
                </p>
              )}
              {!edit.off && reports.length === 0 && !editListProps.busy && (
                <Nothing empty={isEmpty(edit, editListProps.groups)} />
              )}
              {!edit.off &&
                reports
                  .flatMap((report) => report.faults)
                  .slice(0, 4)
                  .map((file) => (
                    <p key={file} className={css.fault} role="alert">
                      {file}
                    </p>
                  ))}
              {open === edit.id && (
                <>
                  <EditForm
                    edit={edit}
                    groups={editListProps.groups}
                    slots={editListProps.slots}
                    report={reports[0]}
                    gather={editListProps.gather}
                    change={(next) => editListProps.change(`Changed: ${titleOf(next, editListProps.groups)}`, next)}
                  />
                  <div className={css.row}>
                    <Button tone="quiet" disabled={i === 0} onClick={() => editListProps.move(edit.id, -1)}>
                      Earlier
                    </Button>
                    <Button
                      tone="quiet"
                      disabled={i === editListProps.edits.length - 1}
                      onClick={() => editListProps.move(edit.id, 1)}
                    >
                      Later
                    </Button>
                    <Button tone="quiet" onClick={() => editListProps.remove(edit.id)}>
                      Remove
                    </Button>
                  </div>
                </>
              )}
            </li>
          );
        })}
      </ol>
    </section>
  );
}

/** Why a change did nothing: nobody put faces into its groups yet, or those that were are gone. */
const Nothing = ({ empty }: { empty: boolean }) =>
  empty ? <p className={css.said}>no faces yet</p> : <p className={css.fault}>No faces of these groups were found.</p>;

/** Whether the groups of a change name no faces at all. */
const isEmpty = (edit: FaceEdit, groups: readonly FaceGroup[]): boolean =>
  groups
    .filter((group) => edit.groups.includes(group.id))
    .every(({ faces, parts, slots }) => Object.keys(faces).length + parts.length + slots.length === 0);
