import { readFile } from 'node:fs/promises';
import { chosenProfiles, Profile, type ProfileChoice, SHIPPED_PROFILES } from '@wembrel/core/decisions/profiles';
import { sentence } from '@wembrel/core/errors';
import { channelTexts, IMAGE_ENDINGS, imageName } from '@wembrel/core/handover/profile-images';
import { z } from 'zod';
import { choice, helpText, type OptionSpec, parse, UsageError, type Values } from './arguments.ts';

export const PROFILES: Record<string, OptionSpec> = {
  profile: {
    type: 'string',
    multiple: true,
    value: 'NAME|FILE',
    help: 'also write the images of a convention, into profiles/NAME; may be given several times (see `wembrel profile list`)',
  },
  'normal-y': { type: 'string', value: 'up|down', help: 'down: also write normal maps whose Y points down' },
};

const NORMAL_DOWN = 'normal-y-down';

/** The profiles that options name. @throws UsageError for a name or a file that is none */
export async function profilesFrom(values: Values): Promise<ProfileChoice[]> {
  const asked = (values.profile as string[] | undefined) ?? [];
  const choices = await Promise.all(asked.map((name) => (isFile(name) ? profileFile(name) : name)));
  const down = choice(values, 'normal-y', 'up', ['up', 'down']) === 'down';
  const all = down && !asked.includes(NORMAL_DOWN) ? [...choices, NORMAL_DOWN] : choices;
  try {
    chosenProfiles(all);
  } catch (error) {
    throw new UsageError(`--profile: ${sentence(error)}`);
  }
  return all;
}

const isFile = (name: string): boolean => /\.json$/i.test(name);

async function profileFile(path: string): Promise<Profile> {
  let text: unknown;
  try {
    text = JSON.parse(await readFile(path, 'utf8'));
  } catch (error) {
    throw new UsageError(`--profile ${path}: ${sentence(error)}`);
  }
  const parsed = Profile.safeParse(text);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new UsageError(`--profile ${path}: ${issue.path.join('.') || 'the file'}: ${issue.message}`);
}

const WAYS = ['list', 'show', 'schema'] as const;

/** `wembrel profile`: conventions for handing over. */
export async function profile(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, {});
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel profile list | show NAME | schema',
        'Lists the conventions that `merge --profile` knows, prints one as a file to begin an own one with, or the JSON Schema of such files.',
        {},
        ['wembrel profile list', 'wembrel profile show metallic-smoothness > own.json', 'wembrel profile schema'],
      ),
    );
    return 0;
  }
  const [way, name] = inputs;
  if (way === 'schema') process.stdout.write(`${JSON.stringify(z.toJSONSchema(Profile, { io: 'input' }), null, 2)}\n`);
  else if (way === 'show') process.stdout.write(`${JSON.stringify(shipped(name), null, 2)}\n`);
  else if (way === 'list')
    process.stdout.write(
      values.json
        ? `${JSON.stringify({ profiles: SHIPPED_PROFILES }, null, 2)}\n`
        : SHIPPED_PROFILES.map(told).join('\n'),
    );
  else throw new UsageError(`profile takes ${WAYS.join(', ')}`);
  return 0;
}

function shipped(name: string | undefined): Profile {
  try {
    if (name === undefined) throw new Error('a name is needed');
    return chosenProfiles([name])[0];
  } catch (error) {
    throw new UsageError(sentence(error));
  }
}

/** A profile with what each of its files carries. */
function told(one: Profile): string {
  const rows = one.images.map((image) => [
    `  ${imageName(image, 'SHEET')}${IMAGE_ENDINGS[image.format]}`,
    `${image.space === 'srgb' ? 'sRGB' : 'linear'}:`,
    Object.entries(channelTexts(image, one))
      .map(([channel, text]) => `${channel} ${text}`)
      .join(', '),
  ]);
  const widths = [0, 1].map((c) => Math.max(...rows.map((row) => row[c].length)));
  const lines = rows.map(([file, space, text]) => `${file.padEnd(widths[0])}  ${space.padEnd(widths[1])} ${text}\n`);
  return `${one.name}: ${one.title}\n${lines.join('')}`;
}
