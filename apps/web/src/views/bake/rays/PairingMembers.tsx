import type { ObjectRef } from '@wembrel/core/rays/target/scene-objects';
import { count } from '../../../ui/format.ts';
import { MiddleCut } from '../../../ui/MiddleCut.tsx';
import css from './PairingList.module.css';
import type { PairingListProps } from './pairing-list-props.ts';
import { keyOf } from './pairing-objects.ts';

/** The objects on one side of a pairing; free ones can be added. */
export function PairingMembers({
  title,
  refs,
  list,
  put,
}: {
  title: string;
  refs: readonly ObjectRef[];
  list: PairingListProps;
  put: (refs: ObjectRef[]) => void;
}) {
  return (
    <div className={css.members}>
      <h3>{title}</h3>
      <ul>
        {refs.map((ref) => {
          const object = list.objects.find((object) => keyOf(object) === keyOf(ref));
          return (
            <li key={keyOf(ref)} title={ref.path} className={object ? '' : css.faulty}>
              <MiddleCut text={ref.name} />
              <em>{object ? count(object.facts.triangles) : 'not found'}</em>
              <button
                type="button"
                aria-label={`Remove ${ref.name}`}
                onClick={() => put(refs.filter((x) => x !== ref).map((x) => ({ ...x })))}
              >
                ×
              </button>
            </li>
          );
        })}
      </ul>
      {list.alone.length > 0 && (
        <select
          value=""
          aria-label={`Add a ${title}`}
          onChange={(event) => {
            const object = list.alone.find((object) => keyOf(object) === event.target.value);
            if (object) put([...refs.map((x) => ({ ...x })), { path: object.path, name: object.name }]);
          }}
        >
          <option value="">add …</option>
          {list.alone.map((object) => (
            <option key={keyOf(object)} value={keyOf(object)}>
              {object.name} ({count(object.facts.triangles)})
            </option>
          ))}
        </select>
      )}
    </div>
  );
}
