import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import type { RaySheetView } from '../../../contract/project.ts';
import { Button } from '../../../ui/Button.tsx';
import { counted, percent } from '../../../ui/format.ts';
import { MiddleCut } from '../../../ui/MiddleCut.tsx';
import { PairingInspector } from './PairingInspector.tsx';
import css from './PairingList.module.css';
import type { PairingListProps } from './pairing-list-props.ts';
import { keyOf, partsText } from './pairing-objects.ts';

/** A pairing's state, and how bad it is. */
function stateOf(baked: RaySheetView['pairings'][number] | undefined, stale: boolean): { text: string; tone: string } {
  if (!baked) return { text: 'not baked', tone: '' };
  const bad = baked.missed + baked.stray + baked.skewed + baked.clash;
  const text = bad === 0 ? 'no fault' : `${percent(bad / Math.max(1, baked.texels), 1)} at fault`;
  if (stale) return { text: `${text}, out of date`, tone: css.stale };
  return { text, tone: bad === 0 ? css.good : css.faulty };
}

/** The pairings, a line each; the one that is open can be changed. */
export function PairingList(props: PairingListProps) {
  return (
    <div className={css.pairings}>
      <div className={css.actions}>
        <Button
          onClick={props.byNames ?? undefined}
          disabled={!props.byNames}
          title="Names such as post_high and post_low"
        >
          Pair by names
        </Button>
        <Button
          onClick={props.byPlace ?? undefined}
          disabled={!props.byPlace}
          title="High-polys that stand beside their low-polys"
        >
          Pair by place
        </Button>
        <Button onClick={props.make}>New</Button>
      </div>
      <ul>
        {props.pairings.map((pairing, i) => (
          <li key={pairing.name} className={i === props.chosen ? css.open : ''}>
            <PairingLine pairing={pairing} index={i} list={props} />
            {props.doubts.get(pairing.name)?.map((doubt) => (
              <p key={doubt} className={css.doubt}>
                {doubt} nearly as well
              </p>
            ))}
            {i === props.chosen && <PairingInspector pairing={pairing} index={i} list={props} />}
          </li>
        ))}
      </ul>
      {props.alone.length > 0 && (
        <details>
          <summary>{counted(props.alone.length, 'object')} in no pairing</summary>
          <ul className={css.alone}>
            {props.alone.slice(0, 200).map((object) => (
              <li key={keyOf(object)} title={object.path}>
                {object.name} <em>{counted(object.facts.triangles, 'triangle')}</em>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** "high parts — low part", and the state. */
function PairingLine({ pairing, index, list }: { pairing: PairingDecision; index: number; list: PairingListProps }) {
  const { text, tone } = stateOf(list.baked.get(pairing.name), list.stale);
  return (
    <button
      type="button"
      className={css.line}
      title={`${pairing.name}: ${pairing.high.map((ref) => ref.name).join(', ')} — ${pairing.low.map((ref) => ref.name).join(', ')}`}
      aria-expanded={index === list.chosen}
      onClick={() => list.choose(index)}
    >
      <MiddleCut text={partsText(pairing.high)} />
      <i aria-hidden>—</i>
      <MiddleCut text={partsText(pairing.low)} />
      <span className={tone}>{text}</span>
    </button>
  );
}
