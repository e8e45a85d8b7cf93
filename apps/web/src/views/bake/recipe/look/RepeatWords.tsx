import { Lay } from '@wembrel/core/decisions/recipe/look';
import type { SetPart } from '../recipe-context.ts';
import { ChoiceWord } from '../words/ChoiceWord.tsx';
import { DropButton, PutButton, SeedWord, ShareWord } from '../words/MoreWords.tsx';
import { NumberWord } from '../words/NumberWord.tsx';

type Repeated = Extract<Lay, { by: 'uv' | 'box' }>;

interface RepeatProps {
  value: Repeated;
  set: SetPart<Lay>;
  /** The line is selected: what is as usual is said as well. */
  open: boolean;
}

/** How large the repeats of a look are, how they are turned and moved, and how their repetition is broken up. */
export function RepeatWords(props: RepeatProps) {
  const { value, open } = props;
  const isMoved = value.turn !== 0 || value.offset.some((v) => v !== 0);
  return (
    <>
      {(open || value.metres !== null || isMoved) && <SizeWords {...props} />}
      {value.by === 'box' && open && (
        <>
          {', its sides blended over '}
          <ShareWord
            label="How far sides are blended"
            value={value.blend}
            onChange={(blend, trial) => props.set({ ...value, blend }, 'How far sides are blended', trial)}
          />
        </>
      )}
      {(open || value.breakUp) && <BreakUpWords {...props} />}
    </>
  );
}

function SizeWords({ value, set, open }: RepeatProps) {
  const move = (i: 0 | 1, label: string) => (
    <NumberWord
      label={label}
      value={value.offset[i]}
      step={0.05}
      onChange={(v, trial) =>
        set({ ...value, offset: i === 0 ? [v, value.offset[1]] : [value.offset[0], v] }, 'Where repeats begin', trial)
      }
    />
  );
  return (
    <>
      {', '}
      {value.metres === null ? (
        <PutButton text="as large as it is" onPut={() => set({ ...value, metres: 0.5 }, 'Size of a repeat')} />
      ) : (
        <>
          <NumberWord
            label="Size of a repeat"
            unit="m"
            value={value.metres}
            min={0.001}
            step={0.05}
            onChange={(metres, trial) => set({ ...value, metres }, 'Size of a repeat', trial)}
          />{' '}
          a repeat
          {open && (
            <DropButton
              label="As large as it is"
              onDrop={() => set({ ...value, metres: null }, 'True size of a look')}
            />
          )}
        </>
      )}
      {', turned '}
      <NumberWord
        label="Turn"
        unit="°"
        value={value.turn}
        min={-360}
        max={360}
        step={5}
        onChange={(turn, trial) => set({ ...value, turn }, 'Turn of a look', trial)}
      />
      {(open || value.offset.some((v) => v !== 0)) && (
        <>
          {', moved by '}
          {move(0, 'Moved to the right')} × {move(1, 'Moved up')} repeats
        </>
      )}
    </>
  );
}

const BREAK_UPS = [
  { value: 'none', label: 'repeated as it is' },
  { value: 'cells', label: 'repetition broken up' },
  { value: 'cells turned', label: 'repetition broken up and turned' },
  { value: 'courses', label: 'broken up by courses' },
] as const;

function BreakUpWords({ value, set, open }: RepeatProps) {
  const { breakUp } = value;
  const now = breakUp ? `${breakUp.by}${breakUp.turned ? ' turned' : ''}` : 'none';
  const put = (part: Partial<NonNullable<typeof breakUp>>, trial?: boolean) =>
    breakUp && set({ ...value, breakUp: { ...breakUp, ...part } }, 'Repetition', trial);
  return (
    <>
      {', '}
      <ChoiceWord
        label="Repetition"
        value={now as (typeof BREAK_UPS)[number]['value']}
        options={BREAK_UPS}
        onChange={(kind) => {
          const [by, turned] = kind.split(' ');
          const next = by === 'none' ? null : { ...breakUp, by, turned: turned === 'turned' };
          set(Lay.parse({ ...value, breakUp: next }), 'Repetition');
        }}
      />
      {open && breakUp && (
        <>
          {breakUp.by === 'cells' && (
            <>
              {' in cells of '}
              <ShareWord
                label="Width of the cells"
                value={breakUp.cell}
                min={0.05}
                max={4}
                onChange={(cell, trial) => put({ cell }, trial)}
              />{' '}
              of a repeat
            </>
          )}{' '}
          <SeedWord value={breakUp.seed} onChange={(seed, trial) => put({ seed }, trial)} />
        </>
      )}
    </>
  );
}
