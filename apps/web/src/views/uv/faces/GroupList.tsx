import type { FaceGroup } from '@wembrel/core/decisions/face-decisions';
import { Button } from '../../../ui/Button.tsx';
import { count } from '../../../ui/format.ts';
import { groupColour } from './edit-kinds.ts';
import css from './Faces.module.css';

export interface GroupListProps {
  groups: readonly FaceGroup[];
  /** Faces of each group in the model in sight, and how many are in none. */
  counts: readonly number[];
  inNone: number;
  chosen: string | null;
  selected: number;
  /** Names of slots and parts of the project's sources, which groups may take whole. */
  wholes: { slots: readonly string[]; parts: readonly string[] };
  choose: (id: string | null) => void;
  /** Selects the faces of a group; null: those in none. */
  select: (id: string | null, add: boolean) => void;
  make: () => void;
  put: (id: string, how: 'in' | 'out') => void;
  change: (label: string, next: FaceGroup) => void;
  remove: (id: string) => void;
}

/** Face groups with their colours; the one that is open can be named, described, and given faces. */
export function GroupList(p: GroupListProps) {
  return (
    <section className={css.section}>
      <header>
        <h2>Face groups</h2>
        <Button onClick={p.make} disabled={p.selected === 0} title="Makes a group of the selected faces">
          New from {count(p.selected)} faces
        </Button>
      </header>
      {p.groups.length === 0 && (
        <p className={css.hint}>
          Faces that are treated alike. Select some in 3D, make a group of them, then say below what is done to it.
        </p>
      )}
      <ul className={css.list}>
        {p.groups.map((g, i) => (
          <li key={g.id} className={p.chosen === g.id ? css.open : ''}>
            <div className={css.line}>
              <span className={css.chip} style={{ background: groupColour(g.hue) }} aria-hidden>
                {i + 1}
              </span>
              <button
                type="button"
                className={css.name}
                aria-expanded={p.chosen === g.id}
                onClick={() => p.choose(p.chosen === g.id ? null : g.id)}
                title={g.note || g.name}
              >
                {g.name}
              </button>
              <button
                type="button"
                className={css.figure}
                title="Select its faces; with Shift to those that are selected"
                aria-label={`Select the ${p.counts[i]} faces of ${g.name}`}
                onClick={(e) => p.select(g.id, e.shiftKey)}
              >
                {count(p.counts[i])}
              </button>
            </div>
            {p.chosen === g.id && <OpenGroup group={g} list={p} />}
          </li>
        ))}
        <li>
          <div className={css.line}>
            <span className={`${css.chip} ${css.none}`} aria-hidden />
            <span className={css.name}>in no group</span>
            <button
              type="button"
              className={css.figure}
              aria-label={`Select the ${p.inNone} faces in no group`}
              onClick={(e) => p.select(null, e.shiftKey)}
            >
              {count(p.inNone)}
            </button>
          </div>
        </li>
      </ul>
    </section>
  );
}

function OpenGroup({ group: g, list: p }: { group: FaceGroup; list: GroupListProps }) {
  const whole = [
    ...g.slots.map((n) => ({ kind: 'slots' as const, what: 'slot', name: n })),
    ...g.parts.map((n) => ({ kind: 'parts' as const, what: 'part', name: n })),
  ];
  return (
    <div className={css.form}>
      <input
        key={g.name}
        className={css.text}
        aria-label="Name of the group"
        defaultValue={g.name}
        maxLength={60}
        onBlur={(e) => {
          const name = e.target.value.trim();
          const taken = p.groups.some((o) => o.id !== g.id && o.name.toLowerCase() === name.toLowerCase());
          if (name === '' || name === g.name || taken) e.target.value = g.name;
          else p.change(`Group ${g.name} is now ${name}`, { ...g, name });
        }}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
      <textarea
        key={g.note}
        className={css.text}
        aria-label={`Note on ${g.name}`}
        placeholder="Note"
        rows={2}
        maxLength={2000}
        defaultValue={g.note}
        onBlur={(e) => e.target.value !== g.note && p.change(`Note on ${g.name}`, { ...g, note: e.target.value })}
      />
      {whole.map(({ kind, what, name }) => (
        <div key={`${what} ${name}`} className={css.line}>
          <span className={css.hint}>with</span>
          <span className={css.name}>
            all of {what} {name}
          </span>
          <Button
            tone="quiet"
            aria-label={`Without ${what} ${name}`}
            onClick={() =>
              p.change(`${g.name} without ${what} ${name}`, { ...g, [kind]: g[kind].filter((n) => n !== name) })
            }
          >
            Take out
          </Button>
        </div>
      ))}
      <select
        className={css.text}
        aria-label="Add all of a slot or part, in all models"
        value=""
        onChange={(e) => {
          const [kind, ...rest] = e.target.value.split(' ');
          const name = rest.join(' ');
          const key = kind === 'slot' ? 'slots' : 'parts';
          p.change(`${g.name} with all of ${kind} ${name}`, { ...g, [key]: [...g[key], name] });
        }}
      >
        <option value="" disabled>
          Add all of a slot or part …
        </option>
        {p.wholes.slots
          .filter((n) => !g.slots.includes(n))
          .map((n) => (
            <option key={`slot ${n}`} value={`slot ${n}`}>
              slot {n}
            </option>
          ))}
        {p.wholes.parts
          .filter((n) => !g.parts.includes(n))
          .map((n) => (
            <option key={`part ${n}`} value={`part ${n}`}>
              part {n}
            </option>
          ))}
      </select>
      <div className={css.row}>
        <Button tone="quiet" disabled={p.selected === 0} onClick={() => p.put(g.id, 'in')}>
          Put selected in
        </Button>
        <Button tone="quiet" disabled={p.selected === 0} onClick={() => p.put(g.id, 'out')}>
          Take selected out
        </Button>
        <Button tone="quiet" onClick={() => p.remove(g.id)}>
          Remove group
        </Button>
      </div>
    </div>
  );
}
