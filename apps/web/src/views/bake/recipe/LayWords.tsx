import { Lay } from '@wembrel/core/decisions/recipe/look';
import { DecalWords, ScatterWords } from './look/PlacedWords.tsx';
import { RepeatWords } from './look/RepeatWords.tsx';
import type { SetPart } from './recipe-context.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';

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
  /** A plain colour looks the same however it is repeated. */
  plain: boolean;
  set: SetPart<Lay>;
  open: boolean;
}) {
  const isRepeated = value.by === 'box' || value.by === 'uv';
  if (plain && isRepeated && !open) return null;
  const change = (by: Lay['by']) => {
    if (by === 'side')
      set(Lay.parse({ by, at: [0, 0.5, 0], direction: [0, 0, 1], width: 0.2, height: 0.2, depth: 0.1 }), 'As a decal');
    else if (by === 'scatter') set(Lay.parse({ by, count: 40, metres: [0.05, 0.1] }), 'Scattered');
    else set(Lay.parse({ by }), 'How a look lies');
  };
  return (
    <>
      <ChoiceWord label="How it lies" value={value.by} options={WAYS} onChange={change} />
      {isRepeated && !plain && <RepeatWords value={value} set={set} open={open} />}
      {value.by === 'side' && <DecalWords value={value} set={set} open={open} />}
      {value.by === 'scatter' && <ScatterWords value={value} set={set} open={open} />}
    </>
  );
}
