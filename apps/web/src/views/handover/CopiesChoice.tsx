import { MODEL_COPIES, type ModelCopy } from '@wembrel/core/decisions/model-copies';
import type { ViewProps } from '../../project/view-props.ts';
import { Check } from '../../ui/Field.tsx';
import css from './HandOverView.module.css';

const TITLES: Record<ModelCopy, { label: string; note: string }> = {
  gltf: { label: 'glTF with side files', note: 'NAME.gltf and NAME.bin, with the same textures.' },
  obj: { label: 'OBJ and MTL', note: 'Positions, UVs and normals; no skins, morphs or vertex colours.' },
};

export interface CopiesChoiceProps {
  copies: readonly ModelCopy[];
  edit: ViewProps['edit'];
}

/** Formats in which the next final hands the models over besides GLB. */
export function CopiesChoice({ copies, edit }: CopiesChoiceProps) {
  const set = (copy: ModelCopy, on: boolean) =>
    edit(`${on ? 'Add' : 'Leave out'} ${TITLES[copy].label}`, (decisions) => ({
      ...decisions,
      modelCopies: MODEL_COPIES.filter((one) => (one === copy ? on : decisions.modelCopies.includes(one))),
    }));
  return (
    <section className={css.choices}>
      <h2>Models also as</h2>
      {MODEL_COPIES.map((copy) => (
        <Check
          key={copy}
          label={TITLES[copy].label}
          note={TITLES[copy].note}
          checked={copies.includes(copy)}
          onChange={(on) => set(copy, on)}
        />
      ))}
    </section>
  );
}
