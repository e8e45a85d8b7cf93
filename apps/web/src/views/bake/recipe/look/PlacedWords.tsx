import type { Lay } from '@wembrel/core/decisions/recipe/look';
import type { SetPart } from '../recipe-context.ts';
import { DirectionWord, LengthWord, SeedWord } from '../words/MoreWords.tsx';
import { NumberWord } from '../words/NumberWord.tsx';

type Of<K extends Lay['by']> = Extract<Lay, { by: K }>;

interface PlacedProps<K extends Lay['by']> {
  value: Of<K>;
  set: SetPart<Lay>;
  /** The line is selected: what is as usual is said as well. */
  open: boolean;
}

/** Where a decal lies, and how large and deep. */
export function DecalWords({ value, set, open }: PlacedProps<'side'>) {
  const length = (key: 'width' | 'height' | 'depth', label: string) => (
    <LengthWord label={label} value={value[key]} onChange={(m, trial) => set({ ...value, [key]: m }, label, trial)} />
  );
  const place = (i: number, axis: string) => (
    <NumberWord
      label={`Place along ${axis}`}
      value={Number(value.at[i].toFixed(3))}
      step={0.01}
      onChange={(v, trial) =>
        set(
          { ...value, at: value.at.map((old, k) => (k === i ? v : old)) as typeof value.at },
          'Place of a decal',
          trial,
        )
      }
    />
  );
  return (
    <>
      {' '}
      {length('width', 'Width')} × {length('height', 'Height')}, turned{' '}
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
          , through {length('depth', 'Depth to both sides')}, at {place(0, 'X')} {place(1, 'Y')} {place(2, 'Z')} m, seen
          from{' '}
          <DirectionWord
            label="From which side"
            value={value.direction}
            onChange={(direction) => set({ ...value, direction }, 'Side of a decal')}
          />
          , not on what is turned away by more than{' '}
          <NumberWord
            label="Turned away by"
            unit="°"
            value={value.facing}
            min={1}
            max={180}
            step={5}
            onChange={(facing, trial) => set({ ...value, facing }, 'Where a decal ends', trial)}
          />
        </>
      )}
    </>
  );
}

/** How many copies are scattered, and how. */
export function ScatterWords({ value, set, open }: PlacedProps<'scatter'>) {
  const [least, most] = value.metres;
  const sizes = (metres: [number, number], trial: boolean) => set({ ...value, metres }, 'Size of copies', trial);
  return (
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
      <LengthWord label="Least width" value={least} onChange={(m, trial) => sizes([m, Math.max(m, most)], trial)} /> to{' '}
      <LengthWord label="Greatest width" value={most} onChange={(m, trial) => sizes([Math.min(m, least), m], trial)} />
      {(open || value.turned < 180) && (
        <>
          , turned by up to{' '}
          <NumberWord
            label="Turned by up to"
            unit="°"
            value={value.turned}
            min={0}
            max={180}
            step={5}
            onChange={(turned, trial) => set({ ...value, turned }, 'Turn of copies', trial)}
          />
        </>
      )}{' '}
      <SeedWord value={value.seed} onChange={(seed, trial) => set({ ...value, seed }, 'Seed', trial)} />
    </>
  );
}
