import type { TrialLoad } from '@wembrel/runner/trial/trial-load';
import type { ResultView } from '../../contract/project.ts';
import type { TrialScene } from '../../stage/trial-scene.ts';
import { bytes, count, counted } from '../../ui/format.ts';
import type { DeliveryCheck } from './verdict.ts';

/** A count of the bill beside what was loaded, and what the 3D library drew. */
export interface TrialRow {
  label: string;
  bill: string;
  loaded: string;
  /** Empty where the library does not count it, or has not drawn yet. */
  drawn: string;
  agrees: boolean;
}

/** The counts of a trial beside those of the bill. */
export function trialRows(after: ResultView['after'], trial: TrialLoad, scene: TrialScene | null): TrialRow[] {
  const row = (label: string, [bill, loaded, drawn]: (number | undefined)[], shown = count): TrialRow => ({
    label,
    bill: shown(bill ?? 0),
    loaded: shown(loaded ?? 0),
    drawn: drawn === undefined ? '' : shown(drawn),
    agrees: bill === loaded && (drawn === undefined || drawn === bill),
  });
  return [
    row('Draw calls', [after.drawCalls, trial.drawCalls, scene?.drawCalls]),
    row('Triangles', [after.triangles, trial.triangles, scene?.triangles]),
    row('Materials', [after.slots, trial.materials]),
    row('Textures', [after.textures, trial.textures]),
    row('Memory, uncompressed', [after.textureBytes.rgba8, trial.gpuBytes], bytes),
  ];
}

/** The trial as one of the checks of a delivery. */
export function trialCheck(
  after: ResultView['after'],
  trial: TrialLoad | undefined,
  error: string | null,
): DeliveryCheck {
  const name = 'Trial load';
  if (error !== null) return [name, error, false];
  if (!trial) return [name, 'loading the files as an engine would …', null];
  const off = trialRows(after, trial, null).filter((row) => !row.agrees);
  const { problems } = trial;
  if (problems.length > 0)
    return [name, `${counted(problems.length, 'problem')}: ${problems[0].file}: ${problems[0].text}`, false];
  if (off.length > 0)
    return [name, `not as the bill says: ${off.map((row) => row.label.toLowerCase()).join(', ')}`, false];
  return [name, `${counted(trial.models.length, 'model')}; all counts as the bill says`, true];
}

/** Whether the files are those of the manifest, as one of the checks; null where there is no list to hold them against. */
export function hashCheck(trial: TrialLoad | undefined): DeliveryCheck[] {
  if (!trial?.verified) return [];
  const { good, of } = trial.verified;
  return [['SHA-256 of each file', `${good} of ${of} as the manifest says`, good === of]];
}
