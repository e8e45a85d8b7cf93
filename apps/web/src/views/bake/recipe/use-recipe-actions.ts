import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { type KeyboardEvent, useState } from 'react';
import type { ViewProps } from '../../../project/view-props.ts';
import type { PickedFace } from '../../../stage/model-stage.ts';
import { type Shown, withMovedLine, withNewLine, withNewRecipe, withoutLines } from './recipe-edits.ts';
import { andAlso, NEW_LINES } from './recipe-options.ts';
import type { RecipeHandle } from './use-recipe.ts';

const ALL: Shown = { kind: 'all' };

/** A decal that was dropped is so wide at first, and lies through so much to both sides, m. */
const DECAL = { width: 0.2, height: 0.2, depth: 0.05 };

/** Pattern of a set of pictures: what their names have in common before the last underscore, or the one name. */
export function patternOf(names: readonly string[]): string {
  const [first = ''] = names;
  if (names.length < 2) return first;
  const stem = first.replace(/_[^_]*$/, '');
  return names.every((name) => name.startsWith(`${stem}_`)) ? `${stem}_*` : first;
}

interface WantedLine {
  name: string;
  what: unknown;
  where?: Condition | null;
}

/** What comes of pictures that are dropped. */
const drops = (addLine: (wanted: WantedLine) => void, send: (files: readonly File[]) => void) => ({
  /** A picture becomes a decal where it was dropped. */
  dropDecal: (file: File, { first }: PickedFace) => {
    send([file]);
    addLine({
      name: file.name.replace(/\.[^.]+$/, ''),
      what: {
        look: { from: 'files', names: file.name },
        lay: { by: 'side', at: first.point, direction: first.normal, ...DECAL },
      },
    });
  },
  /** Pictures become a look that is laid over a whole cell. @param metres of a repeat */
  dropLook: (files: readonly File[], metres: number) => {
    const names = patternOf(files.map(({ name }) => name));
    if (names === '') return;
    send(files);
    addLine({
      name: names.replace(/[_*]*$|\.[^.]+$/, ''),
      what: { look: { from: 'files', names }, lay: { by: 'box', metres } },
    });
  },
});

/** What is done with a recipe and its lines, and which of them are selected and tried. */
export function useRecipeActions(
  handle: RecipeHandle,
  { project, edit, add }: Pick<ViewProps, 'project' | 'edit' | 'add'>,
  /** Path of a model, or a cell: what a new recipe is for. */
  on: Parameters<typeof withNewRecipe>[1],
) {
  const { recipe } = handle;
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [shown, setShown] = useState<Shown>(ALL);
  const [only] = selected.size === 1 ? [...selected] : [null];
  const line = recipe?.lines.find((one) => one.name === only) ?? null;
  const select = (name: string | null, more = false) =>
    setSelected((now) => (name === null ? new Set() : new Set(more ? [...now, name] : [name])));
  const create = (from: Partial<Recipe>) => {
    const { name } = withNewRecipe(project.decisions, on, from);
    edit(`New recipe ${name}`.slice(0, 120), (decisions) => withNewRecipe(decisions, on, from).decisions);
    handle.choose(name);
    select(null);
    setShown(ALL);
  };
  const addLine = (wanted: WantedLine) => {
    if (!recipe) return;
    const at = line ? recipe.lines.indexOf(line) + 1 : recipe.lines.length;
    const { name } = withNewLine(recipe, wanted, at);
    handle.change(`Line ${name}`, (now) => withNewLine(now, { ...wanted, name }, at).recipe);
    select(name);
  };
  const remove = (list: ReadonlySet<string>) => {
    const label = list.size === 1 ? `Remove ${[...list][0]}` : `Remove ${list.size} lines`;
    handle.change(label, (now) => withoutLines(now, list));
    select(null);
  };
  const keys = (event: KeyboardEvent, name: string): boolean => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (event.altKey && by) {
      handle.change(`Move ${name}`, (now) => withMovedLine(now, name, by));
      return true;
    }
    const { target } = event;
    const typed = target instanceof HTMLElement && target.closest('input, select, [role="slider"]');
    if (typed || event.ctrlKey || event.metaKey || event.altKey) return false;
    const key = event.key.toLowerCase();
    if (key === 'delete') remove(selected.has(name) ? selected : new Set([name]));
    else if (key === 'o') handle.changeLine(name, (now) => ({ ...now, off: !now.off }), 'On or off');
    else if (key === 'a') setShown((now) => (now.kind === 'alone' ? ALL : { kind: 'alone', line: name }));
    else if (key === 'escape') {
      select(null);
      setShown(ALL);
    } else return false;
    return true;
  };
  return {
    selected,
    select,
    shown,
    setShown,
    line,
    create,
    addLine,
    addKind: (kind: string) => {
      const found = NEW_LINES.find((one) => one.value === kind);
      if (found) addLine({ name: found.name, what: found.what });
    },
    remove,
    /** Takes a condition over into the selected line, or into a new one. */
    like: (condition: Condition) => {
      if (!line) addLine({ name: 'like here', what: { change: 'darken', by: 0.3 }, where: condition });
      else
        handle.changeLine(
          line.name,
          (now) => ({ ...now, where: andAlso(now.where, condition) }),
          'Where it is like here',
        );
    },
    onKey: (event: KeyboardEvent, name: string) => {
      if (keys(event, name)) event.preventDefault();
    },
    ...drops(addLine, (files) => add(files.map((file) => ({ path: file.name, file })))),
  };
}
