import type { Point } from '@wembrel/core/math/outline';
import { type PointerEvent, useRef, useState } from 'react';

/** What was drawn around something in a picture, px. */
export interface DrawnOutline {
  kind: 'box' | 'line';
  points: readonly Point[];
  /** What was selected stays so. */
  add: boolean;
}

/** Px between points of a line. */
const STEP = 3;
/** Px below which a press is a click. */
const CLICK = 4;

/**
 * Draws a box (Shift) or a line (Shift and Alt) over a picture.
 * @param hold holds the camera of the picture still meanwhile @param done undefined where nothing can be drawn
 */
export function useOutline(hold: (still: boolean) => void, done: ((outline: DrawnOutline) => void) | undefined) {
  const [points, setPoints] = useState<readonly Point[]>([]);
  const from = useRef<{ kind: DrawnOutline['kind']; way: Point[]; moved: boolean } | null>(null);
  const pointOf = (event: PointerEvent): Point => {
    const box = event.currentTarget.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const outlineOf = (kind: DrawnOutline['kind'], way: readonly Point[], [x, y]: Point): readonly Point[] => {
    const [[left, top]] = way;
    if (kind === 'line') return way;
    return [
      [left, top],
      [x, top],
      [x, y],
      [left, y],
    ];
  };
  const stop = () => {
    hold(false);
    from.current = null;
    setPoints([]);
  };
  return {
    points,
    stop,
    /** Before the camera hears of it. */
    begin: (event: PointerEvent) => {
      if (!done || !event.shiftKey || event.button !== 0) return;
      hold(true);
      from.current = { kind: event.altKey ? 'line' : 'box', way: [pointOf(event)], moved: false };
    },
    /** @returns whether something is being drawn */
    go: (event: PointerEvent): boolean => {
      const drag = from.current;
      if (!drag) return false;
      const at = pointOf(event);
      const last = drag.way.at(-1) as Point;
      const far = Math.abs(at[0] - last[0]) + Math.abs(at[1] - last[1]);
      if (!drag.moved && far < CLICK) return true;
      if (!drag.moved) event.currentTarget.setPointerCapture(event.pointerId);
      drag.moved = true;
      if (drag.kind === 'line' && far >= STEP) drag.way.push(at);
      setPoints(outlineOf(drag.kind, drag.way, at));
      return true;
    },
    /** @returns whether something was drawn */
    end: (event: PointerEvent): boolean => {
      const drag = from.current;
      if (!drag) return false;
      stop();
      if (!drag.moved) return false;
      const outline = outlineOf(drag.kind, drag.way, pointOf(event));
      done?.({ kind: drag.kind, points: outline, add: event.ctrlKey || event.metaKey });
      return true;
    },
  };
}
