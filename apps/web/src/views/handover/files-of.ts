import type { ResultView } from '../../contract/project.ts';

/** Whether a file was written for a profile. */
const isOfProfile = (name: string): boolean => name.startsWith('profiles/');

/** What a proof says of the final: maps have sixteen times its texels, all else is the same. */
export function expectedSizes(result: ResultView, proof: boolean): Record<string, number> {
  const maps = new Set(result.sheets.flatMap((sheet) => Object.values(sheet.maps)));
  return Object.fromEntries(
    Object.entries(result.sizes).map(([name, size]) => [
      name,
      proof && (maps.has(name) || isOfProfile(name)) ? size * 16 : size,
    ]),
  );
}

const OWN_FILES: Record<string, string> = {
  'manifest.json': 'sheets, bays, UV rectangles, which slot went where, SHA-256 of all files',
  'report.json': 'figures before and after',
  'fidelity.json': 'fidelity of the 12 views',
};

/** What a file of a delivery is. */
export function fileTitle(name: string, result: Pick<ResultView, 'sheets'>): string {
  if (OWN_FILES[name]) return OWN_FILES[name];
  if (name.startsWith('collision/')) return 'collision shapes of a model';
  if (name.endsWith('.glb')) return 'model';
  const copy = /\.(gltf|bin|obj|mtl)$/.exec(name)?.[1];
  if (copy) return `model as ${copy === 'gltf' || copy === 'bin' ? 'glTF with side files' : 'OBJ and MTL'}`;
  if (isOfProfile(name)) return 'image of a profile';
  const map = result.sheets.some((sheet) => Object.values(sheet.maps).includes(name));
  return map ? 'map of a sheet' : 'texture of a slot that is kept apart';
}

/** Files by their folders, '' for those in none. */
export function byFolder(names: readonly string[]): Map<string, string[]> {
  const out = new Map<string, string[]>();
  for (const name of names) {
    const cut = name.lastIndexOf('/');
    const folder = cut < 0 ? '' : name.slice(0, cut + 1);
    out.set(folder, [...(out.get(folder) ?? []), name]);
  }
  return out;
}
