import type { SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import { StretchWords } from './StretchWords.tsx';
import { MeasureWords } from './where/MeasureWords.tsx';
import { IdWords, NamedWords } from './where/NamedWords.tsx';
import { PositionWords } from './where/PositionWords.tsx';
import { StrokeWords } from './where/StrokeWords.tsx';
import type { SingleProps } from './where/single-props.ts';
import { WanderWords } from './where/WanderWords.tsx';
import { DirectionWord } from './words/MoreWords.tsx';

/** One condition by itself. */
export function SingleWords({ value, set, open }: SingleProps<SingleCondition>) {
  switch (value.of) {
    case 'slot':
    case 'part':
    case 'group':
    case 'model':
      return <NamedWords value={value} set={set} open={open} />;
    case 'id':
      return <IdWords value={value} set={set} open={open} />;
    case 'island':
      return <>on {value.at.length === 1 ? 'one island' : `${value.at.length} islands`}</>;
    case 'strokes':
      return <StrokeWords value={value} set={set} />;
    case 'position':
      return (
        <>
          <PositionWords value={value} set={set} /> is <StretchWords value={value} set={set} open={open} />
          <WanderWords value={value} set={set} open={open} />
        </>
      );
    case 'facing':
      return (
        <>
          where the angle to{' '}
          <DirectionWord
            label="Which way"
            value={value.direction}
            onChange={(direction) => set({ ...value, direction }, 'Which way it faces')}
          />
          {' is '}
          <StretchWords value={value} set={set} open={open} />
        </>
      );
    default:
      return (
        <>
          <MeasureWords value={value} set={set} open={open} /> <StretchWords value={value} set={set} open={open} />
          {(value.of === 'uv-border' || value.of === 'id-border') && (
            <WanderWords value={value} set={set} open={open} />
          )}
        </>
      );
  }
}
