import type { StandInSpec } from '@wembrel/core/decisions/stand-in';
import { Check, Choice, NumberField } from '../../../ui/Field.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import { SlotsApart } from './SlotsApart.tsx';
import css from './StandInView.module.css';

const SIDES = [256, 512, 1024, 2048, 4096];

/** Triangles that a goal begins with, where the source has more: a tenth of them. */
const tenth = (triangles: number): number => Math.max(100, Math.round(triangles / 1000) * 100);

export interface StandInFormProps {
  spec: StandInSpec;
  /** Of the source: its triangles, and the names of its slots. */
  triangles: number;
  slots: readonly string[];
  change: (label: string, part: Partial<StandInSpec>) => void;
}

/** What the stand-in has to be: its shape, how light, for which distance; then its sheet. */
export function StandInForm({ spec, triangles, slots, change }: StandInFormProps) {
  return (
    <div className={css.form}>
      <h2>Shape</h2>
      <Segments
        label="Kind of stand-in"
        value={spec.as}
        options={[
          { value: 'simplified', label: 'Simplified' },
          { value: 'hull', label: 'Hull' },
        ]}
        onChange={(as) => change(as === 'hull' ? 'Hull' : 'Simplified', { as })}
      />
      <p className={css.note}>
        {spec.as === 'hull'
          ? 'One closed surface around everything, whatever the source is like inside.'
          : 'The source with fewer triangles; its parts stay what they are.'}
      </p>
      <GoalFields spec={spec} triangles={triangles} change={change} />
      <NumberField
        label="Seen from"
        unit="m"
        value={spec.distance ?? 0}
        min={0}
        max={1e6}
        step={1}
        note={spec.distance === null ? '0: from where it fills the height of the screen' : undefined}
        onCommit={(m) => change('Viewing distance', { distance: m > 0 ? m : null })}
      />
      {spec.as === 'hull' && (
        <>
          <NumberField
            label="Cell width"
            unit="mm"
            value={spec.cell === null ? 0 : spec.cell * 1000}
            min={0}
            max={1e7}
            note={spec.cell === null ? '0: a 96th of the largest side' : 'nothing thinner than a cell is kept as it is'}
            onCommit={(mm) => change('Cell width of the hull', { cell: mm > 0 ? mm / 1000 : null })}
          />
          <Check
            label="Keep cavities inside"
            checked={spec.keepCavities}
            onChange={(keepCavities) => change('Cavities of the hull', { keepCavities })}
          />
        </>
      )}
      <Check
        label="Objects stay separate"
        checked={spec.keepGroups}
        onChange={(keepGroups) => change('Objects of the stand-in', { keepGroups })}
      />
      <Check
        label="Keep faces that nobody sees"
        checked={spec.keepHidden}
        onChange={(keepHidden) => change('Hidden faces', { keepHidden })}
      />
      <SlotsApart slots={slots} apart={spec.apart} onChange={(label, apart) => change(label, { apart })} />
      <h2>Sheet</h2>
      <Choice
        label="Size"
        value={String(spec.size)}
        options={[...new Set([...SIDES, spec.size])]
          .sort((a, b) => a - b)
          .map((side) => ({ value: String(side), label: `${side} px` }))}
        onChange={(side) => change(`Sheet of ${side} px`, { size: Number(side) })}
      />
      <NumberField
        label="Margin"
        unit="px"
        value={spec.margin}
        min={0}
        max={256}
        onCommit={(margin) => change('Margin', { margin })}
      />
      <h2>Levels of detail</h2>
      <LevelsField levels={spec.levels} change={change} />
      <Choice
        label="Cards"
        value={String(spec.cards)}
        options={[
          { value: '0', label: 'none' },
          { value: '1', label: 'one' },
          { value: '2', label: 'two, crossed' },
        ]}
        note={spec.cards > 0 ? 'flat pictures of it, as the last level' : undefined}
        onChange={(cards) => change('Cards of the stand-in', { cards: Number(cards) as StandInSpec['cards'] })}
      />
    </div>
  );
}

function GoalFields({ spec, triangles, change }: Omit<StandInFormProps, 'slots'>) {
  const { goal } = spec;
  return (
    <>
      <Segments
        label="Goal"
        value={'px' in goal ? 'px' : 'triangles'}
        options={[
          { value: 'px', label: 'By error' },
          { value: 'triangles', label: 'By triangles' },
        ]}
        onChange={(by) =>
          change('Goal of the stand-in', { goal: by === 'px' ? { px: 1 } : { triangles: tenth(triangles) } })
        }
      />
      {'px' in goal ? (
        <NumberField
          label="Outline error"
          unit="px"
          value={goal.px}
          min={0.01}
          max={1000}
          step={0.5}
          note="99 % of the outline, on a screen 1080 px high"
          onCommit={(px) => change('Error of the stand-in', { goal: { px } })}
        />
      ) : (
        <NumberField
          label="Triangles"
          unit="triangles"
          value={goal.triangles}
          min={4}
          max={20_000_000}
          step={100}
          onCommit={(most) => change('Triangles of the stand-in', { goal: { triangles: most } })}
        />
      )}
    </>
  );
}

/** How many levels beyond the first, and what share of the triangles before each keeps. */
function LevelsField({ levels, change }: { levels: readonly number[]; change: StandInFormProps['change'] }) {
  const step = levels[0] ?? 0.4;
  const set = (count: number, share: number) =>
    change('Levels of detail', {
      levels: Array.from({ length: count }, (_, i) => Number((share ** (i + 1)).toPrecision(6))),
    });
  return (
    <>
      <NumberField
        label="More levels"
        unit="levels"
        value={levels.length}
        min={0}
        max={8}
        onCommit={(count) => set(count, step)}
      />
      {levels.length > 0 && (
        <NumberField
          label="Each keeps"
          unit="%"
          value={Math.round(step * 100)}
          min={5}
          max={90}
          step={5}
          note="of the triangles of the one before"
          onCommit={(v) => set(levels.length, v / 100)}
        />
      )}
    </>
  );
}
