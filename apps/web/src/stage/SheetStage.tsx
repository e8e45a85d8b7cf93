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
  /** What was selected is moved by so many px: dragged, or with the arrows. */
  onMove?: (dx: number, dy: number) => void;
  /** Colour of a bay instead of that of its material. */
  tint?: (id: number) => string;
  /** Bays that are at fault. */
  faulty?: ReadonlySet<number>;
  /** A second picture over the first, as large. */
  over?: string | null;
  /** A texel that is marked, and what a click on one does; px of the sheet. */
  mark?: readonly [number, number] | null;
  onPoint?: (x: number, y: number) => void;
  /** Where what is dragged by so many px is caught by what lies within reach of it, px of the sheet. With Alt nothing is caught. */
  catchAt?: (dx: number, dy: number, reach: number) => [number, number];
}

/** Px of the screen within which bays are caught. */
const CATCH = 7;

interface Drag {
  kind: 'pan' | 'move' | 'box' | 'lasso';
  x: number;
  y: number;
  moved: boolean;
  startX: number;
  startY: number;
  /** Way of a lasso, px of the sheet. */
  way: [number, number][];
}

/**
 * A sheet at any size: wheel or + and − zoom, drag or arrows move the view, F or 0 fits; a click selects a bay, a box drawn with Shift all
 * that it touches, a line drawn around some with Shift and Alt all that lie in it; what is selected is dragged, or moved with the arrows.
 */
export function SheetStage({
  sheet,
  image,
  showIslands,
  showMargin = false,
  lit,
  selected,
  onHover,
  onSelect,
  onMove,
  tint,
  faulty,
  over = null,
  mark = null,
  onPoint,
  catchAt,
}: SheetStageProps) {
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ x: 0, y: 0, k: 1 });
  const drag = useRef<Drag | null>(null);
  /** What is drawn while something is dragged: bays moved by px, or a box in px of the sheet. */
  const [shift, setShift] = useState<[number, number] | null>(null);
  const [boxed, setBoxed] = useState<[number, number, number, number] | null>(null);
  const [lasso, setLasso] = useState<readonly [number, number][]>([]);
  const movable = onMove !== undefined && (selected?.size ?? 0) > 0;
  // What was dragged stays where it was dropped until the layout has followed.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new layout ends the drag
  useEffect(() => setShift(null), [sheet.plots]);

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
    const arrow = (dx: number, dy: number) => {
      const px = e.shiftKey ? 10 : 1;
      if (movable) onMove(dx * px, dy * px);
      else setView((v) => ({ ...v, x: v.x - 60 * dx, y: v.y - 60 * dy }));
    };
    const moves: Record<string, () => void> = {
      '+': () => zoom(1.25, ...c),
      '=': () => zoom(1.25, ...c),
      '-': () => zoom(0.8, ...c),
      '0': fit,
      f: fit,
      ArrowLeft: () => arrow(-1, 0),
      ArrowRight: () => arrow(1, 0),
      ArrowUp: () => arrow(0, -1),
      ArrowDown: () => arrow(0, 1),
    };
    if (!moves[e.key]) return;
    e.preventDefault();
    moves[e.key]();
  };
  /** A point of the window in px of the sheet. */
  const pointOf = (x: number, y: number): [number, number] => {
    const r = box.current?.getBoundingClientRect() ?? { left: 0, top: 0 };
    return [(x - r.left - view.x) / view.k, (y - r.top - view.y) / view.k];
  };
  /** The box from where a drag began to where it is, px of the sheet. */
  const boxOf = (e: React.PointerEvent, from: Drag): [number, number, number, number] => {
    const [ax, ay] = pointOf(from.startX, from.startY);
    const [bx, by] = pointOf(e.clientX, e.clientY);
    return [Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by)];
  };
  /** By how much bays are dragged, px of the sheet. */
  const draggedBy = (e: React.PointerEvent, from: Drag): [number, number] => {
    const [dx, dy] = [(e.clientX - from.startX) / view.k, (e.clientY - from.startY) / view.k];
    return catchAt && !e.altKey ? catchAt(dx, dy, CATCH / view.k) : [dx, dy];
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
        const id = (e.target as Element).closest<SVGPathElement>('[data-plot]')?.dataset.plot;
        const onSelected = id !== undefined && selected?.has(Number(id));
        drag.current = {
          kind: e.shiftKey && onSelect ? (e.altKey ? 'lasso' : 'box') : movable && onSelected ? 'move' : 'pan',
          x: e.clientX - view.x,
          y: e.clientY - view.y,
          moved: false,
          startX: e.clientX,
          startY: e.clientY,
          way: [],
        };
      }}
      onPointerMove={(e) => {
        const from = drag.current;
        if (!from) return;
        const [dx, dy] = [e.clientX - from.startX, e.clientY - from.startY];
        if (!from.moved && Math.abs(dx) + Math.abs(dy) < 4) return;
        if (!from.moved) e.currentTarget.setPointerCapture(e.pointerId);
        from.moved = true;
        if (from.kind === 'pan') setView((v) => ({ ...v, x: e.clientX - from.x, y: e.clientY - from.y }));
        else if (from.kind === 'move') setShift(draggedBy(e, from));
        else if (from.kind === 'box') setBoxed(boxOf(e, from));
        else {
          from.way.push(pointOf(e.clientX, e.clientY));
          setLasso([...from.way]);
        }
      }}
      onPointerUp={(e) => {
        const from = drag.current;
        drag.current = null;
        setBoxed(null);
        setLasso([]);
        if (!from) return;
        if (from.moved) {
          if (from.kind === 'move') onMove?.(...draggedBy(e, from));
          if (from.kind === 'box') onSelect?.(within(sheet.plots, boxOf(e, from)), 'only');
          if (from.kind === 'lasso') onSelect?.(inLasso(sheet.plots, from.way), 'only');
          return;
        }
        if (onPoint) {
          const [px, py] = pointOf(e.clientX, e.clientY);
          if (px >= 0 && py >= 0 && px < sheet.width && py < sheet.height) onPoint(px, py);
          return;
        }
        if (!onSelect) return;
        const id = (e.target as Element).closest<SVGPathElement>('[data-plot]')?.dataset.plot;
        const how = e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only';
        if (id !== undefined) onSelect([Number(id)], how);
        else if (how === 'only') onSelect([], 'only');
      }}
    >
      <div className={css.sheet} style={{ left: view.x, top: view.y, width, height }}>
        {image && <img src={image} alt="" draggable={false} className={view.k > 2 ? css.pixels : ''} />}
        {over && <img src={over} alt="" draggable={false} className={view.k > 2 ? css.pixels : ''} />}
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
            <Islands
              plots={sheet.plots}
              lit={lit}
              selected={selected}
              filled={!image}
              shift={shift}
              tint={tint}
              faulty={faulty}
              onHover={onHover}
            />
          )}
          {mark && (
            <g className={css.mark} transform={`translate(${mark[0]} ${mark[1]}) scale(${1 / view.k})`}>
              <path d="M-14 0h9M5 0h9M0 -14v9M0 5v9" />
              <path d="M-14 0h9M5 0h9M0 -14v9M0 5v9" />
            </g>
          )}
          {lasso.length > 1 && <polygon className={css.box} points={lasso.map((p) => p.join()).join(' ')} />}
          {boxed && (
            <rect
              className={css.box}
              x={boxed[0]}
              y={boxed[1]}
              width={boxed[2] - boxed[0]}
              height={boxed[3] - boxed[1]}
            />
          )}
        </svg>
      </div>
      <span className={css.scale}>{Math.round(view.k * 100)} %</span>
    </div>
  );
}

