import { memo, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { SurveyView } from '../../contract/project.ts';
import type { Forecast } from '../../project/prediction.ts';
import { setHover, useSelection } from '../../project/selection.ts';
import { indexColour } from '../../ui/format.ts';
import css from './FlowBands.module.css';
import { type Carried, carriedBy } from './flow-geometry.ts';
import { type ListRows, ROW } from './list-rows.ts';

export type { Carried };

export interface FlowBandsProps {
  survey: SurveyView | null;
  forecast: Forecast;
  rows: ListRows;
  carried: Carried;
  /** How far the slot list is scrolled, px. */
  scroll: number;
}

interface Band {
  slot: number;
  path: string;
  /** Its row is out of sight. */
  faint: boolean;
}

/** One band for each slot, from its row to its sheet, as wide as what it carries. */
export const FlowBands = memo(function FlowBands({ survey, forecast, rows, carried, scroll }: FlowBandsProps) {
  const svg = useRef<SVGSVGElement>(null);
  const slots = useSelection((selection) => selection.slots);
  const hover = useSelection((selection) => selection.hover);
  const [frame, setFrame] = useState({ width: 0, top: 0, list: 0, targets: new Map<string, [number, number]>() });
  // biome-ignore lint/correctness/useExhaustiveDependencies: sheets move when the forecast changes
  useLayoutEffect(() => {
    const el = svg.current;
    const board = el?.parentElement;
    if (!el || !board) return;
    const measure = () => {
      const own = el.getBoundingClientRect();
      const targets = new Map<string, [number, number]>();
      for (const element of board.querySelectorAll<HTMLElement>('[data-flow-target]')) {
        const box = element.getBoundingClientRect();
        targets.set(element.dataset.flowTarget as string, [box.top - own.top, box.height]);
      }
      const list = board.querySelector<HTMLElement>('[data-flow-list]')?.getBoundingClientRect() ?? own;
      setFrame({ width: own.width, top: list.top - own.top, list: list.height, targets });
    };
    measure();
    const seen = new ResizeObserver(measure);
    seen.observe(el);
    for (const element of board.querySelectorAll('[data-flow-target]')) seen.observe(element);
    const right = board.querySelector('[data-flow-sheets]');
    right?.addEventListener('scroll', measure);
    return () => {
      seen.disconnect();
      right?.removeEventListener('scroll', measure);
    };
  }, [forecast.sheets.length, forecast.flows]);

  const bands = useMemo<Band[]>(() => {
    const values = carriedBy(survey, forecast, carried);
    const bySheet = new Map<string, number[]>();
    forecast.flows.forEach((flow) => {
      if (!rows.topOf.has(flow.slot)) return;
      const key = flow.sheet < 0 ? 'apart' : String(flow.sheet);
      const list = bySheet.get(key);
      if (list) list.push(flow.slot);
      else bySheet.set(key, [flow.slot]);
    });
    const most = Math.max(
      1e-9,
      ...[...bySheet].map(([key, list]) => {
        const h = frame.targets.get(key)?.[1] ?? 1;
        return list.reduce((sum, i) => sum + values[i], 0) / h;
      }),
    );
    const out: Band[] = [];
    for (const [key, list] of bySheet) {
      const target = frame.targets.get(key);
      if (!target) continue;
      const total = list.reduce((sum, i) => sum + values[i], 0);
      const whole = Math.min(target[1], Math.max(list.length * 0.6, total / most));
      let y = target[0] + (target[1] - whole) / 2;
      for (const slot of list) {
        const w = total > 0 ? Math.max(0.6, (whole * values[slot]) / total) : whole / list.length;
        const row = (rows.topOf.get(slot) as number) + ROW / 2 - scroll;
        const inSight = Math.max(2, Math.min(frame.list - 2, row));
        const from = frame.top + inSight;
        const half = Math.min(ROW / 2 - 3, w / 2, 10);
        const x = frame.width;
        const c = x * 0.45;
        out.push({
          slot,
          faint: inSight !== row,
          path: `M0 ${from - half}C${c} ${from - half} ${x - c} ${y} ${x} ${y}V${y + w}C${x - c} ${y + w} ${c} ${from + half} 0 ${from + half}Z`,
        });
        y += w;
      }
    }
    return out;
  }, [survey, forecast, rows, carried, scroll, frame]);
  const any = slots.size > 0 || hover !== null;
  return (
    <svg ref={svg} className={css.bands} aria-hidden="true">
      {bands.map((band) => {
        const on = hover === band.slot || (hover === null && slots.has(band.slot));
        return (
          <path
            key={band.slot}
            d={band.path}
            fill={indexColour(band.slot)}
            opacity={on ? 0.95 : band.faint ? 0.12 : any ? 0.28 : 0.6}
            onPointerEnter={() => setHover(band.slot)}
            onPointerLeave={() => setHover(null)}
          />
        );
      })}
    </svg>
  );
});
