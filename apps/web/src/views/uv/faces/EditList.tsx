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
export function EditList(p: EditListProps) {
  const [open, setOpen] = useState<string | null>(null);
  const [kind, setKind] = useState<FaceEditKind>('strip');
  return (
    <section className={css.section}>
      <header>
        <h2>Changes, in order</h2>
      </header>
      <div className={css.row}>
        <select aria-label="Kind of change" value={kind} onChange={(e) => setKind(e.target.value as FaceEditKind)}>
          {Object.entries(KINDS).map(([k, { title }]) => (
            <option key={k} value={k}>
              {title}
            </option>
          ))}
        </select>
        <Button disabled={!p.forGroup} onClick={() => p.add(kind)}>
          {p.forGroup ? `Add for ${p.forGroup.name}` : 'Open a group first'}
        </Button>
      </div>
      {p.edits.length === 0 && (
        <p className={css.hint}>Nothing yet. Sources stay as they are; every change can be switched off again.</p>
      )}
      <ol className={css.list}>
        {p.edits.map((e, i) => {
          const title = titleOf(e, p.groups);
          const reports = p.reports.get(e.id) ?? [];
          return (
            <li key={e.id} className={open === e.id ? css.open : ''}>
              <div className={css.line}>
                <input
                  type="checkbox"
                  checked={!e.off}
                  aria-label={`${title}: in force`}
                  onChange={(v) =>
                    p.change(v.target.checked ? `On: ${title}` : `Off: ${title}`, { ...e, off: !v.target.checked })
                  }
                />
                <button
                  type="button"
                  className={css.name}
                  aria-expanded={open === e.id}
                  onClick={() => setOpen(open === e.id ? null : e.id)}
                >
                  {i + 1}. {title}
                </button>
              </div>
              {!e.off && reports.length > 0 && (
                <p className={css.said}>
                  {reports.length === 1 ? reports[0].said : `${reports.length} models: ${reports[0].said}, …`}
                </p>
              )}
              {!e.off && reports.length === 0 && !p.busy && (
                <p className={css.fault}>No faces of these groups were found.</p>
              )}
              {!e.off &&
                reports
                  .flatMap((r) => r.faults)
                  .slice(0, 4)
                  .map((f) => (
                    <p key={f} className={css.fault} role="alert">
                      {f}
                    </p>
                  ))}
              {open === e.id && (
                <>
                  <EditForm
                    edit={e}
                    groups={p.groups}
                    slots={p.slots}
                    report={reports[0]}
                    gather={p.gather}
                    change={(next) => p.change(`Changed: ${titleOf(next, p.groups)}`, next)}
                  />
                  <div className={css.row}>
                    <Button tone="quiet" disabled={i === 0} onClick={() => p.move(e.id, -1)}>
                      Earlier
                    </Button>
                    <Button tone="quiet" disabled={i === p.edits.length - 1} onClick={() => p.move(e.id, 1)}>
                      Later
                    </Button>
                    <Button tone="quiet" onClick={() => p.remove(e.id)}>
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
