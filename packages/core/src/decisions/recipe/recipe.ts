import { z } from 'zod';
import { ID_KINDS } from '../ray-decisions.ts';
import { Condition, conditionLeaves, Direction, HexColour } from './condition.ts';
import { What } from './look.ts';

const BLEND_MODES = ['replace', 'multiply', 'add', 'lighten', 'darken'] as const;
export type BlendMode = (typeof BLEND_MODES)[number];

/** How what a line brings meets what is there. */
const How = z.strictObject({
  mode: z.enum(BLEND_MODES).default('replace'),
  strength: z.number().min(0).max(1).default(1),
  /**
   * `detail`: the look's normals take the place of what earlier lines laid, over the shape that was baked. `combine`: they come on top of both (by reorientation, Barré-Brisebois & Hill
   * 2012). `replace`: they take the place of both.
   */
  normals: z.enum(['detail', 'combine', 'replace']).default('detail'),
  /** Raised by so many mm where the line lies, or as the height of its look says; sunk where negative. */
  relief: z
    .strictObject({ depth: z.number().min(-1e6).max(1e6), from: z.enum(['mask', 'height']).default('mask') })
    .nullable()
    .default(null),
  /** What lies there casts a shadow beside itself. */
  shadow: z
    .strictObject({
      /** Which way it falls, along the surface. */
      towards: Direction.default([0, -1, 0]),
      /** mm */
      distance: z.number().min(0).max(1e6),
      /** Width over which its border fades, mm. */
      soft: z.number().min(0).max(1e6).default(0),
      strength: z.number().min(0).max(1).default(0.5),
    })
    .nullable()
    .default(null),
});
export type How = z.infer<typeof How>;

/** One sentence of a recipe: what, where, how. */
export const RecipeLine = z.strictObject({
  name: z.string().trim().min(1).max(120),
  /** It is left out. */
  off: z.boolean().default(false),
  what: What,
  /** Null: everywhere. */
  where: Condition.nullable().default(null),
  how: How.prefault({}),
});
export type RecipeLine = z.infer<typeof RecipeLine>;

/** What a cell looks like under all lines, where nothing is read for it. */
const Ground = z.strictObject({
  color: HexColour.default('#808080'),
  roughness: z.number().min(0).max(1).default(0.6),
  metallic: z.number().min(0).max(1).default(0),
});

/** How the maps are baked that conditions read; null: as a ray bake has them by itself. */
const Inputs = z.strictObject({
  /** Radius whose curvature counts as full, mm; the smaller, the narrower are worn edges. */
  curvature: z.number().gt(0).max(1e7).nullable().default(null),
  /** How far AO looks, mm. */
  ao: z.number().gt(0).max(1e7).nullable().default(null),
  /** What counts as thick, mm. */
  thickness: z.number().gt(0).max(1e7).nullable().default(null),
  /** What ID colours tell apart. */
  ids: z.enum(ID_KINDS).default('material'),
});

/** How a surface or a cell gets its look: lines from the first to the last. A file of its own, as `wembrel recipe schema` describes it. */
export const Recipe = z
  .strictObject({
    recipe: z.literal(1),
    name: z.string().trim().min(1).max(120),
    /** Conditions that several lines share, by name. */
    conditions: z.record(z.string().min(1).max(120), Condition).default({}),
    inputs: Inputs.prefault({}),
    ground: Ground.nullable().default(null),
    lines: z.array(RecipeLine).max(500, 'at most 500 lines').default([]),
  })
  .superRefine((recipe, context) => {
    const names = new Set<string>();
    const fail = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
    recipe.lines.forEach((line, i) => {
      if (names.has(line.name)) fail(['lines', i, 'name'], `two lines are called "${line.name}"`);
      names.add(line.name);
      for (const name of line.where ? conditionLeaves(line.where).uses : [])
        if (!recipe.conditions[name]) fail(['lines', i, 'where'], `the recipe has no condition called "${name}"`);
    });
    for (const [name, condition] of Object.entries(recipe.conditions))
      if (conditionLeaves(condition).uses.length > 0)
        fail(['conditions', name], 'a shared condition does not use another one');
  });
export type Recipe = z.infer<typeof Recipe>;
