import { FAULT_ADVICE, type RayFault } from '@wembrel/core/rays/maps/fault-kinds';
import { count } from '../../../ui/format.ts';
import css from './FaultList.module.css';

const extent = (f: RayFault): string => {
  if (f.extent === null) return '';
  if (f.of === 'edges') return `, ${f.extent.toFixed(2)} m`;
  if (f.extent >= 0.1) return `, ${f.extent.toFixed(2)} m²`;
  const cm = f.extent * 1e4;
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
  onChoose: (f: RayFault) => void;
}) {
  if (faults.length === 0)
    return <p className={css.hint}>No fault: every ray met its own high-poly, straight enough.</p>;
  return (
    <ul className={css.faults}>
      {faults.map((f) => (
        <li key={f.kind + f.pairing} className={f === chosen ? css.open : ''}>
          <button type="button" onClick={() => onChoose(f)} aria-expanded={f === chosen}>
            <span className={css.what}>
              <b>{f.kind}</b>
              {f.pairing}
            </span>
            <span>
              {count(f.count)} {f.of}
              {extent(f)}
            </span>
          </button>
          {f === chosen && (
            <p>
              {sentence(FAULT_ADVICE[f.kind].means)}. {FAULT_ADVICE[f.kind].tries}
            </p>
          )}
        </li>
      ))}
    </ul>
  );
}
