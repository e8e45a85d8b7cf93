import { pairing } from '@wembrel/core/rays/pairing/pairings';
import { Segments } from '../../../ui/Segments.tsx';
import { BakeSettings } from './BakeSettings.tsx';
import { FaultList } from './FaultList.tsx';
import { LocalReaches } from './LocalReaches.tsx';
import { PairingList } from './PairingList.tsx';
import css from './RaysView.module.css';
import { addReachHere, type RaysState } from './use-rays-view.ts';

/** What is decided: pairings, bake settings and local reaches; and the faults that say where. */
export function RaysPanel({ state }: { state: RaysState }) {
  const { tab, rays, faults } = state;
  return (
    <aside className={css.panel}>
      <Segments
        label="Panel"
        value={tab}
        options={[
          { value: 'pairings', label: `Pairings ${rays.pairings.length || ''}` },
          { value: 'settings', label: 'Settings' },
          { value: 'reaches', label: 'Local reaches' },
          { value: 'faults', label: `Faults ${faults.length || ''}` },
        ]}
        onChange={state.setTab}
      />
      <div className={css.scroll}>
        {tab === 'pairings' && <Pairings state={state} />}
        {tab === 'settings' && (
          <BakeSettings settings={rays.settings} change={(label, settings) => state.change(label, { settings })} />
        )}
        {tab === 'reaches' && (
          <LocalReaches
            pairing={state.chosen}
            draft={state.draft}
            onDraft={state.setDraft}
            chosen={state.reach}
            onChoose={state.chooseReach}
            here={addReachHere(state)}
            change={state.changeReaches}
          />
        )}
        {tab === 'faults' &&
          (state.result ? (
            <FaultList faults={faults} chosen={state.fault} onChoose={state.chooseFault} />
          ) : (
            <p className={css.hint}>Faults are found by a proof or a final.</p>
          ))}
      </div>
    </aside>
  );
}

function Pairings({ state }: { state: RaysState }) {
  const { rays, byNames, byPlace, addPairings, start } = state;
  return (
    <PairingList
      pairings={rays.pairings}
      objects={state.objects}
      alone={state.alone}
      baked={state.baked}
      doubts={state.doubts}
      stale={state.stale}
      reaches={state.reaches}
      chosen={state.open}
      choose={state.choose}
      change={state.changePairing}
      remove={(i) =>
        state.change(`Delete pairing ${rays.pairings[i].name}`, { pairings: rays.pairings.filter((_, k) => k !== i) })
      }
      prove={state.job ? null : (name) => start('ray-proof', name)}
      make={() => addPairings('New pairing', [pairing('pairing', [], [])])}
      byNames={byNames.length > 0 ? () => addPairings(`Pair ${byNames.length} by names`, byNames) : null}
      byPlace={byPlace.length > 0 ? () => addPairings(`Pair ${byPlace.length} by place`, byPlace) : null}
    />
  );
}
