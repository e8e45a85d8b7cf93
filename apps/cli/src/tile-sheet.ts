import { InputError } from '@wembrel/core/errors';
import { type MixPart, parseMix } from '@wembrel/core/tiles/mix';
import { gutterForMip, TILE_FLIPS } from '@wembrel/core/tiles/tile-sheet';
import { makeTileSheet } from '@wembrel/runner/models/tile-sheet';
import { collectModels, collectPictures } from '@wembrel/runner/read/collect';
import { choice, helpText, type OptionSpec, parse, UsageError, type Values, whole } from './arguments.ts';
import { failedWhole, table } from './output.ts';

export const tileSheetOptions: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  name: { type: 'string', value: 'NAME', help: 'name of the sheet and its material (default "tiles")' },
  size: { type: 'string', value: 'PX', help: 'width of the sheet (default: the least power of two that holds all)' },
  height: { type: 'string', value: 'PX', help: 'its height, where it is not square' },
  cell: {
    type: 'string',
    value: 'PX',
    help: 'side of the picture in a cell; its padding comes on top (default: that of the largest picture)',
  },
  mip: { type: 'string', value: 'N', help: 'mip that the padding keeps clean (default 2); -1 for no padding' },
  around: { type: 'string', value: 'repeat|edge', help: 'what the padding shows (default repeat)' },
  sense: { type: 'string', value: 'colour|normal|data', help: 'what the pictures hold (default colour)' },
  model: { type: 'string', multiple: true, value: 'INPUT', help: 'a model whose faces take cells; repeatable' },
  mix: {
    type: 'string',
    multiple: true,
    value: 'SLOT=TILE:SHARE,…',
    help: 'tiles that the faces of a slot take, by share; a slot named like a tile takes it; repeatable',
  },
  role: {
    type: 'string',
    multiple: true,
    value: 'TILE=ROLE',
    help: 'which face of a block a tile is; known by name: kerb_top, kerb_side, kerb_bottom; repeatable',
  },
  flip: { type: 'string', multiple: true, value: 'TILE=u|v|uv', help: 'how a tile may be mirrored; repeatable' },
  turns: { type: 'boolean', help: 'faces are turned by quarters, by the seed' },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
};

function mixesFrom(values: Values): Map<string, MixPart[]> {
  const out = new Map<string, MixPart[]>();
  for (const text of (values.mix as string[] | undefined) ?? []) {
    const at = text.indexOf('=');
    if (at < 1) throw new UsageError(`--mix takes SLOT=TILE:SHARE,…, not "${text}"`);
    try {
      out.set(text.slice(0, at), parseMix(text.slice(at + 1)));
    } catch (error) {
      throw new UsageError(`--mix: ${(error as Error).message}`);
    }
  }
  return out;
}

/** What is said of tiles, "TILE=VALUE". @throws UsageError */
function saidOfTiles<V extends string>(values: Values, option: string, allowed: readonly V[] | null): Map<string, V> {
  const out = new Map<string, V>();
  for (const text of (values[option] as string[] | undefined) ?? []) {
    const at = text.lastIndexOf('=');
    const value = text.slice(at + 1) as V;
    if (at < 1 || value === '' || (allowed && !allowed.includes(value)))
      throw new UsageError(`--${option} takes ${tileSheetOptions[option].value}, not "${text}"`);
    out.set(text.slice(0, at), value);
  }
  return out;
}

/** `wembrel tile-sheet`: pictures in the cells of one sheet, its table, and faces laid onto it. */
export async function tileSheet(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, tileSheetOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel tile-sheet IMAGE… --out DIR',
        'Draws pictures into the cells of one sheet, row by row, so that one added later moves none, and writes the table of cells as\nJSON and CSV with UV rectangles in both V directions. With --model, every face of a slot takes a whole cell.',
        tileSheetOptions,
        [
          'wembrel tile-sheet slab.png cracked.png edge.png --out paving --cell 256 --mip 2',
          'wembrel tile-sheet slab.png cracked.png --out paving --model platform.glb --mix PavingSlab=slab:0.92,cracked:0.08',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('tile-sheet needs at least one picture');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('tile-sheet needs --out DIR');
  const name = typeof values.name === 'string' ? values.name : 'tiles';
  if (!/^[A-Za-z0-9][A-Za-z0-9_.-]{0,60}$/.test(name)) throw new UsageError('--name takes letters, digits, _ . -');
  const size = (option: string, min: number): number | null =>
    values[option] === undefined ? null : whole(values, option, min, min, 8192);
  const options = {
    name,
    out: values.out,
    width: size('size', 16),
    height: size('height', 16),
    cell: size('cell', 1),
    gutter: gutterForMip(whole(values, 'mip', 2, -1, 8)),
    around: choice(values, 'around', 'repeat', ['repeat', 'edge']),
    sense: choice(values, 'sense', 'colour', ['colour', 'normal', 'data']),
    mix: mixesFrom(values),
    roles: saidOfTiles<string>(values, 'role', null),
    flips: saidOfTiles(values, 'flip', TILE_FLIPS.slice(1)),
    turns: Boolean(values.turns),
    seed: whole(values, 'seed', 1, 0, 0x7fffffff),
    embed: Boolean(values.embed),
  };
  const pictures = await collectPictures(inputs);
  const found = await collectModels((values.model as string[] | undefined) ?? []);
  const problems = [...pictures.problems, ...found.problems];
  try {
    const report = await makeTileSheet({ ...options, images: pictures.textures, models: found.files });
    report.errors.unshift(...problems.map((problem) => ({ path: problem.path, message: problem.reason })));
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    process.stdout.write(
      values.json
        ? `${JSON.stringify(report, null, 2)}\n`
        : `${table([
            ['', 'cell', 'px', 'U', 'V down'],
            ...report.tiles.map((tile) => [
              tile.name,
              `${tile.column}, ${tile.row}`,
              tile.px.join(' '),
              `${tile.uv[0].toFixed(4)} … ${tile.uv[2].toFixed(4)}`,
              `${tile.uv[1].toFixed(4)} … ${tile.uv[3].toFixed(4)}`,
            ]),
          ])}\n`,
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
    await pictures.close();
    await found.close();
  }
}
