import type { Recipe, RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { useEffect, useRef, useState } from 'react';
import type { BrushPoint } from '../../../stage/use-brush.ts';
import { type Decal, movedDecal, scaledDecal, turnedDecal } from './decal.ts';
import { measuredIn, nearerEndAt, stretchBetween, withStretch } from './measured-in.ts';
import { erased, marked, strokesIn, withStrokes } from './places.ts';
import type { Asked } from './use-coverage.ts';
import { useMeasured } from './use-measured.ts';
import type { RecipeHandle } from './use-recipe.ts';

/** What a press on the model does: nothing but pick, mark places, move a decal, or set the stretch of a condition. */
type HandMode = 'places' | 'decal' | 'stretch' | null;

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

/** Places are marked, decals moved and stretches set on the model itself. */
export function useByHand(
  { line, change }: { line: RecipeLine | null; change: RecipeHandle['changeLine'] },
  asked: Asked,
  recipe: Recipe | null,
): ByHand {
  const [mode, setMode] = useState<HandMode>(null);
  const [radius, setRadius] = useState(20);
  /** The line as it is while something is drawn. */
  const drawn = useRef<RecipeLine | null>(null);
  /** The value at which a stretch was begun, and whether the pointer has moved since. */
  const begun = useRef<{ value: number; moved: boolean } | null>(null);
  const name = line?.name ?? null;
  const measured = mode === 'stretch' && line?.where ? measuredIn(line.where, () => {}) : null;
  const valueAt = useMeasured(asked, recipe, measured?.value ?? null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another line ends it
  useEffect(() => {
    if (mode === 'decal' && !(line && 'look' in line.what && line.what.lay.by === 'side')) setMode(null);
    if (name === null || mode === 'stretch') setMode(null);
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
  const setStretch = ({ step, face }: BrushPoint, from: RecipeLine) => {
    if (!from.where) return;
    const value = face?.uv ? valueAt(face.uv) : null;
    const label = 'Stretch of a condition';
    if (step === 'begin') begun.current = value === null ? null : { value, moved: false };
    const start = begun.current;
    if (!start) return;
    if (step === 'go' && value !== null) {
      start.moved = true;
      const where = withStretch(from.where, (one) => stretchBetween(one, start.value, value));
      apply({ ...from, where }, label, true);
    }
    if (step !== 'end') return;
    const where = start.moved ? from.where : withStretch(from.where, (one) => nearerEndAt(one, start.value));
    apply({ ...from, where }, label, false);
    begun.current = null;
  };
  const hints: Record<'places' | 'decal' | 'stretch', string> = {
    stretch: 'Drag over what belongs to it; a click moves the nearer end. Escape ends.',
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
            else if (mode === 'stretch') setStretch(point, from);
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
