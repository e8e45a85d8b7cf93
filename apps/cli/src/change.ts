import { type CutAxes, cutAtRepeats, cutObstacle } from '@wembrel/core/cut/cut-repeats';
import { InputError } from '@wembrel/core/errors';
import { repackModel } from '@wembrel/core/layout/repack';
import { tilesApart, uvTilesOf } from '@wembrel/core/mesh/uv-tiles';
import type { Model } from '@wembrel/core/scene/model';
import { unwrapModel } from '@wembrel/core/unwrap/unwrap';
import { type Changed, changeModels } from '@wembrel/runner/models/change-models';
import { collectModels } from '@wembrel/runner/read/collect';
import { choice, helpText, type OptionSpec, parse, real, UsageError, type Values, whole } from './arguments.ts';
import { failedWhole, progressLine, table } from './output.ts';
import { stopFlag } from './run.ts';

/** A verb that changes models one by one and writes them as GLB. */
interface Verb<T extends object> {
  usage: string;
  about: string;
  options: Record<string, OptionSpec>;
  examples: string[];
  /** Reads the options. @throws UsageError */
  prepare: (
    values: Values,
  ) => (model: Model, progress: (share: number) => void, cancelled: () => boolean) => T | Promise<T>;
  /** Heads and cells of a line for people. */
  heads: string[];
  cells: (r: T) => string[];
}

const OUT: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
  slot: {
    type: 'string',
    multiple: true,
    value: 'SLOT',
    help: 'only this slot, by exact name; repeatable (default all)',
  },
};

const LAYING: Record<string, OptionSpec> = {
  size: { type: 'string', value: 'PX', help: 'side of the sheet for which the margin counts (default 1024)' },
  margin: { type: 'string', value: 'PX', help: 'least gap between islands (default 12)' },
  effort: {
    type: 'string',
    value: 'N',
    help: 'how long a tighter layout is looked for: so many rounds for up to 100 islands, fewer for more (default 6)',
  },
  together: { type: 'boolean', help: 'all slots in one 0–1 (default: one for each slot)' },
  set: { type: 'string', value: 'N', help: 'UV set that is written (default 0)' },
};

const slotsOf = (values: Values) => (values.slot as string[] | undefined) ?? [];

const laying = (values: Values) => ({
  margin: real(values, 'margin', 0, 256) ?? 12,
  effort: whole(values, 'effort', 6, 0, 100_000),
  seed: whole(values, 'seed', 1, 0, 0x7fffffff),
  set: whole(values, 'set', 0, 0, 3),
  together: Boolean(values.together),
  slots: slotsOf(values),
});

const side = (values: Values, name: string, fallback: number) => whole(values, name, fallback, 16, 8192);

const share = (v: number) => `${(v * 100).toFixed(1)} %`;

