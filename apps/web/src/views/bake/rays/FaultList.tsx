import { FAULT_ADVICE, type RayFault } from '@wembrel/core/rays/fault-kinds';
import { count } from '../../../ui/format.ts';
import css from './FaultList.module.css';

const extent = (f: RayFault): string => {
  if (f.extent === null) return '';
  if (f.of === 'edges') return `, ${f.extent.toFixed(2)} m`;
  return `, ${(f.extent * 1e4).toPrecision(3)} cm²`;
};

/** What is wrong, the worst first; a click leads there. */
export function FaultList({
  faults,
  chosen,
  onChoose,
}: {
  faults: readonly RayFault[];
  chosen: RayFault | null;
  onChoose: (f: RayFault) => void;
}) {
  if (faults.length === 0)
    return <p className={css.hint}>No fault: every ray met its own high-poly, straight enough.</p>;
  return (
    <ul className={css.faults}>
      {faults.map((f) => (
        <li key={f.kind + f.pairing} className={f === chosen ? css.open : ''}>
          <button type="button" onClick={() => onChoose(f)} aria-expanded={f === chosen}>
            <b>{f.kind}</b>
            <span>
              {count(f.count)} {f.of}
              {extent(f)}
            </span>
          </button>
          {f === chosen && (
            <p>
              {f.pairing}: {FAULT_ADVICE[f.kind].means}. {FAULT_ADVICE[f.kind].tries}
            </p>
          )}
        </li>
      ))}
    </ul>
  );
}
