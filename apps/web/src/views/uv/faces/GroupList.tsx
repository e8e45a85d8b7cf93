import type { FaceGroup } from '@wembrel/core/decisions/face-decisions';
import { Button } from '../../../ui/Button.tsx';
import { count, counted } from '../../../ui/format.ts';
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
export function GroupList(groupListProps: GroupListProps) {
  return (
    <section className={css.section}>
      <header>
        <h2>Face groups</h2>
        <Button
          onClick={groupListProps.make}
          disabled={groupListProps.selected === 0}
          title="Makes a group of the selected faces"
        >
          New from {count(groupListProps.selected)} faces
        </Button>
      </header>
      {groupListProps.groups.length === 0 && (
        <p className={css.hint}>
          Faces that are treated alike. Select some in 3D, make a group of them, then say below what is done to it.
        </p>
      )}
      <ul className={css.list}>
        {groupListProps.groups.map((group, i) => (
          <li key={group.id} className={groupListProps.chosen === group.id ? css.open : ''}>
            <div className={css.line}>
              <span className={css.chip} style={{ background: groupColour(group.hue) }} aria-hidden>
                {i + 1}
              </span>
              <button
                type="button"
                className={css.name}
                aria-expanded={groupListProps.chosen === group.id}
                onClick={() => groupListProps.choose(groupListProps.chosen === group.id ? null : group.id)}
                title={group.note || group.name}
              >
                {group.name}
              </button>
              <button
                type="button"
                className={css.figure}
                title="Select its faces; with Shift to those that are selected"
                aria-label={`Select the ${counted(groupListProps.counts[i], 'face')} of ${group.name}`}
                onClick={(event) => groupListProps.select(group.id, event.shiftKey)}
              >
                {count(groupListProps.counts[i])}
              </button>
            </div>
            {groupListProps.chosen === group.id && <OpenGroup group={group} list={groupListProps} />}
          </li>
        ))}
        <li>
          <div className={css.line}>
            <span className={`${css.chip} ${css.none}`} aria-hidden />
            <span className={css.name}>in no group</span>
            <button
              type="button"
              className={css.figure}
              aria-label={`Select the ${counted(groupListProps.inNone, 'face')} in no group`}
              onClick={(event) => groupListProps.select(null, event.shiftKey)}
            >
              {count(groupListProps.inNone)}
            </button>
          </div>
        </li>
      </ul>
    </section>
  );
}

function OpenGroup({ group: g, list: groupListProps }: { group: FaceGroup; list: GroupListProps }) {
  const whole = [
    ...g.slots.map((slot) => ({ kind: 'slots' as const, what: 'slot', name: slot })),
    ...g.parts.map((part) => ({ kind: 'parts' as const, what: 'part', name: part })),
  ];
  return (
    <div className={css.form}>
      <input
        key={g.name}
        className={css.text}
        aria-label="Name of the group"
        defaultValue={g.name}
        maxLength={60}
        onBlur={(event) => {
          const name = event.target.value.trim();
          const taken = groupListProps.groups.some(
            (group) => group.id !== g.id && group.name.toLowerCase() === name.toLowerCase(),
          );
          if (name === '' || name === g.name || taken) event.target.value = g.name;
          else groupListProps.change(`Group ${g.name} is now ${name}`, { ...g, name });
        }}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      <textarea
        key={g.note}
        className={css.text}
        aria-label={`Note on ${g.name}`}
        placeholder="Note"
        rows={2}
        maxLength={2000}
        defaultValue={g.note}
        onBlur={(event) =>
          event.target.value !== g.note &&
          groupListProps.change(`Note on ${g.name}`, { ...g, note: event.target.value })
        }
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
              groupListProps.change(`${g.name} without ${what} ${name}`, {
                ...g,
                [kind]: g[kind].filter((n) => n !== name),
              })
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
        onChange={(event) => {
          const [kind, ...rest] = event.target.value.split(' ');
          const name = rest.join(' ');
          const key = kind === 'slot' ? 'slots' : 'parts';
          groupListProps.change(`${g.name} with all of ${kind} ${name}`, { ...g, [key]: [...g[key], name] });
        }}
      >
        <option value="" disabled>
          Add all of a slot or part …
        </option>
        {groupListProps.wholes.slots
          .filter((slot) => !g.slots.includes(slot))
          .map((slot) => (
            <option key={`slot ${slot}`} value={`slot ${slot}`}>
              slot {slot}
            </option>
          ))}
        {groupListProps.wholes.parts
          .filter((part) => !g.parts.includes(part))
          .map((part) => (
            <option key={`part ${part}`} value={`part ${part}`}>
              part {part}
            </option>
          ))}
      </select>
      <div className={css.row}>
        <Button tone="quiet" disabled={groupListProps.selected === 0} onClick={() => groupListProps.put(g.id, 'in')}>
          Put selected in
        </Button>
        <Button tone="quiet" disabled={groupListProps.selected === 0} onClick={() => groupListProps.put(g.id, 'out')}>
          Take selected out
        </Button>
        <Button tone="quiet" onClick={() => groupListProps.remove(g.id)}>
          Remove group
        </Button>
      </div>
    </div>
  );
}
