import type { SingleCondition } from '../decisions/recipe/condition.ts';
import type { RecipeChannel } from '../decisions/recipe/look.ts';
import type { Recipe, RecipeLine } from '../decisions/recipe/recipe.ts';
import { hexOf } from '../image/hex.ts';
import { byName } from './conditions/by-triangle.ts';
import { chosenIds, meantId } from './inputs/id-picture.ts';
import type { RecipeInputs } from './inputs/input-maps.ts';
import { activeLines, colourCode, lineConditions, needsSurface } from './inputs/needs.ts';
import type { LookData } from './looks/look-data.ts';
import type { RecipeSurface } from './surface.ts';

/** Something that a line asks for and the model does not have; the line is left out, or goes on without it. */
export interface RecipeProblem {
  line: string;
  message: string;
  /** The line is not evaluated. */
  leftOut: boolean;
}

/** Looks by the number of their line; a text says why one could not be read. */
export type FoundLooks = Readonly<Record<number, LookData | string>>;

/** Which lines can be evaluated, and what is missing of the others. */
export interface PreparedLines {
  lines: number[];
  looks: Record<number, LookData>;
  problems: RecipeProblem[];
}

/** @param missing pictures that could not be read, by file: why */
export function prepareLines(
  recipe: Recipe,
  surface: RecipeSurface,
  found: FoundLooks,
  inputs: RecipeInputs,
  missing: ReadonlyMap<string, string>,
): PreparedLines {
  const out: PreparedLines = { lines: [], looks: {}, problems: [] };
  recipe.lines.forEach((line, number) => {
    if (line.off) return;
    const say = (message: string, leftOut = false) => out.problems.push({ line: line.name, message, leftOut });
    const stop = stopOf(recipe, line, surface, missing);
    if (stop) {
      say(stop, true);
      return;
    }
    if ('look' in line.what) {
      const look = found[number];
      if (look === undefined || typeof look === 'string') {
        say(look ?? 'its look was not read', true);
        return;
      }
      out.looks[number] = look;
      for (const message of lookProblems(line, look, surface)) say(message);
    }
    for (const single of lineConditions(recipe, line)) {
      const message = emptyCondition(single, surface, inputs);
      if (message) say(message);
    }
    out.lines.push(number);
  });
  return out;
}

/** Why a line cannot be evaluated here, or null. */
function stopOf(
  recipe: Recipe,
  line: RecipeLine,
  surface: RecipeSurface,
  missing: ReadonlyMap<string, string>,
): string | null {
  if (surface.wraps) {
    const why = needsSurface(recipe, line);
    if (why) return why;
  }
  for (const single of lineConditions(recipe, line)) {
    const picture = single.of === 'mask' || single.of === 'id' ? single.picture : null;
    const why = picture === null ? undefined : missing.get(picture);
    if (why) return `${picture}: ${why}`;
  }
  return null;
}

function lookProblems(line: RecipeLine, look: LookData, { wraps }: RecipeSurface): string[] {
  if (!('look' in line.what)) return [];
  const { lay, channels } = line.what;
  const lacking = (channels ?? []).filter((channel) => !look.channels.includes(channel));
  const out = lacking.map((channel) => `${look.name} has no ${channel}, and none is laid`);
  if (wraps && 'turn' in lay && 'offset' in lay && lay.turn % 90 !== 0)
    out.push(`turned by ${lay.turn}° it does not go on at the opposite edge of the cell; quarter turns do`);
  const breakUp = 'breakUp' in lay ? lay.breakUp : null;
  if (breakUp?.by === 'courses' && !look.courses) out.push(`${look.name} has no courses that could be moved`);
  return out;
}

/** What is said of a condition that nothing fulfils for want of a name, or null. */
function emptyCondition(single: SingleCondition, surface: RecipeSurface, inputs: RecipeInputs): string | null {
  if (single.of === 'slot' || single.of === 'part' || single.of === 'model' || single.of === 'group') {
    if (byName(surface, single.of, single.names).includes(1)) return null;
    const names = namesOf(surface, single.of);
    const some = names.slice(0, 6).join(', ');
    const there = names.length === 0 ? 'there is none' : `there ${names.length === 1 ? 'is' : 'are'} ${some}`;
    return `no ${single.of} is called ${single.names.map((name) => `"${name}"`).join(' or ')}; ${there}`;
  }
  if (single.of !== 'id') return null;
  const ids = inputs.ids[single.picture ?? ''];
  if (!ids) return 'there is no ID map';
  const lost = single.colours.filter((hex) => meantId(ids.colours, colourCode(hex)) === null);
  const unknown = single.names.filter((name) => chosenIds(ids, { colours: [], names: [name] }).size === 0);
  if (unknown.length > 0) {
    const there = ids.colours.flatMap((code) => ids.names[code] ?? []).slice(0, 8);
    return `no ID is called "${unknown.join('", "')}"; there are ${there.join(', ') || 'none with a name'}`;
  }
  if (lost.length === 0) return null;
  const there = ids.colours.slice(0, 8).map((code) => hexOf([code & 255, (code >> 8) & 255, code >> 16]));
  return `no ID has the colour ${lost.join(', ')}; there are ${there.join(', ')}`;
}

function namesOf(surface: RecipeSurface, of: 'slot' | 'part' | 'model' | 'group'): string[] {
  const { parts, groups } = surface;
  if (of === 'group') return [...groups];
  const key = of === 'slot' ? 'slot' : of === 'part' ? 'name' : 'model';
  return [...new Set(parts.map((part) => part[key]))];
}

/** Channels that a line lays of a look: those that are asked for, as far as it has them; else all of it except alpha. */
export const laidChannels = (asked: readonly RecipeChannel[] | null, look: LookData): RecipeChannel[] =>
  look.channels.filter((channel) => asked?.includes(channel) ?? channel !== 'alpha');

/** Channels that a recipe writes: what a sheet needs maps for. */
export function writtenChannels(recipe: Recipe, looks: Readonly<Record<number, LookData>>): Set<RecipeChannel> {
  const out = new Set<RecipeChannel>();
  for (const line of activeLines(recipe)) {
    const look = looks[recipe.lines.indexOf(line)];
    if (line.how.relief) out.add('normal');
    if (line.how.shadow) out.add('color');
    if (!('look' in line.what)) continue;
    if (look) for (const channel of laidChannels(line.what.channels, look)) out.add(channel);
  }
  return out;
}
