import { type PointerEvent, useRef } from 'react';
import type { ModelStage, PickedFace } from './model-stage.ts';

/** A point of a way that is drawn on the model. */
export interface BrushPoint {
  step: 'begin' | 'go' | 'end';
  /** Null beside the model. */
  face: PickedFace | null;
  shift: boolean;
  alt: boolean;
}

/** Px between two points of a way. */
const STEP = 5;

/** Tells of ways that are drawn on a model; a press beside it is left to the camera. @param told undefined where nothing is drawn */
export function useBrush(stage: ModelStage | null, told: ((point: BrushPoint) => void) | undefined) {
  const last = useRef<{ x: number; y: number } | null>(null);
  const pointOf = (event: PointerEvent, step: BrushPoint['step']): BrushPoint => {
    const box = event.currentTarget.getBoundingClientRect();
    const face = stage?.pick(event.clientX - box.left, event.clientY - box.top) ?? null;
    return { step, face, shift: event.shiftKey, alt: event.altKey };
  };
  return {
    /** @returns whether a way begins */
    begin: (event: PointerEvent): boolean => {
      if (!told || !stage || event.button !== 0) return false;
      const point = pointOf(event, 'begin');
      if (!point.face) return false;
      stage.hold(true);
      event.currentTarget.setPointerCapture(event.pointerId);
      last.current = { x: event.clientX, y: event.clientY };
      told(point);
      return true;
    },
    go: (event: PointerEvent): boolean => {
      const from = last.current;
      if (!from) return false;
      if (Math.abs(event.clientX - from.x) + Math.abs(event.clientY - from.y) < STEP) return true;
      last.current = { x: event.clientX, y: event.clientY };
      told?.(pointOf(event, 'go'));
      return true;
    },
    end: (event: PointerEvent): boolean => {
      if (!last.current) return false;
      last.current = null;
      stage?.hold(false);
      told?.(pointOf(event, 'end'));
      return true;
    },
  };
}
