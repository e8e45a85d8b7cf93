import type { MergeDecisions } from '../decisions/decisions.ts';
import { fitsPattern } from '../decisions/patterns.ts';
import { classSuffix } from '../plan/class-names.ts';
import type { PlanSlot } from './plan-slot.ts';
import type { Prediction } from './predict.ts';

/** Names that slots and textures bear when they are handed over. */
export interface OutputNames {
  slots: string[];
  /** File names without folder and ending. */
  textures: string[];
}

/** One thing that is wrong with names that were required. */
export interface NameProblem {
  of: 'slot' | 'texture';
  /** The name that no requirement fits, or the requirement that no name fits. */
  name: string;
  message: string;
}

type Required = Pick<MergeDecisions, 'requiredNames' | 'requiredTextures'>;

/** The names that a plan brings forth; those of textures that stay with slots kept apart are not known before they are written. */
export function plannedNames(
  slots: readonly PlanSlot[],
  prediction: Pick<Prediction, 'flows' | 'sheets'>,
  decisions: Pick<MergeDecisions, 'sheets'>,
): OutputNames {
  const classes = [...new Set(prediction.flows.flatMap((flow) => (flow.sheet < 0 ? [] : [slots[flow.slot].classKey])))];
  const names = new Set<string>();
  for (const flow of prediction.flows) {
    const planSlot = slots[flow.slot];
    names.add(
      flow.sheet < 0 ? planSlot.name : decisions.sheets[flow.sheet].name + classSuffix(planSlot.classKey, classes),
    );
  }
  const textures = decisions.sheets.flatMap((sheet, i) =>
    prediction.sheets[i].maps.map((map) => `${sheet.name}_${map.map}`),
  );
  return { slots: [...names], textures };
}

/** A name as it stands in a file's name: what is not letter, digit, `.`, `_` or `-` is `_` there. */
const fileForm = (pattern: string): string => pattern.replace(/[^\p{L}\p{N}._*-]+/gu, '_');

/**
 * Holds names against those required: each requirement has to be met, and each name has to meet one.
 * @param whole all textures are known, so that one that is missing is missing
 */
export function nameProblems(required: Required, names: OutputNames, whole: boolean): NameProblem[] {
  const out: NameProblem[] = [];
  const hold = (of: NameProblem['of'], wanted: readonly string[], found: readonly string[], known: boolean) => {
    if (wanted.length === 0) return;
    for (const name of found)
      if (!wanted.some((word) => fitsPattern(name, word)))
        out.push({ of, name, message: `the ${of} "${name}" bears no required name` });
    if (!known) return;
    for (const word of wanted)
      if (!found.some((name) => fitsPattern(name, word)))
        out.push({ of, name: word, message: `no ${of} is called "${word}", as is required` });
  };
  hold('slot', required.requiredNames, names.slots, true);
  hold('texture', required.requiredTextures.map(fileForm), names.textures.map(fileForm), whole);
  return out;
}
