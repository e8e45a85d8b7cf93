import { InputError } from '@wembrel/core/errors';
import { makePalette } from '@wembrel/runner/models/palette';
import { collectModels } from '@wembrel/runner/read/collect';
import { choice, helpText, type OptionSpec, parse, UsageError, whole } from './arguments.ts';
import { failedWhole, progressLine, table } from './output.ts';
import { stopFlag } from './run.ts';

export const paletteOptions: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  name: { type: 'string', value: 'NAME', help: 'name of the palette and its material (default "palette")' },
  colours: { type: 'string', value: 'N', help: 'swatches at the most (default 256)' },
  swatch: { type: 'string', value: 'PX', help: 'side of a swatch (default 16)' },
  order: { type: 'string', value: 'hue|use', help: 'order of the swatches (default hue)' },
  ramp: { type: 'string', value: 'N', help: 'also a ramp of N steps for every swatch (default 0)' },
  join: { type: 'boolean', help: 'join the parts of each model, so that what shares the palette is one draw call' },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
};

/** `wembrel palette`: one palette for many models. */
export async function palette(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, paletteOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel palette INPUT… --out DIR',
        'Gathers what the faces of all models are painted with (factors, textures, vertex colours) into swatches, moves the faces onto\nthem, and gives all models one material. Faces that show more than one colour keep what they have. Writes one GLB for\neach input, the textures, and the table of swatches as JSON and CSV.',
        paletteOptions,
        [
          'wembrel palette signs/ --out pack',
          'wembrel palette props/ --out pack --colours 32 --order use --ramp 5 --join',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('palette needs at least one file or folder');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('palette needs --out DIR');
  const name = typeof values.name === 'string' ? values.name : 'palette';
  if (!/^[A-Za-z0-9][A-Za-z0-9_.-]{0,60}$/.test(name)) throw new UsageError('--name takes letters, digits, _ . -');
  const options = {
    name,
    colours: whole(values, 'colours', 256, 1, 4096),
    swatch: whole(values, 'swatch', 16, 1, 256),
    order: choice(values, 'order', 'hue', ['hue', 'use']),
    ramp: whole(values, 'ramp', 0, 0, 33),
    join: Boolean(values.join),
    embed: Boolean(values.embed),
    strict: Boolean(values.strict),
  };
  const { files, problems, close } = await collectModels(inputs);
  const line = progressLine(Boolean(values.quiet));
  try {
    const report = await makePalette({
      ...options,
      files,
      out: values.out,
      cancelled: stopFlag(),
      progress: (share, doing) => line.on({ stage: 'layout', share, doing }),
    });
    line.end();
    report.errors.unshift(...problems.map((problem) => ({ path: problem.path, message: problem.reason })));
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    const { swatches, size, meanError, maxError, faces, models } = report;
    process.stdout.write(
      values.json
        ? `${JSON.stringify(report, null, 2)}\n`
        : `${swatches.length} swatches on ${size} × ${size} px, off by ${meanError.toFixed(2)} on average, ${maxError.toFixed(2)} at most (ΔE OK × 100)\n${faces.moved} faces moved onto them, ${faces.left} kept what they have\n${table(
            [
              ['', 'slots before', 'after', 'draw calls before', 'after', 'moved', 'kept'],
              ...models.map((model) =>
                [
                  model.path,
                  model.slots.before,
                  model.slots.after,
                  model.drawCalls.before,
                  model.drawCalls.after,
                  model.moved,
                  model.left,
                ].map(String),
              ),
            ],
          )}\n`,
    );
    return report.errors.length > 0 ? 1 : 0;
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return failedWhole(
      error,
      Boolean(values.json),
      problems.map((problem) => ({ path: problem.path, message: problem.reason })),
    );
  } finally {
    line.end();
    await close();
  }
}
