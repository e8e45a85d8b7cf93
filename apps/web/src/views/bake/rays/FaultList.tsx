import { FAULT_ADVICE, type RayFault } from '@wembrel/core/rays/maps/fault-kinds';
import { count } from '../../../ui/format.ts';
import css from './FaultList.module.css';

const extent = (rayFault: RayFault): string => {
  if (rayFault.extent === null) return '';
  if (rayFault.of === 'edges') return `, ${rayFault.extent.toFixed(2)} m`;
  if (rayFault.extent >= 0.1) return `, ${rayFault.extent.toFixed(2)} m²`;
  const cm = rayFault.extent * 1e4;
  return `, ${cm >= 10 ? cm.toFixed(0) : cm.toFixed(1)} cm²`;
};

const sentence = (text: string) => text[0].toUpperCase() + text.slice(1);

/** What is wrong, pairing by pairing; a click leads there. */
export function FaultList({
  faults,
  chosen,
  onChoose,
}: {
  faults: readonly RayFault[];
  chosen: RayFault | null;
  onChoose: (rayFault: RayFault) => void;
}) {
  if (faults.length === 0)
    return <p className={css.hint}>No fault: every ray met its own high-poly, straight enough.</p>;
  return (
    <ul className={css.faults}>
      {faults.map((fault) => (
        <li key={fault.kind + fault.pairing} className={fault === chosen ? css.open : ''}>
          <button type="button" onClick={() => onChoose(fault)} aria-expanded={fault === chosen}>
            <span className={css.what}>
              <b>{fault.kind}</b>
              {fault.pairing}
            </span>
            <span>
              {count(fault.count)} {fault.of}
              {extent(fault)}
            </span>
          </button>
          {fault === chosen && (
            <p>
              {sentence(FAULT_ADVICE[fault.kind].means)}. {FAULT_ADVICE[fault.kind].tries}
            </p>
          )}
        </li>
      ))}
    </ul>
  );
}
