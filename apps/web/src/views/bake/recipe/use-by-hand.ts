import type { RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { useEffect, useRef, useState } from 'react';
import type { BrushPoint } from '../../../stage/use-brush.ts';
import { type Decal, movedDecal, scaledDecal, turnedDecal } from './decal.ts';
import { erased, marked, strokesIn, withStrokes } from './places.ts';
import type { RecipeHandle } from './use-recipe.ts';

/** What a press on the model does: nothing but pick, mark places, or move a decal. */
type HandMode = 'places' | 'decal' | null;

export interface ByHand {
  mode: HandMode;
  /** What the pointer does now, in words. */
  hint: string | null;
  markPlaces: (line: string) => void;
  setMode: (mode: HandMode) => void;
  onBrush: ((point: BrushPoint) => void) | undefined;
  onKey: (key: string) => boolean;
  /** mm */
  radius: number;
  setRadius: (mm: number) => void;
}

/** Places are marked and decals moved on the model itself. */
export function useByHand({ line, change }: { line: RecipeLine | null; change: RecipeHandle['changeLine'] }): ByHand {
  const [mode, setMode] = useState<HandMode>(null);
  const [radius, setRadius] = useState(20);
  /** The line as it is while something is drawn. */
  const drawn = useRef<RecipeLine | null>(null);
  const name = line?.name ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another line ends it
  useEffect(() => {
    if (mode === 'decal' && !(line && 'look' in line.what && line.what.lay.by === 'side')) setMode(null);
    if (name === null) setMode(null);
  }, [name]);
  const apply = (next: RecipeLine, label: string, trial: boolean) => {
    drawn.current = trial ? next : null;
    change(next.name, (now) => ({ ...now, where: next.where, what: next.what }), label, trial);
  };
  const mark = ({ step, face, shift, alt }: BrushPoint, from: RecipeLine) => {
    const points = strokesIn(from.where)?.points ?? [];
    const label = alt ? 'Take places away' : 'Mark places';
    const at = face?.first.point;
    if (step === 'end' || !at) {
      if (step === 'end') apply(from, label, false);
      return;
    }
    const joined = step === 'go' || shift;
    const next = alt ? erased(points, at, radius) : marked(points, at, radius, joined);
    apply({ ...from, where: withStrokes(from.where, next) }, label, true);
  };
  const moveDecal = ({ step, face, shift, alt }: BrushPoint, from: RecipeLine) => {
    if (!('look' in from.what) || from.what.lay.by !== 'side') return;
    const label = shift ? 'Size of a decal' : alt ? 'Turn of a decal' : 'Place of a decal';
    if (step === 'end' || !face) {
      if (step === 'end') apply(from, label, false);
      return;
    }
    const { point, normal } = face.first;
    const decal: Decal = from.what.lay;
    const lay = shift ? scaledDecal(decal, point) : alt ? turnedDecal(decal, point) : movedDecal(decal, point, normal);
    apply({ ...from, what: { ...from.what, lay } }, label, true);
  };
  const hints: Record<'places' | 'decal', string> = {
    places: 'Draw on the model. Shift joins, Alt takes away, [ ] radius, Escape ends.',
    decal: 'Drag on the model. Shift scales, Alt turns, Escape ends.',
  };
  return {
    mode,
    hint: mode && hints[mode],
    setMode,
    markPlaces: (of) => {
      if (of === name) setMode('places');
    },
    onBrush:
      mode && line
        ? (point) => {
            const from = drawn.current ?? line;
            if (mode === 'places') mark(point, from);
            else moveDecal(point, from);
          }
        : undefined,
    onKey: (key) => {
      if (key === 'Escape' && mode) setMode(null);
      else if (key === '[') setRadius((mm) => Math.max(0.5, Number((mm / 1.25).toPrecision(3))));
      else if (key === ']') setRadius((mm) => Math.min(1e5, Number((mm * 1.25).toPrecision(3))));
      else return false;
      return true;
    },
    radius,
    setRadius,
  };
}
