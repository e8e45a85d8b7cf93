import type { ImportedMap, ImportedMaterial, MapKind } from '../imported.ts';
import { Tokenizer } from '../tokenizer.ts';

const MAPS: Record<string, MapKind> = {
  map_kd: 'baseColor',
  map_d: 'opacity',
  map_ke: 'emissive',
  map_pr: 'roughness',
  map_pm: 'metallic',
  map_ao: 'occlusion',
  norm: 'normal',
  map_kn: 'normal',
  bump: 'bump',
  map_bump: 'bump',
};

/** How many values each option of a map statement takes. */
const OPTION_VALUES: Record<string, number> = {
  '-blendu': 1,
  '-blendv': 1,
  '-bm': 1,
  '-boost': 1,
  '-cc': 1,
  '-clamp': 1,
  '-imfchan': 1,
  '-mm': 2,
  '-texres': 1,
  '-type': 1,
};

export function plainMaterial(name: string): ImportedMaterial {
  return {
    name,
    baseColor: [0.8, 0.8, 0.8, 1],
    metallic: 0,
    roughness: 0.9,
    emissive: [0, 0, 0],
    maps: {},
  };
}

/**
 * Materials of an MTL file with the usual extension for metallic and roughness (Pm, Pr, map_Pm, map_Pr, norm). Colours are
 * taken as linear. Without Pr, the roughness comes from the exponent Ns of the highlight: √(2 / (Ns + 2)).
 */
export function readMtl(bytes: Uint8Array): ImportedMaterial[] {
  const out: ImportedMaterial[] = [];
  const rough = new Set<ImportedMaterial>();
  const scan = new Tokenizer(bytes);
  for (; scan.at < scan.end; scan.nextLine()) {
    const key = scan.word().toLowerCase();
    if (key === 'newmtl') {
      out.push(plainMaterial(scan.rest() || `material ${out.length}`));
      continue;
    }
    const importedMaterial = out[out.length - 1];
    if (!importedMaterial) continue;
    const triple = (): [number, number, number] | null => {
      const a = unit(scan.number());
      if (a === null) return null;
      const b = unit(scan.number()) ?? a;
      const c = unit(scan.number()) ?? a;
      return [a, b, c];
    };
    if (key === 'kd') {
      const c = triple();
      if (c) importedMaterial.baseColor = [...c, importedMaterial.baseColor[3]];
    } else if (key === 'ke') importedMaterial.emissive = triple() ?? importedMaterial.emissive;
    else if (key === 'd') importedMaterial.baseColor[3] = unit(scan.number()) ?? 1;
    else if (key === 'tr') importedMaterial.baseColor[3] = 1 - (unit(scan.number()) ?? 0);
    else if (key === 'pm') importedMaterial.metallic = unit(scan.number()) ?? importedMaterial.metallic;
    else if (key === 'pr') {
      importedMaterial.roughness = unit(scan.number()) ?? importedMaterial.roughness;
      rough.add(importedMaterial);
    } else if (key === 'ns') {
      const ns = scan.number();
      if (Number.isFinite(ns) && ns >= 0 && !rough.has(importedMaterial))
        importedMaterial.roughness = Math.sqrt(2 / (ns + 2));
    } else if (MAPS[key]) {
      const map = readMap(scan.rest());
      if (!map) continue;
      importedMaterial.maps[MAPS[key]] = map;
      // A map stands for the value where no factor says otherwise.
      if (key === 'map_pr') importedMaterial.roughness = 1;
      if (key === 'map_pm') importedMaterial.metallic = 1;
      if (key === 'map_kd' && importedMaterial.baseColor.slice(0, 3).every((v) => v === 0.8 || v === 0))
        importedMaterial.baseColor = [1, 1, 1, importedMaterial.baseColor[3]];
    }
  }
  return out;
}

const unit = (v: number): number | null => (Number.isFinite(v) ? Math.min(1, Math.max(0, v)) : null);

/** Options, then a file name that may hold blanks. */
function readMap(statement: string): ImportedMap | null {
  const words = statement.split(/\s+/);
  const map: ImportedMap = { file: '' };
  let at = 0;
  while (at < words.length && words[at].startsWith('-') && words[at].length > 1) {
    const option = words[at++].toLowerCase();
    if (option === '-o' || option === '-s' || option === '-t') {
      const values: number[] = [];
      while (values.length < 3 && at < words.length - 1 && words[at] !== '' && Number.isFinite(Number(words[at])))
        values.push(Number(words[at++]));
      const pair: [number, number] = [values[0] ?? (option === '-s' ? 1 : 0), values[1] ?? (option === '-s' ? 1 : 0)];
      if (option === '-o') map.offset = pair;
      if (option === '-s') map.scale = pair;
    } else {
      if (option === '-clamp') map.clamp = words[at]?.toLowerCase() === 'on';
      at += OPTION_VALUES[option] ?? 0;
    }
  }
  map.file = words.slice(at).join(' ').replace(/^"|"$/g, '');
  return map.file === '' ? null : map;
}
