import { COLLISION_KINDS, type Collision } from '@wembrel/core/decisions/collision';
import type { ViewProps } from '../../project/view-props.ts';
import { Choice, NumberField } from '../../ui/Field.tsx';
import css from './HandOverView.module.css';

const TITLES: Record<Collision['as'], string> = {
  none: 'none',
  box: 'least oriented box',
  sphere: 'sphere',
  capsule: 'capsule',
  hull: 'convex hull',
  pieces: 'convex pieces',
};

export interface CollisionChoiceProps {
  collision: Collision;
  edit: ViewProps['edit'];
}

/** Which collision shapes the next final writes, each model its own file in collision/. */
export function CollisionChoice({ collision, edit }: CollisionChoiceProps) {
  const set = (label: string, part: Partial<Collision>) =>
    edit(label, (decisions) => ({ ...decisions, collision: { ...decisions.collision, ...part } }));
  const { as, faces, pieces, by } = collision;
  return (
    <section className={css.choices}>
      <h2>Collision shapes</h2>
      <Choice
        label="Shape"
        value={as}
        options={(['none', ...COLLISION_KINDS] as const).map((value) => ({ value, label: TITLES[value] }))}
        note={as === 'none' ? undefined : 'In collision/, a file for each model. Every vertex lies inside.'}
        onChange={(next) => set(`Collision shapes: ${TITLES[next]}`, { as: next })}
      />
      {as !== 'none' && (
        <Choice
          label="One for each"
          value={by}
          options={[
            { value: 'model', label: 'model' },
            { value: 'object', label: 'object' },
          ]}
          onChange={(next) => set(`A collision shape for each ${next}`, { by: next })}
        />
      )}
      {(as === 'hull' || as === 'pieces') && (
        <NumberField
          label="Faces of a hull, at most"
          unit="faces"
          value={faces}
          min={6}
          max={255}
          onCommit={(next) => set(`Hulls of at most ${next} faces`, { faces: next })}
        />
      )}
      {as === 'pieces' && (
        <NumberField
          label="Pieces, at most"
          unit="pieces"
          value={pieces}
          min={1}
          max={64}
          onCommit={(next) => set(`At most ${next} convex pieces`, { pieces: next })}
        />
      )}
    </section>
  );
}
