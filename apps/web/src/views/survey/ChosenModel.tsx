import { useCallback, useMemo, useState } from 'react';
import type { SurveyView } from '../../contract/project.ts';
import { modelAddress, useExact } from '../../project/model-address.ts';
import { selectSlots, useModel, useSelection } from '../../project/selection.ts';
import { checkerPicture } from '../../stage/checker.ts';
import { ModelView } from '../../stage/ModelView.tsx';
import type { LitFaces } from '../../stage/placed.ts';
import { type ChosenModelProps, ModelTools } from './ModelTools.tsx';
import css from './SurveyView.module.css';

/** Longest side of the base colour that most of a model's slots read; what the checker counts in. */
function checkerTexels(survey: SurveyView, model: number): number {
  const byKey = new Map(survey.pictures.map((picture) => [picture.key, Math.max(picture.width, picture.height)]));
  const sides = survey.slots.flatMap((slot) =>
    slot.model === model ? [byKey.get(slot.images.baseColor ?? Object.values(slot.images)[0] ?? '') ?? 0] : [],
  );
  return Math.max(8, ...sides) || 1024;
}

/** The chosen model in 3D, coloured as asked. */
export function ChosenModel({ project, survey, tint, onTint, scale }: ChosenModelProps) {
  const exact = useExact((state) => state.exact);
  const model = useModel(survey);
  const slots = useSelection((selection) => selection.slots);
  const hidden = useSelection((selection) => selection.hidden);
  const [wire, setWire] = useState(false);
  const shown = survey.models[model];
  /** Position in the survey's slots by the slot's number in its file. */
  const slotAt = useMemo(
    () => new Map(survey.slots.flatMap((slot, i) => (slot.model === model ? [[slot.slot, i] as const] : []))),
    [survey, model],
  );
  const lit = useMemo<LitFaces | null>(() => {
    const out = new Map<number, 'all'>();
    for (const i of slots)
      if (survey.slots[i]?.model === model) for (const part of survey.slots[i].parts) out.set(part.part, 'all');
    return out.size > 0 ? out : null;
  }, [survey, slots, model]);
  const hiddenParts = useMemo(
    () =>
      new Set(
        [...hidden.slots].flatMap((i) =>
          survey.slots[i]?.model === model ? survey.slots[i].parts.map((part) => part.part) : [],
        ),
      ),
    [survey, hidden, model],
  );
  const colour = useCallback(
    (slot: number, part: number) => scale?.colour(slotAt.get(slot) ?? -1, part) ?? null,
    [scale, slotAt],
  );
  const checker = tint === 'checker' ? checkerPicture(checkerTexels(survey, model)) : null;
  return (
    <div className={css.picture}>
      <ModelView
        label={shown ? `3D picture of ${shown.path}` : '3D picture'}
        url={modelAddress(project, model, exact)}
        tint={scale ? colour : null}
        hidden={hiddenParts}
        wire={wire}
        map={checker}
        lit={lit}
        onPick={(face, { add }) => {
          const at = face ? slotAt.get(face.slot) : undefined;
          if (at === undefined) {
            if (!add) selectSlots([]);
          } else selectSlots([at], add ? 'toggle' : 'only');
        }}
        onKey={(k) => {
          if (k.toLowerCase() !== 'w') return false;
          setWire(!wire);
          return true;
        }}
      />
      <ModelTools
        project={project}
        survey={survey}
        tint={tint}
        onTint={onTint}
        scale={scale}
        wire={wire}
        onWire={setWire}
      />
    </div>
  );
}
