import { isWorse } from '@wembrel/core/compare/fidelity';
import type { TrialLoad } from '@wembrel/runner/trial/trial-load';
import type { MergeDecisions, ResultView } from '../../contract/project.ts';
import { counted, decibels } from '../../ui/format.ts';
import { hashCheck, trialCheck } from './trial-rows.ts';
import type { DeliveryCheck } from './verdict.ts';

export interface CheckedWith {
  proof: boolean;
  /** It is still being compared with its original. */
  comparing: boolean;
  decisions: MergeDecisions;
  /** The trial load, so far as it has come; null where none is made. */
  trial: { loaded: TrialLoad | undefined; error: string | null } | null;
}

/** All that is checked of a delivery. */
export function deliveryChecks(
  result: ResultView,
  { proof, comparing, decisions, trial }: CheckedWith,
): DeliveryCheck[] {
  const named = new Set(Object.values(result.uses).flat());
  const lost = [...named].filter((use) => result.sizes[use] === undefined);
  const reread = result.after.files - result.after.failed;
  const distinct = new Set(result.written.map((name) => name.toLowerCase())).size;
  // What is invalid for any other reason is not delivered.
  const invalid = new Set(result.faults.flatMap((fault) => (fault.code === INVALID_SOURCE ? [fault.subject] : [])))
    .size;
  return [
    ['Read back', `${reread} of ${result.models.length} models`, reread === result.models.length],
    [
      'Open glTF validator',
      invalid === 0 ? 'no errors' : `${invalid} of ${result.models.length} with errors that the source has too`,
      invalid === 0,
    ],
    [
      'Nothing refers to a source',
      lost.length === 0 ? `${counted(named.size, 'texture')}, all in this folder` : `missing: ${lost.join(', ')}`,
      lost.length === 0,
    ],
    ['File names, all different', `${distinct} of ${result.written.length}`, distinct === result.written.length],
    ...namesCheck(result.faults, decisions),
    ...(trial ? [trialCheck(result.after, trial.loaded, trial.error), ...hashCheck(trial.loaded)] : []),
    likenessCheck(result.fidelity, proof, comparing),
  ];
}

/** Whether the names that are required have come out, when any are. */
function namesCheck(faults: { code: string; message: string }[], decisions: MergeDecisions): DeliveryCheck[] {
  if (decisions.requiredNames.length + decisions.requiredTextures.length === 0) return [];
  const wrong = faults.filter((fault) => fault.code === 'required name').map((fault) => fault.message);
  const said =
    wrong.length === 0
      ? 'these and no others'
      : wrong.length === 1
        ? wrong[0]
        : `${wrong.length} wrong: ${wrong[0]}, …`;
  return [['Required names', said, wrong.length === 0]];
}

/** Code of the fault of a model that is invalid since its source is; see `Fault`. */
const INVALID_SOURCE = 'invalid source';

/** Whether the result looks like its original, as one of the checks; null: not to be judged. */
function likenessCheck(fidelity: ResultView['fidelity'], proof: boolean, comparing: boolean): DeliveryCheck {
  const name = 'Fidelity, 12 views';
  if (!fidelity) return [name, comparing ? 'being compared; the files are complete' : 'not compared', null];
  const { psnr, ssim, distances } = fidelity;
  if (proof) return [name, `the final decides; the proof's worst is ${decibels(psnr)}`, null];
  const worse = distances.filter(isWorse).map(({ distance }) => `${distance} ×`);
  const said =
    worse.length > 0 ? `: not as good as the original at ${worse.join(' and ')} the distance, look at Compare` : '';
  return [name, `worst ${decibels(psnr)}, SSIM ${ssim.toFixed(4)}${said}`, worse.length === 0];
}
