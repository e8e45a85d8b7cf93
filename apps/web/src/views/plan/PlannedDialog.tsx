import { PlannedSurface } from '@wembrel/core/decisions/planned-surface';
import { useState } from 'react';
import type { MergeDecisions, ProjectView } from '../../contract/project.ts';
import { routesOfLinked } from '../../project/linked-routes.ts';
import { sendPicture } from '../../project/send-picture.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { ErrorLine } from '../../ui/Notice.tsx';
import css from './PlannedDialog.module.css';

const EMPTY: PlannedSurface = PlannedSurface.parse({ id: 'x', name: 'x', area: 1 });

/** A surface that is planned before there is geometry: everything that predictions need of it. */
export function PlannedDialog({
  project,
  id,
  edit,
  onClose,
}: {
  project: ProjectView;
  /** Of a surface that is there; null: a new one. */
  id: string | null;
  edit: ViewProps['edit'];
  onClose: () => void;
}) {
  const { decisions, survey } = project;
  const known = decisions.planned.find((planned) => planned.id === id);
  const [draft, setDraft] = useState<PlannedSurface>(() => known ?? { ...EMPTY, name: '' });
  const [problem, setProblem] = useState<string | null>(null);
  const [sending, setSending] = useState(false);
  const set = (part: Partial<PlannedSurface>) => setDraft((planned) => ({ ...planned, ...part }));
  const slots = [...new Set(survey?.slots.map((slot) => slot.name) ?? [])].sort();
  const send = async (file: File) => {
    setSending(true);
    try {
      set({ picture: await sendPicture(file) });
      setProblem(null);
    } catch (error) {
      setProblem(`${file.name}: ${(error as Error).message}`);
    } finally {
      setSending(false);
    }
  };
  const store = () => {
    if (sending) return;
    let n = 1;
    while (decisions.planned.some((planned) => planned.id === String(n))) n++;
    const parsed = PlannedSurface.safeParse({ ...draft, id: known?.id ?? String(n) });
    if (!parsed.success) {
      const { path, message } = parsed.error.issues[0];
      setProblem(`${path.join('.')}: ${message}`);
      return;
    }
    const own = parsed.data;
    edit(known ? `Change the planned surface ${own.name}` : `Plan the surface ${own.name}`, (decisions) => ({
      ...decisions,
      planned: known
        ? decisions.planned.map((planned) => (planned.id === own.id ? own : planned))
        : [...decisions.planned, own],
      routes: routesOfLinked(decisions, own),
    }));
    onClose();
  };
  const number = (key: 'area' | 'width' | 'height' | 'drawCalls', title: string, unit: string, min: number) => (
    <label>
      {title}
      <span className={css.number}>
        <input
          type="number"
          min={min}
          step="any"
          value={draft[key]}
          onChange={(event) =>
            set({ [key]: key === 'area' ? Number(event.target.value) : Math.round(Number(event.target.value)) })
          }
        />
        {unit}
      </span>
    </label>
  );
  return (
    <Dialog
      open
      title={known ? `Planned surface: ${known.name}` : 'Plan a surface'}
      about="It takes its room in every prediction until a slot takes its place."
      onClose={onClose}
    >
      <form
        className={css.form}
        onSubmit={(event) => {
          event.preventDefault();
          store();
        }}
      >
        <label className={css.wide}>
          Name
          <input value={draft.name} maxLength={80} onChange={(event) => set({ name: event.target.value })} />
        </label>
        {number('area', 'Surface', 'm²', 0)}
        {number('drawCalls', 'Draw calls, if not merged', '', 0)}
        {number('width', 'Texture width', 'px', 1)}
        {number('height', 'Texture height', 'px', 1)}
        <label>
          Repeats
          <select
            value={draft.repeats}
            onChange={(event) => set({ repeats: event.target.value as PlannedSurface['repeats'] })}
          >
            <option value="none">not at all</option>
            <option value="one">one way</option>
            <option value="both">both ways</option>
          </select>
        </label>
        {draft.repeats !== 'none' && (
          <label>
            One repeat covers
            <span className={css.number}>
              <input
                type="number"
                min={0}
                step="any"
                placeholder="not known"
                value={draft.repeatLength ?? ''}
                onChange={(event) => set({ repeatLength: Number(event.target.value) || null })}
              />
              m
            </span>
          </label>
        )}
        <label>
          Transparency
          <select
            value={draft.alpha}
            onChange={(event) => set({ alpha: event.target.value as PlannedSurface['alpha'] })}
          >
            <option value="OPAQUE">none</option>
            <option value="MASK">alpha-tested</option>
            <option value="BLEND">alpha-blended</option>
          </select>
        </label>
        <fieldset className={css.wide}>
          <legend>Maps beside base colour and AO, roughness, metallic</legend>
          <label>
            <input
              type="checkbox"
              checked={draft.maps.normal}
              onChange={(event) => set({ maps: { ...draft.maps, normal: event.target.checked } })}
            />{' '}
            normal
          </label>
          <label>
            <input
              type="checkbox"
              checked={draft.maps.emissive}
              onChange={(event) => set({ maps: { ...draft.maps, emissive: event.target.checked } })}
            />{' '}
            emissive
          </label>
        </fieldset>
        <label>
          Colour
          <input type="color" value={draft.colour} onChange={(event) => set({ colour: event.target.value })} />
        </label>
        <label>
          Picture
          <span className={css.picture}>
            {draft.picture && <img alt="" src={`/api/projects/${project.id}/pictures/${draft.picture}`} />}
            <input
              type="file"
              accept="image/*"
              aria-label="Picture"
              disabled={sending}
              onChange={(event) => event.target.files?.[0] && void send(event.target.files[0])}
            />
          </span>
        </label>
        <label className={css.wide}>
          Note
          <textarea
            rows={2}
            maxLength={400}
            value={draft.note}
            onChange={(event) => set({ note: event.target.value })}
          />
        </label>
        <label className={css.wide}>
          Linked slot
          <select value={draft.linked ?? ''} onChange={(event) => set({ linked: event.target.value || null })}>
            <option value="">none yet</option>
            {slots.map((slot) => (
              <option key={slot} value={slot}>
                {slot}
              </option>
            ))}
          </select>
        </label>
        {problem && (
          <div className={css.wide}>
            <ErrorLine>{problem}</ErrorLine>
          </div>
        )}
        <footer className={css.foot}>
          {known && (
            <Button
              tone="quiet"
              onClick={() => {
                edit(`Drop the planned surface ${known.name}`, (decisions: MergeDecisions) => ({
                  ...decisions,
                  planned: decisions.planned.filter((planned) => planned.id !== known.id),
                }));
                onClose();
              }}
            >
              Delete
            </Button>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="main" type="submit" disabled={sending}>
            {sending ? 'The picture is on its way …' : known ? 'Apply' : 'Add'}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
