import type { SheetMap } from '../decisions/sheets.ts';
import type { Routing } from '../plan/route.ts';
import type { SheetMaps } from './transfer.ts';

/** Which maps a sheet needs and how bright its emissive map may get. */
export interface SheetNeeds {
  normal: boolean;
  emissive: boolean;
  /** Some material on it is alpha-tested or alpha-blended. */
  alpha: boolean;
  /** Written as KHR_materials_emissive_strength; the map is divided by it. */
  emissiveStrength: number;
}

/** @param without maps that are left out although materials have them @param dressed something is laid on the sheet later, which may have normals and glow */
export function sheetNeeds(
  routing: Routing,
  sheet: number,
  without: readonly SheetMap[] = [],
  dressed = false,
): SheetNeeds {
  const looks = routing.materials.filter((material) => material.sheet === sheet).map((material) => material.look);
  const brightest = Math.max(0, ...looks.flatMap((look) => look.emissiveFactor));
  return {
    normal: !without.includes('normal') && (dressed || looks.some((look) => look.normal)),
    emissive: !without.includes('emissive') && (dressed || brightest > 0),
    alpha: looks.some((look) => look.alphaMode !== 'OPAQUE'),
    emissiveStrength: Math.max(1, brightest),
  };
}

/** Empty maps in shared memory: black, rough, without occlusion, flat. */
export function emptyMaps(width: number, height: number, needs: SheetNeeds): SheetMaps {
  const bytes = (channels: number) => new Uint8Array(new SharedArrayBuffer(width * height * channels));
  const maps: SheetMaps = {
    width,
    height,
    baseColor: bytes(4),
    orm: bytes(3),
    normal: needs.normal ? bytes(3) : null,
    emissive: needs.emissive ? bytes(3) : null,
    emissiveStrength: needs.emissiveStrength,
    owner: new Uint32Array(new SharedArrayBuffer(width * height * 4)),
  };
  for (let i = 0; i < width * height; i++) {
    maps.baseColor[i * 4 + 3] = needs.alpha ? 0 : 255;
    maps.orm[i * 3] = 255;
    maps.orm[i * 3 + 1] = 255;
    if (maps.normal) {
      maps.normal[i * 3] = 128;
      maps.normal[i * 3 + 1] = 128;
      maps.normal[i * 3 + 2] = 255;
    }
  }
  return maps;
}
