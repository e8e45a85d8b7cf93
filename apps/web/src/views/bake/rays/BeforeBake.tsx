import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import type { ProjectView } from '../../../contract/project.ts';
import { modelAddress } from '../../../project/model-address.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import { partsText } from './pairing-objects.ts';
import css from './RaysView.module.css';

/** High-poly and low-poly of a pairing beside each other, before anything is baked of it. */
export function BeforeBake({ project, pairing }: { project: ProjectView; pairing: PairingDecision }) {
  return (
    <figure className={css.before}>
      <Side project={project} title="High-poly" refs={pairing.high} />
      <Side project={project} title="Low-poly" refs={pairing.low} />
      <figcaption>Not baked yet. A proof takes a second or two, and shows every fault where it is.</figcaption>
    </figure>
  );
}

function Side({ project, title, refs }: { project: ProjectView; title: string; refs: PairingDecision['high'] }) {
  const at = project.survey?.models.findIndex((model) => model.path === refs[0]?.path) ?? -1;
  return (
    <div className={css.beforeSide}>
      <p>
        {title}: {partsText(refs)}
      </p>
      {at < 0 ? (
        <p>{refs.length > 0 ? 'Its file is not found in the project.' : 'Choose one at the left.'}</p>
      ) : (
        <ModelView label={`3D picture of the ${title.toLowerCase()}`} url={modelAddress(project, at, false)} />
      )}
    </div>
  );
}
