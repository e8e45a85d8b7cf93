import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import { Condition as ConditionSchema } from '@wembrel/core/decisions/recipe/condition';
import type { TexelReading } from '@wembrel/core/recipes/readings/at-texel';
import type { LiveMaps } from '../../../stage/live-sheet.ts';
import { percent } from '../../../ui/format.ts';
import { valuesAt } from './map-pictures.ts';
import css from './Recipe.module.css';
import { MEASURES } from './recipe-options.ts';

export interface HereProps {
  reading: TexelReading | null;
  /** The answer is on its way. */
  waiting: boolean;
  place: readonly [number, number];
  maps: LiveMaps | null;
  /** Takes a condition over into the selected line, or into a new one. */
  onLike: (condition: Condition) => void;
  onLine: (name: string) => void;
  onClose: () => void;
}

/** What is known of the texel that was clicked: which lines reach it, and what all maps hold there. */
export function Here({ reading, waiting, place, maps, onLike, onLine, onClose }: HereProps) {
  if (!reading)
    return (
      <section className={css.here_panel} aria-label="The place that was clicked">
        <header>
          <h2>Here</h2>
          <span>{waiting ? 'looking …' : 'nothing lies here'}</span>
          <button type="button" aria-label="Close" onClick={onClose}>
            ×
          </button>
        </header>
      </section>
    );
  const like = (label: string, condition: unknown) => (
    <button
      type="button"
      title={`Where it is like here: ${label}`}
      aria-label={`Where it is like here: ${label}`}
      onClick={() => onLike(ConditionSchema.parse(condition))}
    >
      like here
    </button>
  );
  const row = (label: string, value: string, condition: unknown) => (
    <tr key={label}>
      <th>{label}</th>
      <td>{value}</td>
      <td>{condition ? like(`${label} ${value}`, condition) : null}</td>
    </tr>
  );
  return (
    <section className={css.here_panel} aria-label="The place that was clicked">
      <header>
        <h2>Here</h2>
        <span>{reading.point.map((v) => v.toFixed(3)).join(' ')} m</span>
        <button type="button" aria-label="Close" onClick={onClose}>
          ×
        </button>
      </header>
      <div className={css.here_lists}>
        <table>
          <tbody>
            {row('slot', reading.slot, { of: 'slot', names: [reading.slot] })}
            {row('part', reading.part, { of: 'part', names: [reading.part] })}
            {row('island', `${reading.island + 1}`, { of: 'island', at: [reading.point] })}
            {reading.group && row('group', reading.group, { of: 'group', names: [reading.group] })}
            {Object.entries(reading.ids).map(([picture, { colour, name }]) =>
              row(
                picture ? `ID of ${picture}` : 'ID',
                name ?? colour,
                picture
                  ? { of: 'id', picture, colours: [colour] }
                  : name
                    ? { of: 'id', names: [name] }
                    : { of: 'id', colours: [colour] },
              ),
            )}
            {row('facing', reading.normal.map((v) => v.toFixed(2)).join(' '), {
              of: 'facing',
              direction: reading.normal,
              to: 30,
              soft: 20,
            })}
            {row('height', `${(reading.point[1] * 1000).toFixed(0)} mm`, {
              of: 'position',
              axis: 'y',
              within: 'world',
              from: Math.round(reading.point[1] * 1000) - 50,
              to: Math.round(reading.point[1] * 1000) + 50,
              soft: 20,
            })}
          </tbody>
        </table>
        <table>
          <tbody>
            {Object.entries(reading.values).map(([kind, value]) => {
              const spread = kind === 'height' ? 1 : 0.1;
              const v = Number(value.toFixed(3));
              const tidy = (n: number) => Number(n.toFixed(3));
              return row(
                MEASURES[kind as keyof typeof MEASURES]?.word ?? kind,
                `${v}${kind === 'height' ? ' mm' : ''}`,
                { of: kind, from: tidy(v - spread), to: tidy(v + spread), soft: spread },
              );
            })}
            {maps && valuesAt(maps, place).map(([label, value]) => row(label, value, null))}
          </tbody>
        </table>
        <div>
          <h3>{reading.lines.length === 0 ? 'No line reaches it' : 'Lines that reach it'}</h3>
          <ol>
            {reading.lines.map(({ line, amount }) => (
              <li key={line}>
                <button type="button" onClick={() => onLine(line)}>
                  {line}
                </button>
                <span>{percent(amount)}</span>
              </li>
            ))}
          </ol>
        </div>
      </div>
    </section>
  );
}
