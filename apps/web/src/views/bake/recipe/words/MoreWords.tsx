import { ChoiceWord } from './ChoiceWord.tsx';
import { NumberWord } from './NumberWord.tsx';
import css from './Words.module.css';

/** How words set what they say; `trial` while it is being dragged. */
interface NumberProps {
  label: string;
  value: number;
  min?: number;
  max?: number;
  step?: number;
  onChange: (value: number, trial: boolean) => void;
}

/** A share, 0 … 1, said in percent. */
export function ShareWord({ value, min = 0, max = 1, step = 0.05, onChange, label }: NumberProps) {
  return (
    <NumberWord
      label={label}
      unit="%"
      value={Math.round(value * 100)}
      min={min * 100}
      max={max * 100}
      step={step * 100}
      onChange={(percent, trial) => onChange(percent / 100, trial)}
    />
  );
}

/** A length in metres, said in mm. */
export function LengthWord({ value, min = 0.0001, step = 0.005, onChange, label }: NumberProps) {
  return (
    <NumberWord
      label={label}
      unit="mm"
      value={Number((value * 1000).toFixed(1))}
      min={min * 1000}
      step={step * 1000}
      onChange={(mm, trial) => onChange(mm / 1000, trial)}
    />
  );
}

/** By which chance something is as it is. */
export function SeedWord({ value, onChange }: Pick<NumberProps, 'value' | 'onChange'>) {
  return (
    <>
      (seed <NumberWord label="Seed" value={value} min={0} max={9999} onChange={onChange} />)
    </>
  );
}

/** Takes a part of a sentence out again. */
export function DropButton({ label, text = '×', onDrop }: { label: string; text?: string; onDrop: () => void }) {
  return (
    <button type="button" className={css.drop} title={label} aria-label={label} onClick={onDrop}>
      {text}
    </button>
  );
}

/** Puts a part into a sentence. */
export function PutButton({ text, onPut }: { text: string; onPut: () => void }) {
  return (
    <button type="button" className={css.choice} onClick={onPut}>
      {text}
    </button>
  );
}

const WAYS: readonly { value: string; label: string }[] = [
  { value: '0 1 0', label: 'up' },
  { value: '0 -1 0', label: 'down' },
  { value: '1 0 0', label: '+X' },
  { value: '-1 0 0', label: '−X' },
  { value: '0 0 1', label: '+Z' },
  { value: '0 0 -1', label: '−Z' },
];

export interface DirectionWordProps {
  label: string;
  value: readonly [number, number, number];
  onChange: (value: [number, number, number]) => void;
}

/** A direction along an axis; one of its own stays as it is. */
export function DirectionWord({ label, value, onChange }: DirectionWordProps) {
  const own = value.map((v) => Number(v.toFixed(2))).join(' ');
  const options = WAYS.some((way) => way.value === own) ? WAYS : [...WAYS, { value: own, label: `along ${own}` }];
  return (
    <ChoiceWord
      label={label}
      value={own}
      options={options}
      onChange={(text) => text !== own && onChange(text.split(' ').map(Number) as [number, number, number])}
    />
  );
}
