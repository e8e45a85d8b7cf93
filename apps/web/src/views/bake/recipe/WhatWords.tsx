import type { What } from '@wembrel/core/decisions/recipe/look';
import { ChangeWords } from './ChangeWords.tsx';
import { LayWords } from './LayWords.tsx';
import { LookWords } from './LookWords.tsx';
import type { SetPart } from './recipe-context.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';

interface WhatProps<T> {
  value: T;
  set: SetPart<What>;
  open: boolean;
}

/** What a line does: lays a look, or changes what is there. */
export function WhatWords({ value, set, open }: WhatProps<What>) {
  if ('change' in value) return <ChangeWords value={value} set={set} />;
  return (
    <>
      lay <LookWords value={value.look} set={(look, label, trial) => set({ ...value, look }, label, trial)} />{' '}
      <LayWords
        value={value.lay}
        plain={value.look.from === 'values'}
        set={(lay, label, trial) => set({ ...value, lay }, label, trial)}
        open={open}
      />
      {(open || value.channels) && (
        <ChannelWords value={value.channels} set={(channels) => set({ ...value, channels }, 'Channels of a line')} />
      )}
    </>
  );
}

type Channels = Extract<What, { look: unknown }>['channels'];

/** What a line may lay of its look; the last one stands for relief and shadow alone. */
const CHANNELS: readonly { value: string; label: string }[] = [
  { value: 'all', label: 'all of it' },
  { value: 'color', label: 'its colour only' },
  { value: 'color,roughness,metallic', label: 'its colour, roughness and metallic' },
  { value: 'roughness', label: 'its roughness only' },
  { value: 'roughness,metallic', label: 'its roughness and metallic' },
  { value: 'normal', label: 'its normals only' },
  { value: 'color,alpha', label: 'its colour and opacity' },
  { value: 'emissive', label: 'its glow only' },
  { value: '', label: 'nothing but relief and shadow' },
];

function ChannelWords({ value, set }: { value: Channels; set: (channels: Channels) => void }) {
  const now = value === null ? 'all' : value.join();
  const options = CHANNELS.some((one) => one.value === now)
    ? CHANNELS
    : [...CHANNELS, { value: now, label: `its ${value?.join(', ')}` }];
  return (
    <>
      {', '}
      <ChoiceWord
        label="What of the look is laid"
        value={now}
        options={options}
        onChange={(text) => set(text === 'all' ? null : ((text === '' ? [] : text.split(',')) as Channels))}
      />
    </>
  );
}
