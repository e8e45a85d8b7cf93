import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { buildDressed } from '@wembrel/demo/dressed/dressed';
import { buildNewsKiosk } from '@wembrel/demo/news-kiosk';
import { buildScenario } from '@wembrel/demo/scenario';
import { helpText, type OptionSpec, parse, UsageError } from './arguments.ts';

export const demoFilesOptions: Record<string, OptionSpec> = {
  awkward: { type: 'boolean', help: 'instead small models that each have one awkwardness of real files' },
};

const inFolder = (folder: string, files: Record<string, Uint8Array>) =>
  Object.fromEntries(Object.entries(files).map(([name, bytes]) => [`${folder}/${name}`, bytes]));

/** `wembrel demo-files DIR`: writes the demo scenario, or the awkward models, as loose files. */
export async function demoFiles(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, demoFilesOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel demo-files DIR',
        'Writes the files of the demo, Quillmoor Halt, into a folder.',
        demoFilesOptions,
        ['wembrel demo-files quillmoor', 'wembrel demo-files --awkward odd'],
      ),
    );
    return 0;
  }
  if (inputs.length !== 1) throw new UsageError('demo-files needs one folder');
  const files = values.awkward
    ? Object.fromEntries(AWKWARD.map(({ name, build }) => [name, build()]))
    : { ...buildScenario(), ...inFolder('recipes', buildDressed()), 'heavy/news-kiosk.glb': buildNewsKiosk() };
  for (const [name, bytes] of Object.entries(files)) {
    const path = join(inputs[0], name);
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, bytes);
  }
  if (values.json)
    process.stdout.write(`${JSON.stringify({ written: Object.keys(files).sort(), errors: [] }, null, 2)}\n`);
  else process.stdout.write(`${Object.keys(files).length} files written to ${inputs[0]}\n`);
  return 0;
}
