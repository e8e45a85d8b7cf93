import { createHash } from 'node:crypto';
import { copyFile, link, mkdir, readdir, readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { canonicalJson } from '@wembrel/core/canonical-json';
import type { PairingDecision, RaySettings } from '@wembrel/core/decisions/ray-decisions';
import type { RayResultView, RaySheetView } from '../../../contract/project.ts';
import type { JobOrder } from '../job-message.ts';

/** Changes whenever a bake would give other bytes than before. */
const MAKING = 6;

/** One text for all that the maps of a sheet are made from. @param seen pairings that it sees without baking them */
export function sheetStamp(
  order: JobOrder,
  settings: RaySettings,
  pairings: readonly PairingDecision[],
  seen: readonly PairingDecision[],
): string {
  const named = new Set(
    [...pairings, ...seen].flatMap((pairing) =>
      [...pairing.high, ...pairing.low, pairing.cage, pairing.surface].flatMap((object) =>
        object ? [object.path] : [],
      ),
    ),
  );
  const { reading, faces } = order.decisions;
  const files = order.files.filter((file) => named.has(file.name)).map(({ name, path }) => [name, path]);
  // What lies beside models may be part of them: their other files, and pictures that find their slots by their names.
  const models = new Set(order.files.map((file) => file.path));
  const beside = Object.entries(order.files[0]?.siblings ?? {}).filter(([, path]) => !models.has(path));
  const { kind, region } = order;
  const all = { making: MAKING, kind, region, settings, pairings, seen, reading, faces, files, beside };
  return createHash('sha256').update(canonicalJson(all)).digest('hex').slice(0, 24);
}

/** Files of sheet `from` in a job's folder, as they are called there and as sheet `to` of another job. */
async function filesOf(folder: string, sheet: RaySheetView, from: number, to: number): Promise<[string, string][]> {
  const views = await readdir(join(folder, 'views'));
  const top = await readdir(folder);
  return [
    ...[sheet.model, ...sheet.levels, ...sheet.maps.map((map) => map.file)].map((name): [string, string] => [
      `delivery/${name}`,
      `delivery/${name}`,
    ]),
    ...views
      .filter((view) => view.startsWith(`${from}-`))
      .map((view): [string, string] => [`views/${view}`, `views/${to}-${view.slice(`${from}-`.length)}`]),
    ...top
      .filter((name) => name === `texels-${from}.bin` || name.startsWith(`scene-${from}-`))
      .map((name): [string, string] => [name, name.replace(`-${from}`, `-${to}`)]),
  ];
}

/**
 * Takes a sheet over from an earlier bake of the project that was made from the same.
 * @param index of the sheet in this bake @returns what was said of it, or null when there is none
 */
export async function takeOver(
  order: JobOrder,
  stamp: string,
  name: string,
  index: number,
): Promise<RaySheetView | null> {
  for (const folder of order.earlier) {
    const text = await readFile(join(folder, 'rays.json'), 'utf8').catch(() => null);
    const sheets = text ? (JSON.parse(text) as RayResultView).sheets : [];
    const from = sheets.findIndex((sheet) => sheet.stamp === stamp && sheet.name === name);
    if (from < 0) continue;
    const sheet = sheets[from];
    for (const [a, b] of await filesOf(folder, sheet, from, index)) {
      const target = join(order.folder, b);
      await mkdir(dirname(target), { recursive: true });
      // The same file under a second name, where that can be.
      await link(join(folder, a), target).catch(() => copyFile(join(folder, a), target));
    }
    const renamed = (view: string) => `${index}-${view.slice(`${from}-`.length)}`;
    return {
      ...sheet,
      maps: sheet.maps.map((map) => ({ ...map, view: renamed(map.view) })),
      faultPicture: renamed(sheet.faultPicture),
    };
  }
  return null;
}
