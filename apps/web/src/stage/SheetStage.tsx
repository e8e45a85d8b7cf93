import { useEffect, useRef, useState } from 'react';
import type { SheetOutlines } from '../contract/project.ts';
import { indexColour } from '../ui/format.ts';
import css from './SheetStage.module.css';

export interface SheetStageProps {
  sheet: SheetOutlines;
  /** The map to show below the islands. */
  image: string | null;
  showIslands: boolean;
  /** Material whose islands are lit, or null. */
  lit: number | null;
  onHover: (material: number | null) => void;
}

/** A sheet at any size: wheel or + and − to zoom, drag or arrows to pan, 0 to fit. */
export function SheetStage({ sheet, image, showIslands, lit, onHover }: SheetStageProps) {
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ x: 0, y: 0, k: 1 });
  const drag = useRef<{ x: number; y: number } | null>(null);

  const fit = () => {
    const el = box.current;
    if (!el) return;
    const k = (Math.min(el.clientWidth, el.clientHeight) - 24) / sheet.size;
    setView({ k, x: (el.clientWidth - sheet.size * k) / 2, y: (el.clientHeight - sheet.size * k) / 2 });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: fit anew only when the sheet or the frame changes
  useEffect(() => {
    fit();
    const el = box.current;
    if (!el) return;
    const seen = new ResizeObserver(fit);
    seen.observe(el);
    return () => seen.disconnect();
  }, [sheet.size, sheet.name]);

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
    if (!el) return;
    const c: [number, number] = [el.clientWidth / 2, el.clientHeight / 2];
    const step = 60;
    const moves: Record<string, () => void> = {
      '+': () => zoom(1.25, ...c),
      '=': () => zoom(1.25, ...c),
      '-': () => zoom(0.8, ...c),
      '0': fit,
      ArrowLeft: () => setView((v) => ({ ...v, x: v.x + step })),
      ArrowRight: () => setView((v) => ({ ...v, x: v.x - step })),
      ArrowUp: () => setView((v) => ({ ...v, y: v.y + step })),
      ArrowDown: () => setView((v) => ({ ...v, y: v.y - step })),
    };
    if (!moves[e.key]) return;
    e.preventDefault();
    moves[e.key]();
  };
  const side = sheet.size * view.k;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a picture that is moved about, with its own keys
    <div
      ref={box}
      className={css.stage}
      role="group"
      aria-label={`Sheet ${sheet.name}; plus and minus zoom, arrows move, 0 fits`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it takes keys
      tabIndex={0}
      onKeyDown={key}
      onPointerDown={(e) => {
        drag.current = { x: e.clientX - view.x, y: e.clientY - view.y };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        const from = drag.current;
        if (from) setView((v) => ({ ...v, x: e.clientX - from.x, y: e.clientY - from.y }));
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
    >
      <div className={css.sheet} style={{ left: view.x, top: view.y, width: side, height: side }}>
        {image && <img src={image} alt="" draggable={false} className={view.k > 2 ? css.pixels : ''} />}
        <svg viewBox={`0 0 ${sheet.size} ${sheet.size}`} aria-hidden="true">
          {showIslands &&
            sheet.plots.map((p) => (
              <path
                key={p.id}
                d={p.path || `M${p.box[0]} ${p.box[1]}h${p.box[2]}v${p.box[3]}h${-p.box[2]}Z`}
                fill={indexColour(p.material)}
                fillOpacity={lit === p.material ? 0.45 : 0}
                stroke={indexColour(p.material)}
                strokeOpacity={lit === null || lit === p.material ? 1 : 0.35}
                strokeWidth={1.2 / view.k}
                strokeDasharray={p.stacked > 1 ? `${5 / view.k} ${2 / view.k}` : undefined}
                onPointerEnter={() => onHover(p.material)}
                onPointerLeave={() => onHover(null)}
              >
                <title>{`${p.slot}${p.stacked > 1 ? `, ${p.stacked} islands stacked` : ''}`}</title>
              </path>
            ))}
        </svg>
      </div>
      <span className={css.scale}>{Math.round(view.k * 100)} %</span>
    </div>
  );
}
