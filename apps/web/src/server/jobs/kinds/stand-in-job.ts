import { stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { chosenProfiles } from '@wembrel/core/decisions/profiles';
import { standInOf } from '@wembrel/core/decisions/stand-in';
import { InputError } from '@wembrel/core/errors';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { makeStandIns } from '@wembrel/runner/stand-in/make';
import type { StandInResultView } from '../../../contract/project.ts';
import type { Emit, JobOrder } from '../job-message.ts';

/** Makes the stand-in of one model of a project, as is decided for it. */
export async function makeStandIn(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const { decisions, folder, sheet: path } = order;
  const file = order.files.find((one) => one.name === path);
  if (!path || !file) throw new InputError(path ?? 'stand-in', 'the project holds no such model any more');
  const spec = standInOf(decisions.standIns, path);
  const proof = order.kind === 'stand-in-proof';
  const out = join(folder, 'delivery');
  const report = await makeStandIns(
    {
      files: [file],
      out,
      spec,
      embed: false,
      profiles: chosenProfiles(decisions.profiles),
      proof,
      compare: true,
      reading: decisions.reading,
      faces: decisions.faces,
      strict: true,
      onProgress: ({ share, doing }) => emit({ type: 'progress', share, doing }),
    },
    scope,
  );
  const sizes: Record<string, number> = {};
  for (const name of report.written) sizes[name] = (await stat(join(out, name))).size;
  const [model] = report.models;
  const view: StandInResultView = { spec, proof, model, seconds: report.seconds, faults: report.faults, sizes };
  await writeFile(join(folder, 'stand-in.json'), JSON.stringify(view));
}
