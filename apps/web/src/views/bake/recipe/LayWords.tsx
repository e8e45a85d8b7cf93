import { Lay } from '@wembrel/core/decisions/recipe/look';
import type { SetPart } from './recipe-context.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import css from './words/Words.module.css';

const WAYS: readonly { value: Lay['by']; label: string }[] = [
  { value: 'box', label: 'as a box' },
  { value: 'uv', label: 'along the UVs' },
  { value: 'side', label: 'as a decal' },
  { value: 'scatter', label: 'scattered' },
];

/** How a look lies on the surface. */
export function LayWords({
  value,
  plain,
  set,
  open,
}: {
  value: Lay;
  plain: boolean;
  set: SetPart<Lay>;
  open: boolean;
}) {
  // A plain colour looks the same however it lies.
  if (plain && value.by !== 'side' && value.by !== 'scatter' && !open) return null;
  const change = (by: Lay['by']) => {
    if (by === 'side')
      set(Lay.parse({ by, at: [0, 0.5, 0], direction: [0, 0, 1], width: 0.2, height: 0.2, depth: 0.1 }), 'As a decal');
    else if (by === 'scatter') set(Lay.parse({ by, count: 40, metres: [0.05, 0.1] }), 'Scattered');
    else set(Lay.parse({ by }), 'How a look lies');
  };
  const metres = (key: 'width' | 'height' | 'depth', label: string) =>
    value.by === 'side' && (
      <NumberWord
        label={label}
        unit="mm"
        value={Number((value[key] * 1000).toFixed(1))}
        min={0.1}
        step={5}
        onChange={(mm, trial) => set({ ...value, [key]: mm / 1000 }, label, trial)}
      />
    );
  return (
    <>
      <ChoiceWord label="How it lies" value={value.by} options={WAYS} onChange={change} />
      {(value.by === 'box' || value.by === 'uv') && !plain && (open || value.metres !== null || value.turn !== 0) && (
        <>
          {', '}
          {value.metres === null ? (
            <button
              type="button"
              className={css.choice}
              onClick={() => set({ ...value, metres: 0.5 }, 'Size of a repeat')}
            >
              as large as it is
            </button>
          ) : (
            <>
              <NumberWord
                label="Size of a repeat"
                unit="m"
                value={value.metres}
                min={0.001}
                step={0.05}
                onChange={(m, trial) => set({ ...value, metres: m }, 'Size of a repeat', trial)}
              />{' '}
              a repeat
              {open && (
                <button
                  type="button"
                  className={css.drop}
                  title="As large as it is"
                  aria-label="As large as it is"
                  onClick={() => set({ ...value, metres: null }, 'True size of a look')}
                >
                  ×
                </button>
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
        </>
      )}
      {(value.by === 'box' || value.by === 'uv') && !plain && (open || value.breakUp) && (
        <>
          {', '}
          <ChoiceWord
            label="Repetition"
            value={value.breakUp ? `${value.breakUp.by}${value.breakUp.turned ? ' turned' : ''}` : 'none'}
            options={[
              { value: 'none', label: 'repeated as it is' },
              { value: 'cells', label: 'repetition broken up' },
              { value: 'cells turned', label: 'repetition broken up and turned' },
              { value: 'courses', label: 'broken up by courses' },
            ]}
            onChange={(kind) => {
              const [by, turned] = kind.split(' ');
              const breakUp = by === 'none' ? null : { by, turned: turned === 'turned' };
              set(Lay.parse({ ...value, breakUp }), 'Repetition');
            }}
          />
        </>
      )}
      {value.by === 'side' && (
        <>
          {' '}
          {metres('width', 'Width')} × {metres('height', 'Height')}, turned{' '}
          <NumberWord
            label="Turn"
            unit="°"
            value={value.turn}
            min={-360}
            max={360}
            step={5}
            onChange={(turn, trial) => set({ ...value, turn }, 'Turn of a decal', trial)}
          />
          {open && (
            <>
              , through {metres('depth', 'Depth to both sides')}, at {value.at.map((v) => v.toFixed(2)).join(' ')} m
            </>
          )}
        </>
      )}
      {value.by === 'scatter' && (
        <>
          {' '}
          <NumberWord
            label="Copies"
            value={value.count}
            min={1}
            max={100_000}
            step={5}
            onChange={(count, trial) => set({ ...value, count }, 'Copies', trial)}
          />{' '}
          times,{' '}
          <NumberWord
            label="Least width"
            unit="mm"
            value={Number((value.metres[0] * 1000).toFixed(1))}
            min={0.1}
            step={5}
            onChange={(mm, trial) =>
              set({ ...value, metres: [mm / 1000, Math.max(mm / 1000, value.metres[1])] }, 'Size of copies', trial)
            }
          />{' '}
          to{' '}
          <NumberWord
            label="Greatest width"
            unit="mm"
            value={Number((value.metres[1] * 1000).toFixed(1))}
            min={0.1}
            step={5}
            onChange={(mm, trial) =>
              set({ ...value, metres: [Math.min(mm / 1000, value.metres[0]), mm / 1000] }, 'Size of copies', trial)
            }
          />{' '}
          (seed{' '}
          <NumberWord
            label="Seed"
            value={value.seed}
            min={0}
            max={9999}
            onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)}
          />
          )
        </>
      )}
    </>
  );
}
