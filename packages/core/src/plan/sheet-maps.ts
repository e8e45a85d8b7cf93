import type { SheetMap } from '../decisions/sheets.ts';
import type { MaterialLook } from '../scene/material.ts';

/** Which maps of a sheet a slot needs beside base colour. */
export interface MapUse {
  maps: { normal: boolean; emissive: boolean };
  /** What these maps show of it where that is one value: equal texts for equal values. Null: more than one, or not known before baking. */
  constant: { orm: string | null; emissive: string | null };
}

/** Which maps a look needs. @param isFlat whether a picture has one colour @param key hash of its pixels */
export function mapUseOf(
  look: MaterialLook,
  isFlat: (image: string) => boolean,
  key: (image: string) => string,
): MapUse {
  const one = (use: { image: string } | null): string | null | undefined =>
    use === null ? 'none' : isFlat(use.image) ? key(use.image) : undefined;
  const [surface, emitted] = [one(look.metallicRoughness), one(look.emissive)];
  return {
    maps: { normal: look.normal !== null, emissive: look.emissiveFactor.some((v) => v > 0) },
    constant: {
      // Occlusion has no factor that could stand for it.
      orm: surface === undefined || look.occlusion ? null : `${surface} ${look.roughnessFactor} ${look.metallicFactor}`,
      emissive: emitted === undefined ? null : `${emitted} ${look.emissiveFactor}`,
    },
  };
}

/** The maps that a sheet with these slots has; a channel of one value is a factor instead. Without slots it has none. */
export function neededMaps(slots: readonly MapUse[]): SheetMap[] {
  if (slots.length === 0) return [];
  const varies = (map: 'orm' | 'emissive') =>
    slots.some((slot) => slot.constant[map] === null || slot.constant[map] !== slots[0].constant[map]);
  const out: SheetMap[] = ['baseColor'];
  if (varies('orm')) out.push('orm');
  if (slots.some((slot) => slot.maps.normal)) out.push('normal');
  if (slots.some((slot) => slot.maps.emissive) && varies('emissive')) out.push('emissive');
  return out;
}
