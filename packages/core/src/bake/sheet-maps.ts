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

export function sheetNeeds(routing: Routing, sheet: number): SheetNeeds {
  const looks = routing.materials.filter((m) => m.sheet === sheet).map((m) => m.look);
  const brightest = Math.max(0, ...looks.flatMap((l) => l.emissiveFactor));
  return {
    normal: looks.some((l) => l.normal),
    emissive: brightest > 0,
    alpha: looks.some((l) => l.alphaMode !== 'OPAQUE'),
    emissiveStrength: Math.max(1, brightest),
  };
}

/** Empty maps in shared memory: black, rough, without occlusion, flat. */
export function emptyMaps(size: number, needs: SheetNeeds): SheetMaps {
  const bytes = (channels: number) => new Uint8Array(new SharedArrayBuffer(size * size * channels));
  const maps: SheetMaps = {
    size,
    baseColor: bytes(4),
    orm: bytes(3),
    normal: needs.normal ? bytes(3) : null,
    emissive: needs.emissive ? bytes(3) : null,
    emissiveStrength: needs.emissiveStrength,
    owner: new Uint32Array(new SharedArrayBuffer(size * size * 4)),
  };
  for (let i = 0; i < size * size; i++) {
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

/** Bytes that the maps of one sheet take while they are baked. */
export function sheetMapsBytes(size: number, needs: SheetNeeds): number {
  return size * size * (4 + 3 + (needs.normal ? 3 : 0) + (needs.emissive ? 3 : 0) + 4);
}
