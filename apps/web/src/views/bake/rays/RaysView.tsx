import { type ReactNode, useMemo } from 'react';
import type { ViewProps } from '../../../project/view-props.ts';
import frame from '../../../ui/View.module.css';
import { MapContacts } from './MapContacts.tsx';
import { RaysHead } from './RaysHead.tsx';
import { RaysMiddle } from './RaysMiddle.tsx';
import { RaysPanel } from './RaysPanel.tsx';
import css from './RaysView.module.css';
import { around, ResultSide } from './ResultSide.tsx';
import { useRaysView } from './use-rays-view.ts';

const REACH = '#ffd84a';
const REACH_CHOSEN = '#ff7a3c';

/** The section through high-poly and low-poly over the histogram of distances; map and model beside it, maps along the edge. */
export function RaysView({ project, live, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  const state = useRaysView({ project, edit });
  const { tab, chosen, reach, result, sheet, last, job, spot, shown, start } = state;
  const rings = useMemo(
    () =>
      tab !== 'reaches' || !chosen
        ? []
        : chosen.localReaches.map(({ at, radius }, i) => ({ at, radius, colour: i === reach ? REACH_CHOSEN : REACH })),
    [tab, chosen, reach],
  );
  const file = (name: string) => `/api/jobs/${last?.id}/files/${name}`;
  return (
    <section className={frame.view}>
      <RaysHead state={state} edit={edit} switcher={switcher} />
      <div className={css.body}>
        <RaysPanel state={state} />
        <RaysMiddle project={project} live={live} state={state} />
        {result && sheet && last && (
          <>
            <ResultSide
              project={project}
              pairing={chosen}
              sheet={sheet}
              map={shown}
              address={file}
              at={state.at}
              onPoint={state.pick}
              bakePart={job || !spot || !chosen ? null : () => start('ray-proof', chosen.name, around(spot))}
              rings={rings}
              onModelPoint={tab === 'reaches' && chosen ? state.addReach : null}
            />
            <MapContacts
              sheet={sheet}
              zip={`/api/jobs/${last.id}/zip`}
              map={shown?.kind ?? state.map}
              address={file}
              onChoose={state.setMap}
              job={last.region ? null : last.id}
            />
          </>
        )}
      </div>
    </section>
  );
}
