import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import css from './Recipe.module.css';
import type { RecipeHandle } from './use-recipe.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';
import words from './words/Words.module.css';

type Inputs = Recipe['inputs'];

const IDS: readonly { value: Inputs['ids']; label: string }[] = [
  { value: 'material', label: 'materials' },
  { value: 'part', label: 'parts' },
  { value: 'island', label: 'islands' },
  { value: 'piece', label: 'pieces that hang together' },
  { value: 'group', label: 'face groups' },
  { value: 'vertex-color', label: 'vertex colours' },
  { value: 'own-colour', label: 'colours of materials' },
];

/** What a length begins with where it was left to the model, mm. */
const FIRST: Record<'curvature' | 'ao' | 'thickness', number> = { curvature: 10, ao: 100, thickness: 50 };

/** How what conditions read is baked, as one sentence. */
export function InputWords({ inputs, onChange }: { inputs: Inputs; onChange: RecipeHandle['change'] }) {
  const set = (part: Partial<Inputs>, label: string) =>
    onChange(label, (now) => ({ ...now, inputs: { ...now.inputs, ...part } }));
  // Each change has it baked anew: only where a drag ends.
  const length = (key: keyof typeof FIRST, label: string) => {
    const mm = inputs[key];
    if (mm === null)
      return (
        <button type="button" className={words.choice} title={label} onClick={() => set({ [key]: FIRST[key] }, label)}>
          as the model asks for
        </button>
      );
    return (
      <>
        <NumberWord
          label={label}
          unit="mm"
          value={mm}
          min={0.1}
          onChange={(value, trial) => !trial && set({ [key]: value }, label)}
        />
        <button
          type="button"
          className={words.drop}
          title="As the model asks for"
          aria-label={`${label}: as the model asks for`}
          onClick={() => set({ [key]: null }, label)}
        >
          ×
        </button>
      </>
    );
  };
  return (
    <p className={css.row}>
      <span>
        Curvature within {length('curvature', 'Radius of curvature')}, AO as far as {length('ao', 'Reach of AO')},
        thickness up to {length('thickness', 'What counts as thick')}; IDs tell apart{' '}
        <ChoiceWord
          label="What IDs tell apart"
          value={inputs.ids}
          options={IDS}
          onChange={(ids) => set({ ids }, 'What IDs tell apart')}
        />
        .
      </span>
    </p>
  );
}
