import { useEffect, useMemo, useRef, useState } from 'react';
import type { SheetOutlines } from '../contract/project.ts';
import type { BayPaint } from '../workers/bay-pictures.worker.ts';
import { inLasso, type SheetBay, within } from './bay.ts';
import {
  type Box,
  boxAround,
  type Change,
  changeText,
  frameOf,
  middleOf,
  type Point,
  scaleTo,
  turnTo,
} from './drag.ts';
import { Handles } from './Handles.tsx';
import { Islands, Margins } from './Islands.tsx';
import css from './SheetStage.module.css';
import { Texels } from './Texels.tsx';

export interface SheetStageProps {
  sheet: Pick<SheetOutlines, 'name' | 'width' | 'height' | 'reserves' | 'margin'> & { plots: readonly SheetBay[] };
  /** The map to show below the islands. */
  image: string | null;
  /** What islands show where there is no map, by material. */
  paints?: ReadonlyMap<number, BayPaint> | null;
  showIslands: boolean;
  /** Borders of islands; those that are selected always have one. */
  showBorders?: boolean;
  /** A band as wide as the margin around each island. */
  showMargin?: boolean;
  /** Material whose islands are lit, or null. */
  lit: number | null;
  selected?: ReadonlySet<number>;
  onHover: (material: number | null) => void;
  onSelect?: (plots: number[], how: 'only' | 'toggle') => void;
  /** What was selected is moved, scaled or turned: dragged, or moved with the arrows. */
  onChange?: (change: Change) => void;
  /** False while a layout is awaited that may follow what was dragged. */
  settled?: boolean;
  /** What may be dragged besides moving. */
  scalable?: boolean;
  turnable?: boolean;
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
  kind: 'pan' | 'move' | 'box' | 'lasso' | 'scale' | 'turn';
  /** Of a handle. */
  corner: number;
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
 * that it touches, a line drawn around some with Shift and Alt all that lie in it; what is selected is dragged, or moved with the arrows, scaled by
 * the corners of its box and turned by the arcs beyond them; comma and full stop turn it by quarters, Ctrl A selects all, Escape nothing.
 */
export function SheetStage({
  sheet,
  image,
  paints = null,
  showIslands,
  showBorders = true,
  showMargin = false,
  lit,
  selected,
  onHover,
  onSelect,
  onChange,
  settled = true,
  scalable = false,
  turnable = false,
  tint,
  faulty,
  over = null,
  mark = null,
  onPoint,
  catchAt,
}: SheetStageProps) {
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ x: 0, y: 0, k: 1 });
  const [size, setSize] = useState<[number, number]>([0, 0]);
  const drag = useRef<Drag | null>(null);
  /** What is drawn while something is dragged: bays that change, or a box in px of the sheet. */
  const [change, setChange] = useState<Change | null>(null);
  const [boxed, setBoxed] = useState<[number, number, number, number] | null>(null);
  const [lasso, setLasso] = useState<readonly [number, number][]>([]);
  const movable = onChange !== undefined && (selected?.size ?? 0) > 0;
  const around = useMemo(() => {
    const bays = movable ? sheet.plots.filter((plot) => selected?.has(plot.id)) : [];
    return bays.length > 0 ? boxAround(bays) : null;
  }, [movable, sheet.plots, selected]);
  const changing = useMemo(() => change && frameOf(change), [change]);
  // What was dragged stays where it was dropped until the layout has followed.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new layout ends the drag
  useEffect(() => setChange(null), [sheet.plots]);
  // Where no layout follows, nothing has come of it.
  useEffect(() => {
    if (!settled || !change || drag.current) return;
    const back = setTimeout(() => setChange(null), 200);
    return () => clearTimeout(back);
  }, [settled, change]);

  const fit = () => {
    const el = box.current;
    if (!el) return;
    const k = Math.min((el.clientWidth - 24) / sheet.width, (el.clientHeight - 24) / sheet.height);
    setView({ k, x: (el.clientWidth - sheet.width * k) / 2, y: (el.clientHeight - sheet.height * k) / 2 });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: fit again only when the sheet or the frame changes
  useEffect(() => {
    fit();
    const el = box.current;
    if (!el) return;
    const seen = new ResizeObserver(() => {
      setSize([el.clientWidth, el.clientHeight]);
      fit();
    });
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
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = el.getBoundingClientRect();
      zoom(event.deltaY < 0 ? 1.2 : 1 / 1.2, event.clientX - box.left, event.clientY - box.top);
    };
    el.addEventListener('wheel', wheel, { passive: false });
    return () => el.removeEventListener('wheel', wheel);
  });

  const key = (event: React.KeyboardEvent) => {
    const el = box.current;
    if (!el || event.altKey) return;
    if ((event.ctrlKey || event.metaKey) && event.key === 'a' && onSelect) {
      event.preventDefault();
      onSelect(
        sheet.plots.map((plot) => plot.id),
        'only',
      );
    }
    if (event.ctrlKey || event.metaKey) return;
    const c: [number, number] = [el.clientWidth / 2, el.clientHeight / 2];
    const arrow = (dx: number, dy: number) => {
      const px = event.shiftKey ? 10 : 1;
      if (movable) onChange({ kind: 'move', dx: dx * px, dy: dy * px });
      else setView((v) => ({ ...v, x: v.x - 60 * dx, y: v.y - 60 * dy }));
    };
    const turn = (bays: Box, degrees: number) => onChange?.({ kind: 'turn', degrees, about: middleOf(bays) });
    const moves: Record<string, () => void> = {
      '+': () => zoom(1.25, ...c),
      '=': () => zoom(1.25, ...c),
      '-': () => zoom(0.8, ...c),
      '0': fit,
      f: fit,
      ...(around && turnable ? { ',': () => turn(around, -90), '.': () => turn(around, 90) } : {}),
      ...(onSelect && selected?.size ? { Escape: () => onSelect([], 'only') } : {}),
      ArrowLeft: () => arrow(-1, 0),
      ArrowRight: () => arrow(1, 0),
      ArrowUp: () => arrow(0, -1),
      ArrowDown: () => arrow(0, 1),
    };
    if (!moves[event.key]) return;
    event.preventDefault();
    moves[event.key]();
  };
  /** A point of the window in px of the sheet. */
  const pointOf = (x: number, y: number): [number, number] => {
    const r = box.current?.getBoundingClientRect() ?? { left: 0, top: 0 };
    return [(x - r.left - view.x) / view.k, (y - r.top - view.y) / view.k];
  };
  /** The box from where a drag began to where it is, px of the sheet. */
  const boxOf = (event: React.PointerEvent, from: Drag): [number, number, number, number] => {
    const [ax, ay] = pointOf(from.startX, from.startY);
    const [bx, by] = pointOf(event.clientX, event.clientY);
    return [Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by)];
  };
  /** What a drag does to what is selected. */
  const dragged = (event: React.PointerEvent, from: Drag): Change | null => {
    const [start, end]: Point[] = [pointOf(from.startX, from.startY), pointOf(event.clientX, event.clientY)];
    if (from.kind === 'scale') return around && scaleTo(around, from.corner, start, end);
    if (from.kind === 'turn') return around && turnTo(around, start, end, event.altKey);
    if (from.kind !== 'move') return null;
    const by: [number, number] = [end[0] - start[0], end[1] - start[1]];
    const [dx, dy] = catchAt && !event.altKey ? catchAt(...by, CATCH / view.k) : by;
    return { kind: 'move', dx, dy };
  };
  const [width, height] = [sheet.width * view.k, sheet.height * view.k];
  const texels = image || paints?.size === 0 ? null : paints;
  const place = { left: view.x, top: view.y, width, height };
  const bands = showIslands && showMargin && <Margins plots={sheet.plots} margin={sheet.margin} />;
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
      onPointerDown={(event) => {
        const id = (event.target as Element).closest<SVGElement>('[data-plot]')?.dataset.plot;
        const handle = (event.target as Element).closest<SVGElement>('[data-handle]')?.dataset;
        const onSelected = id !== undefined && selected?.has(Number(id));
        const taken =
          event.shiftKey && onSelect ? (event.altKey ? 'lasso' : 'box') : movable && onSelected ? 'move' : 'pan';
        drag.current = {
          kind: handle ? (handle.handle as 'scale' | 'turn') : taken,
          corner: Number(handle?.corner ?? 0),
          x: event.clientX - view.x,
          y: event.clientY - view.y,
          moved: false,
          startX: event.clientX,
          startY: event.clientY,
          way: [],
        };
      }}
      onPointerMove={(event) => {
        const from = drag.current;
        if (!from) return;
        const [dx, dy] = [event.clientX - from.startX, event.clientY - from.startY];
        if (!from.moved && Math.abs(dx) + Math.abs(dy) < 4) return;
        if (!from.moved) event.currentTarget.setPointerCapture(event.pointerId);
        from.moved = true;
        if (from.kind === 'pan') setView((v) => ({ ...v, x: event.clientX - from.x, y: event.clientY - from.y }));
        else if (from.kind === 'box') setBoxed(boxOf(event, from));
        else if (from.kind === 'lasso') {
          from.way.push(pointOf(event.clientX, event.clientY));
          setLasso([...from.way]);
        } else setChange(dragged(event, from));
      }}
      onPointerUp={(event) => {
        const from = drag.current;
        drag.current = null;
        setBoxed(null);
        setLasso([]);
        if (!from) return;
        if (from.moved) {
          const done = dragged(event, from);
          if (done) onChange?.(done);
          if (from.kind === 'box') onSelect?.(within(sheet.plots, boxOf(event, from)), 'only');
          if (from.kind === 'lasso') onSelect?.(inLasso(sheet.plots, from.way), 'only');
          return;
        }
        if (from.kind === 'scale' || from.kind === 'turn') return;
        if (onPoint) {
          const [px, py] = pointOf(event.clientX, event.clientY);
          if (px >= 0 && py >= 0 && px < sheet.width && py < sheet.height) onPoint(px, py);
          return;
        }
        if (!onSelect) return;
        const id = (event.target as Element).closest<SVGPathElement>('[data-plot]')?.dataset.plot;
        const how = event.shiftKey || event.ctrlKey || event.metaKey ? 'toggle' : 'only';
        if (id !== undefined) onSelect([Number(id)], how);
        else if (how === 'only') onSelect([], 'only');
      }}
    >
      {/* Texels hide the half of the band that lies over the island itself. */}
      {texels && bands && (
        <svg className={css.under} style={place} viewBox={`0 0 ${sheet.width} ${sheet.height}`} aria-hidden="true">
          {bands}
        </svg>
      )}
      {texels && (
        <Texels
          bays={sheet.plots}
          paints={texels}
          view={view}
          width={size[0]}
          height={size[1]}
          dragged={selected ?? null}
          change={changing}
        />
      )}
      <div className={css.sheet} style={place}>
        {image && <img src={image} alt="" draggable={false} className={view.k > 2 ? css.pixels : ''} />}
        {over && <img src={over} alt="" draggable={false} className={view.k > 2 ? css.pixels : ''} />}
        <svg
          viewBox={`0 0 ${sheet.width} ${sheet.height}`}
          aria-hidden="true"
          style={{ '--line': `${1.2 / view.k}px`, '--dash': `${5 / view.k} ${2 / view.k}` } as React.CSSProperties}
        >
          {sheet.reserves.map((reserve) => (
            <rect
              key={reserve.id}
              className={css.reserve}
              x={reserve.x}
              y={reserve.y}
              width={reserve.width}
              height={reserve.height}
            >
              <title>{`kept free${reserve.note ? `: ${reserve.note}` : ''}`}</title>
            </rect>
          ))}
          {!texels && bands}
          {showIslands && (
            <Islands
              plots={sheet.plots}
              lit={lit}
              selected={selected}
              filled={!image && !texels}
              borders={showBorders}
              change={changing}
              tint={tint}
              faulty={faulty}
              onHover={onHover}
            />
          )}
          {around && !change && (scalable || turnable) && (
            <Handles box={around} k={view.k} scale={scalable} turn={turnable} />
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
      <span className={css.scale}>{change ? changeText(change) : `${Math.round(view.k * 100)} %`}</span>
    </div>
  );
}