/** A verb that changes models one by one, with the options that it takes. */
export function verb<T extends object>(
  name: string,
  v: Verb<T>,
): { run: (args: string[]) => Promise<number>; options: Record<string, OptionSpec> } {
  const options = { ...OUT, ...v.options };
  const run = async (args: string[]): Promise<number> => {
    const { values, inputs } = parse(args, options);
    if (values.help) {
      process.stdout.write(helpText(v.usage, v.about, options, v.examples));
      return 0;
    }
    if (inputs.length === 0) throw new UsageError(`${name} needs at least one file or folder`);
    if (typeof values.out !== 'string' || values.out === '') throw new UsageError(`${name} needs --out DIR`);
    const change = v.prepare(values);
    const { files, problems, close } = await collectModels(inputs);
    const line = progressLine(Boolean(values.quiet));
    const cancelled = stopFlag();
    let done: Changed<T>;
    try {
      done = await changeModels<T>(
        {
          files,
          out: values.out,
          embed: Boolean(values.embed),
          strict: Boolean(values.strict),
          cancelled,
          progress: (s, doing) => line.on({ stage: 'layout', share: s, doing }),
        },
        (model, progress) => change(model, progress, cancelled),
      );
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      line.end();
      return failedWhole(
        error,
        Boolean(values.json),
        problems.map((problem) => ({ path: problem.path, message: problem.reason })),
      );
    } finally {
      line.end();
      await close();
    }
    const errors = [...problems.map((problem) => ({ path: problem.path, message: problem.reason })), ...done.errors];
    for (const error of errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    process.stdout.write(
      values.json
        ? `${JSON.stringify({ models: done.models, written: done.written, errors }, null, 2)}\n`
        : `${table([['', ...v.heads], ...done.models.map((model) => [model.path, ...v.cells(model)])])}\n`,
    );
    return errors.length > 0 ? 1 : 0;
  };
  return { run, options };
}

/** `wembrel unwrap`. */
export const unwrap = verb('unwrap', {
  usage: 'wembrel unwrap INPUT… --out DIR',
  about:
    'Cuts the surface of every model into few charts that lie flat with little stretch, nothing flipped or overlapping, and packs them.\nTextures do not follow: this is for models that are to be baked. With --set 1 --together it makes the UVs of baked light.',
  options: {
    ...LAYING,
    method: {
      type: 'string',
      value: 'charts|strips|box|planar|cylindrical',
      help: 'how the surface is laid flat; strips: rows of quads as exact rectangles (default charts)',
    },
    axis: { type: 'string', value: 'x|y|z', help: 'axis of planar and cylindrical (default y)' },
    stretch: { type: 'string', value: 'N', help: 'greatest L2 stretch of a chart (default 1.05)' },
    spread: { type: 'string', value: 'N', help: 'greatest ratio of densities in a chart (default 1.25)' },
    angle: { type: 'string', value: 'DEG', help: 'always cut where the surface bends by more (default 180: nowhere)' },
  },
  examples: [
    'wembrel unwrap hull.glb --out flat --size 2048 --margin 12',
    'wembrel unwrap halt/ --out lit --set 1 --together --size 512 --margin 4',
  ],
  prepare: (values) => {
    const options = {
      ...laying(values),
      size: side(values, 'size', 1024),
      method: choice(values, 'method', 'charts', ['charts', 'strips', 'box', 'planar', 'cylindrical']),
      axis: choice(values, 'axis', 'y', ['x', 'y', 'z']),
      stretch: real(values, 'stretch', 1.0001, 10) ?? 1.05,
      spread: real(values, 'spread', 1.0001, 100) ?? 1.25,
      cutAngle: real(values, 'angle', 1, 180) ?? 180,
    };
    return (model, progress, cancelled) => unwrapModel(model, { ...options, progress, cancelled });
  },
  heads: ['triangles', 'charts', 'stretch', 'spread', 'covered', 'px/m'],
  cells: (report) => [
    String(report.triangles),
    String(report.charts),
    report.stretch.toFixed(3),
    report.spread.toFixed(2),
    share(report.coverage),
    report.density.toFixed(0),
  ],
});

/** `wembrel pack`. */
export const repack = verb('pack', {
  usage: 'wembrel pack INPUT… --out DIR',
  about:
    'Packs the UV islands of every model anew: true shapes, holes and notches used, stacks kept. Textures do not follow; to bake\nthem as well, use merge.',
  options: {
    ...LAYING,
    height: { type: 'string', value: 'PX', help: 'height of the sheet, where it is not square' },
    rotate: { type: 'string', value: 'none|quarter|free', help: 'how islands may be turned (default free)' },
    scale: {
      type: 'string',
      value: 'relative|even',
      help: 'sizes as they are to each other, or the same px/m (default relative)',
    },
    snap: { type: 'boolean', help: 'islands stand on whole texels' },
    tiles: {
      type: 'string',
      value: 'together|apart',
      help: 'UV tiles of a slot on one sheet, or a slot in 0–1 for each tile, as its islands lie (default together)',
    },
  },
  examples: [
    'wembrel pack tram.glb --out packed --size 2048 --margin 12',
    'wembrel pack fern.glb --out packed --rotate none',
  ],
  prepare: (values) => {
    const width = side(values, 'size', 1024);
    const options = {
      ...laying(values),
      width,
      height: side(values, 'height', width),
      rotate: choice(values, 'rotate', 'free', ['none', 'quarter', 'free']),
      even: choice(values, 'scale', 'relative', ['relative', 'even']) === 'even',
      snap: Boolean(values.snap),
    };
    const apart = choice(values, 'tiles', 'together', ['together', 'apart']) === 'apart';
    return (model, progress, cancelled) => {
      const tiles = uvTilesOf(model, width);
      if (apart) return { tiles, moreSlots: tilesApart(model) };
      return { tiles, ...repackModel(model, { ...options, progress, cancelled }) };
    };
  },
  heads: ['UV tiles', 'unlike by', 'islands', 'stacked', 'before', 'covered'],
  cells: (r) => [
    String(r.tiles.reduce((sum, tile) => sum + tile.tiles.length, 0)),
    r.tiles.length > 0 ? `${Math.max(...r.tiles.map((tile) => tile.unevenness)).toFixed(2)} ×` : '–',
    ...('islands' in r
      ? [String(r.islands), String(r.stacked), share(r.before), share(r.coverage)]
      : ['–', '–', '–', '–']),
  ],
});

/** `wembrel cut-repeats`. */
export const cutRepeats = verb('cut-repeats', {
  usage: 'wembrel cut-repeats INPUT… --out DIR',
  about:
    'Cuts faces where their tiling texture begins anew and moves the pieces by whole repeats into 0–1, so that the texture can lie in a\ncell of a shared sheet. Attributes are interpolated exactly, shared edges are split on both sides.',
  options: {
    axis: { type: 'string', value: 'both|u|v', help: 'axes along which it is cut (default both)' },
  },
  examples: [
    'wembrel cut-repeats shelter.glb --out cut --slot WallTiles',
    'wembrel cut-repeats kerb.glb --out cut --axis v',
  ],
  prepare: (values) => {
    const axes = choice(values, 'axis', 'both', ['both', 'u', 'v']);
    const wanted = new Set(slotsOf(values));
    return (model) => {
      const left: { slot: string; reason: string }[] = [];
      const slots = new Map<number, CutAxes>();
      model.slots.forEach((slot, s) => {
        if (wanted.size > 0 && !wanted.has(slot.name)) return;
        const parts = model.parts.filter((part) => part.slot === s);
        const reason = cutObstacle(parts, slot.look);
        if (reason === null) slots.set(s, axes);
        else left.push({ slot: slot.name, reason });
      });
      if (wanted.size > 0 && slots.size + left.length === 0)
        throw new Error(`no slot is called ${[...wanted].map((word) => `"${word}"`).join(' or ')}`);
      const count = cutAtRepeats(model, slots);
      return { slots: slots.size, triangles: { before: count.before, after: count.after }, left };
    };
  },
  heads: ['slots', 'triangles before', 'after', 'left alone'],
  cells: (r) => [String(r.slots), String(r.triangles.before), String(r.triangles.after), String(r.left.length)],
});
