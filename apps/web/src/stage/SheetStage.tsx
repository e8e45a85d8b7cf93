import { memo, useEffect, useRef, useState } from 'react';
import type { SheetOutlines } from '../contract/project.ts';
import { indexColour } from '../ui/format.ts';
import css from './SheetStage.module.css';

export interface SheetStageProps {
  sheet: Pick<SheetOutlines, 'name' | 'width' | 'height' | 'reserves' | 'margin' | 'plots'>;
  /** The map to show below the islands. */
  image: string | null;
  showIslands: boolean;
  /** A band as wide as the margin around each island. */
  showMargin?: boolean;
  /** Material whose islands are lit, or null. */
  lit: number | null;
  selected?: ReadonlySet<number>;
  onHover: (material: number | null) => void;
  onSelect?: (plots: number[], how: 'only' | 'toggle') => void;
}

/** A sheet at any size: wheel or + and − zoom, drag or arrows move, F or 0 fits; a click selects a bay. */
export function SheetStage({
  sheet,
  image,
  showIslands,
  showMargin = false,
  lit,
  selected,
  onHover,
  onSelect,
}: SheetStageProps) {
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ x: 0, y: 0, k: 1 });
  const drag = useRef<{ x: number; y: number; moved: boolean; startX: number; startY: number } | null>(null);

  const fit = () => {
    const el = box.current;
    if (!el) return;
    const k = Math.min((el.clientWidth - 24) / sheet.width, (el.clientHeight - 24) / sheet.height);
    setView({ k, x: (el.clientWidth - sheet.width * k) / 2, y: (el.clientHeight - sheet.height * k) / 2 });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: fit anew only when the sheet or the frame changes
  useEffect(() => {
    fit();
    const el = box.current;
    if (!el) return;
    const seen = new ResizeObserver(fit);
    seen.observe(el);
    return () => seen.disconnect();
  }, [sheet.width, sheet.height, sheet.name]);

  const zoom = (factor: number, cx: number, cy: number) =>
    setView((v) => {
      const k = Math.min(32, Math.max(0.02, v.k * factor));
      return { k, x: cx - ((cx - v.x) / v.k) * k, y: cy - ((cy - v.y) / v.k) * k };
    });
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const r = el.getBoundingClientRect();
      zoom(e.deltaY < 0 ? 1.2 : 1 / 1.2, e.clientX - r.left, e.clientY - r.top);
    };
    el.addEventListener('wheel', wheel, { passive: false });
    return () => el.removeEventListener('wheel', wheel);
  });

  const key = (e: React.KeyboardEvent) => {
    const el = box.current;
    if (!el || e.ctrlKey || e.metaKey || e.altKey) return;
    const c: [number, number] = [el.clientWidth / 2, el.clientHeight / 2];
    const step = 60;
    const moves: Record<string, () => void> = {
      '+': () => zoom(1.25, ...c),
      '=': () => zoom(1.25, ...c),
      '-': () => zoom(0.8, ...c),
      '0': fit,
      f: fit,
      ArrowLeft: () => setView((v) => ({ ...v, x: v.x + step })),
      ArrowRight: () => setView((v) => ({ ...v, x: v.x - step })),
      ArrowUp: () => setView((v) => ({ ...v, y: v.y + step })),
      ArrowDown: () => setView((v) => ({ ...v, y: v.y - step })),
    };
    if (!moves[e.key]) return;
    e.preventDefault();
    moves[e.key]();
  };
  const [width, height] = [sheet.width * view.k, sheet.height * view.k];
  return (
    // biome-ignore lint/a11y/useSemanticElements: a picture that is moved about, with its own keys
    <div
      ref={box}
      className={css.stage}
      role="group"
      aria-label={`Sheet ${sheet.name}; plus and minus zoom, arrows move, F fits`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it takes keys
      tabIndex={0}
      onKeyDown={key}
      onPointerDown={(e) => {
        drag.current = {
          x: e.clientX - view.x,
          y: e.clientY - view.y,
          moved: false,
          startX: e.clientX,
          startY: e.clientY,
        };
      }}
      onPointerMove={(e) => {
        const from = drag.current;
        if (!from) return;
        if (!from.moved && Math.abs(e.clientX - from.startX) + Math.abs(e.clientY - from.startY) < 4) return;
        if (!from.moved) e.currentTarget.setPointerCapture(e.pointerId);
        from.moved = true;
        setView((v) => ({ ...v, x: e.clientX - from.x, y: e.clientY - from.y }));
      }}
      onPointerUp={(e) => {
        const click = drag.current && !drag.current.moved;
        drag.current = null;
        if (!click || !onSelect) return;
        const id = (e.target as Element).closest<SVGPathElement>('[data-plot]')?.dataset.plot;
        const how = e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only';
        if (id !== undefined) onSelect([Number(id)], how);
        else if (how === 'only') onSelect([], 'only');
      }}
    >
      <div className={css.sheet} style={{ left: view.x, top: view.y, width, height }}>
        {image && <img src={image} alt="" draggable={false} className={view.k > 2 ? css.pixels : ''} />}
        <svg
          viewBox={`0 0 ${sheet.width} ${sheet.height}`}
          aria-hidden="true"
          style={{ '--line': `${1.2 / view.k}px`, '--dash': `${5 / view.k} ${2 / view.k}` } as React.CSSProperties}
        >
          {sheet.reserves.map((r) => (
            <rect key={r.id} className={css.reserve} x={r.x} y={r.y} width={r.width} height={r.height}>
              <title>{`kept free${r.note ? `: ${r.note}` : ''}`}</title>
            </rect>
          ))}
          {showIslands && showMargin && <Margins plots={sheet.plots} margin={sheet.margin} />}
          {showIslands && (
            <Islands plots={sheet.plots} lit={lit} selected={selected} filled={!image} onHover={onHover} />
          )}
        </svg>
      </div>
      <span className={css.scale}>{Math.round(view.k * 100)} %</span>
    </div>
  );
}