/** Bays whose boxes a box touches. */
function within(plots: SheetOutlines['plots'], [x0, y0, x1, y1]: [number, number, number, number]): number[] {
  return plots.filter(({ box: [x, y, w, h] }) => x < x1 && x + w > x0 && y < y1 && y + h > y0).map((p) => p.id);
}

/** Bays whose middle lies inside a way around. */
function inLasso(plots: SheetOutlines['plots'], way: readonly [number, number][]): number[] {
  const inside = (x: number, y: number) =>
    way.reduce((odd, [ax, ay], i) => {
      const [bx, by] = way[(i + 1) % way.length];
      return ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax ? !odd : odd;
    }, false);
  return plots.filter(({ box: [x, y, w, h] }) => inside(x + w / 2, y + h / 2)).map((p) => p.id);
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
  shift,
  tint,
  faulty,
  onHover,
}: {
  plots: SheetOutlines['plots'];
  lit: number | null;
  selected?: ReadonlySet<number>;
  /** Nothing is below: islands show their colour. */
  filled: boolean;
  /** Px by which what is selected is being dragged. */
  shift: [number, number] | null;
  tint?: (id: number) => string;
  faulty?: ReadonlySet<number>;
  onHover: (material: number | null) => void;
}) {
  return (
    <g className={css.islands}>
      {plots.map((p) => {
        const on = selected?.has(p.id) ?? false;
        const colour = tint?.(p.id) ?? indexColour(p.material);
        const rest = tint ? 0.85 : filled ? 0.22 : 0;
        return (
          <path
            key={p.id}
            data-plot={p.id}
            d={borderOf(p)}
            transform={on && shift ? `translate(${shift[0]} ${shift[1]})` : undefined}
            fill={colour}
            fillOpacity={on ? 0.75 : lit === p.material ? Math.max(0.45, rest) : rest}
            stroke={on ? '#fff' : colour}
            strokeOpacity={lit === null || lit === p.material || on ? 1 : 0.35}
            strokeDasharray={p.stacked > 1 && !on ? 'var(--dash)' : undefined}
            className={`${on ? css.on : ''} ${faulty?.has(p.id) ? css.faulty : ''}`}
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
