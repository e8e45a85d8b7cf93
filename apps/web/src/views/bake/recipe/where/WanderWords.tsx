import { DropButton, PutButton, SeedWord } from '../words/MoreWords.tsx';
import { NumberWord } from '../words/NumberWord.tsx';
import type { Of, SingleProps } from './single-props.ts';

type Wandering = Of<'position'> | Of<'uv-border' | 'id-border'>;

/** A border that wanders to begin with, mm. */
const BEGIN = { by: 20, size: 120, seed: 1 };

/** How the border of a stretch wanders, so that it is no straight line. */
export function WanderWords({ value, set, open }: SingleProps<Wandering>) {
  const { wander } = value;
  const put = (next: typeof wander, trial?: boolean) =>
    set({ ...value, wander: next }, next ? 'How a border wanders' : 'A straight border', trial);
  if (!wander)
    return open ? (
      <>
        {', '}
        <PutButton text="its border straight" onPut={() => put(BEGIN)} />
      </>
    ) : null;
  return (
    <>
      {', its border wandering by '}
      <NumberWord
        label="By how much the border wanders"
        unit="mm"
        value={wander.by}
        min={0.1}
        step={1}
        onChange={(by, trial) => put({ ...wander, by }, trial)}
      />{' '}
      in waves of{' '}
      <NumberWord
        label="Size of the waves"
        unit="mm"
        value={wander.size}
        min={0.1}
        step={5}
        onChange={(size, trial) => put({ ...wander, size }, trial)}
      />
      {open && (
        <>
          {' '}
          <SeedWord value={wander.seed} onChange={(seed, trial) => put({ ...wander, seed }, trial)} />
          <DropButton label="A straight border" text="straight" onDrop={() => put(null)} />
        </>
      )}
    </>
  );
}
