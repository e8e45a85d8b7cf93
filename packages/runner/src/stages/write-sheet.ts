import { basename } from 'node:path';
import { constantOf } from '@wembrel/core/bake/constant-maps';
import type { SheetDecision, SheetMap } from '@wembrel/core/decisions/sheets';
import type { MapFile, SheetFiles } from '@wembrel/core/handover/materials';
import { round } from '@wembrel/core/handover/round';
import { srgbToLinear } from '@wembrel/core/image/srgb';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import type { JobScope } from '../pool/job-scope.ts';
import type { TextureFiles } from '../write/write-models.ts';
import type { BakedSheet } from './bake.ts';

export function mapPaths(sheetFiles: SheetFiles): Record<string, string> {
  return Object.fromEntries(
    Object.entries(sheetFiles.maps).flatMap(([kind, file]) => (file ? [[kind, file.uri]] : [])),
  );
}

/** Encodes the maps of a sheet; with `textures` they become files, without they are only embedded. */
export async function writeSheet(
  decision: SheetDecision,
  sheet: BakedSheet,
  occlusion: boolean,
  textures: TextureFiles | null,
  scope: JobScope,
): Promise<SheetFiles> {
  const { maps, needs } = sheet;
  const { name } = decision;
  const put = async (map: SheetMap, data: Uint8Array, channels: 3 | 4): Promise<MapFile> => {
    const by = decision.maps[map] === 'off' ? 1 : (decision.maps[map] as number);
    const sense = map === 'normal' ? 'normal' : map === 'orm' ? 'data' : 'colour';
    const bytes = await scope.run(pictureTasks.png, {
      data,
      width: maps.width,
      height: maps.height,
      channels,
      by,
      sense,
    });
    const file = `${name}_${map}`;
    return { uri: textures ? await textures.add(file, bytes) : `${basename(file)}.png`, bytes };
  };
  const base = needs.alpha ? maps.baseColor : dropAlpha(maps.baseColor);
  const out: SheetFiles = {
    name,
    maps: { baseColor: await put('baseColor', base, needs.alpha ? 4 : 3) },
    emissiveStrength: maps.emissiveStrength,
    occlusion,
    factors: { roughness: 1, metallic: 1, emissive: [1, 1, 1] },
    wraps: decision.kind === 'trim',
  };
  // A channel of one value is a factor, not a map.
  const orm = constantOf(maps.orm, 3, maps.owner);
  if (orm && (orm[0] === 255 || !occlusion))
    out.factors = { ...out.factors, roughness: round(orm[1] / 255), metallic: round(orm[2] / 255) };
  else if (decision.maps.orm === 'off') out.factors = { ...out.factors, ...meanFactors(maps) };
  else out.maps.orm = await put('orm', maps.orm, 3);
  if (maps.normal && !isFlatNormal(constantOf(maps.normal, 3, maps.owner)))
    out.maps.normal = await put('normal', maps.normal, 3);
  const emitted = maps.emissive && constantOf(maps.emissive, 3, maps.owner);
  if (emitted) out.factors.emissive = emitted.map((v) => round(srgbToLinear(v / 255))) as [number, number, number];
  else if (maps.emissive) out.maps.emissive = await put('emissive', maps.emissive, 3);
  else out.factors.emissive = [0, 0, 0];
  return out;
}

/** What stands for the map of occlusion, roughness and metallic where it is left out: the means of what islands cover. */
function meanFactors({ orm, owner }: BakedSheet['maps']): Pick<SheetFiles['factors'], 'roughness' | 'metallic'> {
  let [n, roughness, metallic] = [0, 0, 0];
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] === 0) continue;
    n++;
    roughness += orm[i * 3 + 1];
    metallic += orm[i * 3 + 2];
  }
  return n === 0
    ? { roughness: 1, metallic: 0 }
    : { roughness: round(roughness / n / 255), metallic: round(metallic / n / 255) };
}

const isFlatNormal = (normal: number[] | null): boolean =>
  normal !== null && normal[0] === 128 && normal[1] === 128 && normal[2] === 255;

function dropAlpha(rgba: Uint8Array): Uint8Array {
  const out = new Uint8Array(new SharedArrayBuffer((rgba.length / 4) * 3));
  for (let i = 0, o = 0; i < rgba.length; i += 4) {
    out[o++] = rgba[i];
    out[o++] = rgba[i + 1];
    out[o++] = rgba[i + 2];
  }
  return out;
}
