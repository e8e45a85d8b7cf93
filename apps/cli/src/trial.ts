import { resolve } from 'node:path';
import { type TrialLoad, trialLoad } from '@wembrel/runner/trial/trial-load';
import { helpText, parse, UsageError } from './arguments.ts';
import { count, progressLine, size, table } from './output.ts';
import { jobScope, watchSignals } from './run.ts';

/** `wembrel trial`: loads a delivery as an engine would. */
export async function trial(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, {});
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel trial DIR [--json]',
        'Loads what was handed over as an engine would: from its folder alone, every model and every image that they use. Counts draw\ncalls, materials, textures and bytes on the GPU (PNG and WebP uncompressed, with mips), verifies the SHA-256 of each file in the\nmanifest, and says what is missing, unreadable or ambiguous. Exit code 1 where there are problems.',
        {},
        ['wembrel trial delivery/', 'wembrel trial delivery/ --json'],
      ),
    );
    return 0;
  }
  if (inputs.length !== 1) throw new UsageError('trial takes one folder');
  const progress = progressLine(Boolean(values.quiet));
  const scope = jobScope(values);
  watchSignals(scope);
  const loaded = await trialLoad(resolve(inputs[0]), {
    onModel: (share, file) => progress.on({ stage: 'read', share, doing: `loading ${file}` }),
    checkpoint: () => scope.checkpoint(),
  });
  progress.end();
  for (const { file, text } of loaded.problems) process.stderr.write(`${file}: ${text}\n`);
  process.stdout.write(values.json ? `${JSON.stringify(loaded, null, 2)}\n` : human(loaded));
  return loaded.problems.length > 0 ? 1 : 0;
}

function human(loaded: TrialLoad): string {
  const { models, verified, problems } = loaded;
  const rows = [
    ['model', 'draw calls', 'triangles', 'materials', 'textures', 'memory'],
    ...models.map((model) => [
      model.file,
      count(model.drawCalls),
      count(model.triangles),
      count(model.materials),
      count(model.textures),
      size(model.gpuBytes),
    ]),
    [
      'total',
      count(loaded.drawCalls),
      count(loaded.triangles),
      count(loaded.materials),
      count(loaded.textures),
      size(loaded.gpuBytes),
    ],
  ];
  const files = verified ? `${verified.good} of ${verified.of} files as the manifest describes them` : 'no manifest';
  const said =
    problems.length === 0 ? 'no problems' : `${problems.length} ${problems.length === 1 ? 'problem' : 'problems'}`;
  return `${table(rows)}\n\n${files}; ${said}\n`;
}
