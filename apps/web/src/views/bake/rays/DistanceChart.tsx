import { useEffect, useRef, useState } from 'react';
import type { RaySheetView } from '../../../contract/project.ts';
import { Button } from '../../../ui/Button.tsx';
import { NumberField } from '../../../ui/Field.tsx';
import { count } from '../../../ui/format.ts';
import css from './DistanceChart.module.css';
import { length } from './lengths.ts';

const HEIGHT = 96;
const FOOT = 16;

export interface DistanceChartProps {
  histogram: RaySheetView['pairings'][number]['histogram'];
  /** m */
  outward: number;
  /** m */
  inward: number;
  /** Called with m when a reach is let go or typed. */
  onReach: (which: Which, metres: number) => void;
  /** Goes back to the measured reaches; null while they are in use. */
  onMeasured: (() => void) | null;
}

type Which = 'outward' | 'inward';

/** How far the high-poly lies from the low-poly, texel by texel; the two reaches are dragged on it, or typed. */
export function DistanceChart(props: DistanceChartProps) {
  const { outward, inward, onReach, onMeasured } = props;
  const field = (which: Which, value: number) => (
    <NumberField
      label={which === 'outward' ? 'Outward reach' : 'Inward reach'}
      unit="mm"
      value={Number((value * 1000).toPrecision(4))}
      min={0}
      max={1e9}
      onCommit={(mm) => onReach(which, mm / 1000)}
    />
  );
  return (
    <figure className={css.chart}>
      <Histogram {...props} />
      <figcaption className={css.fields}>
        {field('inward', inward)}
        {field('outward', outward)}
        {onMeasured && (
          <Button tone="quiet" onClick={onMeasured}>
            Use measured reaches
          </Button>
        )}
      </figcaption>
    </figure>
  );
}

function Histogram({ histogram, outward, inward, onReach }: DistanceChartProps) {
  const box = useRef<SVGSVGElement>(null);
  const [width, setWidth] = useState(600);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const seen = new ResizeObserver(() => setWidth(Math.max(100, el.clientWidth)));
    seen.observe(el);
    return () => seen.disconnect();
  }, []);
  const [drag, setDrag] = useState<{ which: Which; at: number } | null>(null);
  const from = Math.min(histogram.from, -inward * 1.1);
  const to = Math.max(histogram.to, outward * 1.1);
  const x = (m: number) => ((m - from) / (to - from)) * width;
  const { counts } = histogram;
  const step = (histogram.to - histogram.from) / counts.length;
  const most = Math.max(1, ...counts);
  const outAt = drag?.which === 'outward' ? drag.at : outward;
  const inAt = drag?.which === 'inward' ? drag.at : inward;
  const metres = (event: React.PointerEvent, which: Which) => {
    const dOMRect = box.current?.getBoundingClientRect();
    if (!dOMRect) return 0;
    const m = from + ((event.clientX - dOMRect.left) / dOMRect.width) * (to - from);
    return Math.max((to - from) / 400, which === 'outward' ? m : -m);
  };
  const handle = (which: Which, value: number) => {
    const at = x(which === 'outward' ? value : -value);
    return (
      <g
        className={css.handle}
        role="slider"
        tabIndex={0}
        aria-label={which === 'outward' ? 'Outward reach' : 'Inward reach'}
        aria-valuenow={Number((value * 1000).toPrecision(4))}
        aria-valuetext={length(value)}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ which, at: value });
        }}
        onPointerMove={(event) => drag?.which === which && setDrag({ which, at: metres(event, which) })}
        onPointerUp={() => {
          if (drag) onReach(drag.which, Number(drag.at.toPrecision(4)));
          setDrag(null);
        }}
        onKeyDown={(event) => {
          const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
          if (!way) return;
          event.preventDefault();
          const by = (to - from) * (event.shiftKey ? 0.05 : 0.01);
          const more = which === 'outward' ? way : -way;
          onReach(which, Number(Math.max((to - from) / 400, value + more * by).toPrecision(4)));
        }}
      >
        <rect x={at - 7} y={0} width={14} height={HEIGHT - FOOT} fill="transparent" />
        <line x1={at} x2={at} y1={0} y2={HEIGHT - FOOT} />
        <path d={which === 'outward' ? `M${at} 0h-9v12h9z` : `M${at} 0h9v12h-9z`} />
        <text x={at + (which === 'outward' ? -12 : 12)} y={10} textAnchor={which === 'outward' ? 'end' : 'start'}>
          {which} {length(value)}
        </text>
      </g>
    );
  };
  return (
    <svg ref={box} viewBox={`0 0 ${width} ${HEIGHT}`} aria-label="Distances of the texels">
      {counts.map((n, k) => {
        const m = histogram.from + k * step;
        const out = m > outAt || m + step < -inAt;
        const h = n > 0 ? Math.max(1.5, (Math.log1p(n) / Math.log1p(most)) * (HEIGHT - FOOT - 14)) : 0;
        return (
          <rect
            key={m}
            className={out ? css.beyond : css.bar}
            x={x(m)}
            y={HEIGHT - FOOT - h}
            width={Math.max(0.5, x(m + step) - x(m) - 0.6)}
            height={h}
          >
            <title>{`${length(m)} to ${length(m + step)}: ${count(n)} texels`}</title>
          </rect>
        );
      })}
      <line className={css.axis} x1={0} x2={width} y1={HEIGHT - FOOT} y2={HEIGHT - FOOT} />
      <line className={css.zero} x1={x(0)} x2={x(0)} y1={14} y2={HEIGHT - FOOT} />
      <AxisTexts from={from} to={to} width={width} zero={x(0)} />
      {handle('inward', inAt)}
      {handle('outward', outAt)}
    </svg>
  );
}

/** Room that a text with its words takes, px. */
const WORDS = 130;

/** Both ends and the surface itself; the ends say less where they would reach the surface's name. */
function AxisTexts({ from, to, width, zero }: { from: number; to: number; width: number; zero: number }) {
  const y = HEIGHT - 4;
  return (
    <>
      <text x={zero} y={y} textAnchor="middle">
        low-poly
      </text>
      <text x={2} y={y}>
        {length(from)}
        {zero > WORDS + 40 && ', behind it'}
      </text>
      <text x={width - 2} y={y} textAnchor="end">
        {length(to)}
        {width - zero > WORDS + 40 && ', in front of it'}
      </text>
    </>
  );
}