const borderOf = (p: SheetOutlines['plots'][number]) =>
  p.path || `M${p.box[0]} ${p.box[1]}h${p.box[2]}v${p.box[3]}h${-p.box[2]}Z`;

/** Half of the margin around every island: where two bands meet, the margin is just kept. */
const Margins = memo(function Margins({ plots, margin }: { plots: SheetOutlines['plots']; margin: number }) {
  return (
    <g className={css.margins} strokeWidth={margin}>
      {plots.map((p) => (
        <path key={p.id} d={borderOf(p)} />
      ))}
    </g>
  );
});

const Islands = memo(function Islands({
  plots,
  lit,
  selected,
  filled,
  onHover,
}: {
  plots: SheetOutlines['plots'];
  lit: number | null;
  selected?: ReadonlySet<number>;
  /** Nothing is below: islands show their colour. */
  filled: boolean;
  onHover: (material: number | null) => void;
}) {
  return (
    <g className={css.islands}>
      {plots.map((p) => {
        const on = selected?.has(p.id) ?? false;
        return (
          <path
            key={p.id}
            data-plot={p.id}
            d={borderOf(p)}
            fill={indexColour(p.material)}
            fillOpacity={on ? 0.75 : lit === p.material ? 0.45 : filled ? 0.22 : 0}
            stroke={on ? '#fff' : indexColour(p.material)}
            strokeOpacity={lit === null || lit === p.material || on ? 1 : 0.35}
            strokeDasharray={p.stacked > 1 && !on ? 'var(--dash)' : undefined}
            className={on ? css.on : ''}
            onPointerEnter={() => onHover(p.material)}
            onPointerLeave={() => onHover(null)}
          >
            <title>{`${p.slot}${p.stacked > 1 ? `, ${p.stacked} islands stacked` : ''}`}</title>
          </path>
        );
      })}
    </g>
  );
});
