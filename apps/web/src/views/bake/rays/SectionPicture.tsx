import { FAULT } from '@wembrel/core/rays/maps/fault-kinds';
import type { SectionView } from '../../../contract/project.ts';
import { Button } from '../../../ui/Button.tsx';
import { length, roundLength } from './lengths.ts';
import css from './SectionPicture.module.css';

const NAMES: [number, string][] = [
  [FAULT.missed, 'missed'],
  [FAULT.stray, 'stray'],
  [FAULT.skewed, 'skewed'],
  [FAULT.clash, 'clash'],
  [FAULT.thin, 'thin margin'],
];

const pathOf = (lines: readonly number[]): string => {
  let d = '';
  for (let i = 0; i < lines.length; i += 4) d += `M${lines[i]} ${-lines[i + 1]}L${lines[i + 2]} ${-lines[i + 3]}`;
  return d;
};

export interface SectionPictureProps {
  section: SectionView;
  /** Degrees. */
  turn: number;
  onTurn: (degrees: number) => void;
  /** Sets a local reach where it goes through; null where none can be set. */
  onReach: (() => void) | null;
}

/** High-poly, low-poly, cage and rays, cut through the picked texel; the way out points up. */
export function SectionPicture({ section, turn, onTurn, onReach }: SectionPictureProps) {
  const { half } = section;
  const scale = roundLength(half / 2);
  const faults = NAMES.filter(([bit]) => section.faults & bit).map(([, name]) => name);
  return (
    <figure className={css.section}>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing that takes keys */}
      <svg
        viewBox={`${-half * 1.5} ${-half} ${half * 3} ${half * 2}`}
        preserveAspectRatio="xMidYMid slice"
        role="group"
        aria-label={`Section through "${section.pairing}"; left and right turn it`}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it takes keys
        tabIndex={0}
        onKeyDown={(event) => {
          const by = { ArrowLeft: -15, ArrowRight: 15 }[event.key];
          if (!by) return;
          event.preventDefault();
          onTurn((turn + by + 180) % 180);
        }}
      >
        <path className={css.cageLine} d={pathOf(section.cage)} />
        {section.rays.map((ray) => {
          const end = ray.hit ?? ray.to;
          return (
            <g
              key={`${ray.from[0]} ${ray.from[1]}`}
              className={`${ray.picked ? css.picked : ''} ${ray.hit ? '' : css.lost}`}
            >
              <line className={css.ray} x1={ray.from[0]} y1={-ray.from[1]} x2={end[0]} y2={-end[1]} />
              {ray.hit && <circle cx={ray.hit[0]} cy={-ray.hit[1]} r={half * (ray.picked ? 0.014 : 0.007)} />}
            </g>
          );
        })}
        <path className={css.lowLine} d={pathOf(section.low)} />
        <path className={css.highLine} d={pathOf(section.high)} />
        <g className={css.ruler} transform={`translate(${-half * 0.9} ${half * 0.9})`}>
          <path d={`M0 0h${scale}M0 ${-half * 0.02}v${half * 0.04}M${scale} ${-half * 0.02}v${half * 0.04}`} />
        </g>
      </svg>
      <figcaption>
        <span className={css.keyHigh}>high-poly</span>
        <span className={css.keyLow}>low-poly</span>
        <span className={css.keyCage}>cage</span>
        <span className={css.keyRay}>rays</span>
        {section.distance !== null && (
          <b>{`${length(Math.abs(section.distance))} ${section.distance < 0 ? 'below' : 'above'} the low-poly`}</b>
        )}
        {faults.length > 0 && <b className={css.faulty}>{faults.join(', ')}</b>}
        <span className={css.grow}>scale {length(scale)}</span>
        {onReach && (
          <Button tone="quiet" onClick={onReach} title="Rays around this point get other reaches">
            Local reach here
          </Button>
        )}
        <label>
          turned{' '}
          <input
            type="range"
            min={0}
            max={165}
            step={15}
            value={turn}
            onChange={(event) => onTurn(Number(event.target.value))}
            aria-label="Turn of the section, degrees"
          />{' '}
          {turn}°
        </label>
      </figcaption>
    </figure>
  );
}
