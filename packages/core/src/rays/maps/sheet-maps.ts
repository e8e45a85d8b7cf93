import type { SheetNeeds } from '../../bake/sheet-maps.ts';
import type { SheetMaps } from '../../bake/transfer.ts';
import type { MapKind } from '../../decisions/map-kinds.ts';
import type { MaterialLook } from '../../scene/material.ts';
import type { RayMaps } from './baked-maps.ts';

/** What a sheet needs to look like some materials, and which maps are baked for it. */
export interface RaySheetNeeds extends SheetNeeds {
  occlusion: boolean;
  /** Some slot is alpha-tested, so that the result is. */
  masked: boolean;
  maps: MapKind[];
}

/** @param looks of all slots that are baked; alpha-tested ones ask for opacity @param cards there are cards, which need opacity too */
export function raySheetNeeds(looks: readonly MaterialLook[], cards = false): RaySheetNeeds {
  const brightest = Math.max(0, ...looks.flatMap((look) => look.emissiveFactor));
  const masked = looks.some((look) => look.alphaMode === 'MASK');
  const alpha = masked || cards;
  const occlusion = looks.some((look) => look.occlusion);
  const emissive = brightest > 0;
  const maps: MapKind[] = ['normal', 'color', 'metallic', 'roughness'];
  if (occlusion) maps.push('occlusion');
  if (emissive) maps.push('emissive');
  if (alpha) maps.push('opacity');
  return { normal: true, emissive, alpha, emissiveStrength: Math.max(1, brightest), occlusion, masked, maps };
}

/** Maps of a ray bake as those of a sheet, in shared memory, so that they are written, packed and compared as others are. */
export function sheetMapsOf(rays: RayMaps, needs: RaySheetNeeds): SheetMaps {
  const { width, height } = rays;
  const texels = width * height;
  const memory = (channels: number) => new Uint8Array(new SharedArrayBuffer(texels * channels));
  const find = (kind: MapKind) => rays.maps.find((map) => map.kind === kind)?.data;
  const baseColor = memory(4);
  const orm = memory(3);
  const [color, alpha] = [find('color'), find('opacity')];
  const channels = [find('occlusion'), find('roughness'), find('metallic')];
  for (let i = 0; i < texels; i++) {
    for (let c = 0; c < 3; c++) {
      baseColor[i * 4 + c] = color?.[i * 3 + c] ?? 255;
      orm[i * 3 + c] = channels[c]?.[i] ?? (c === 2 ? 0 : 255);
    }
    // A texel of an opaque surface that met nothing is filled, not a hole.
    const solid = !needs.masked && rays.pairing[i] === 1;
    baseColor[i * 4 + 3] = solid ? 255 : (alpha?.[i] ?? 255);
  }
  const owner = new Uint32Array(new SharedArrayBuffer(texels * 4));
  owner.set(rays.island);
  const copied = (kind: MapKind) => {
    const data = find(kind);
    if (!data) return null;
    const out = memory(3);
    out.set(data as Uint8Array);
    return out;
  };
  return {
    width,
    height,
    baseColor,
    orm,
    normal: copied('normal'),
    emissive: copied('emissive'),
    emissiveStrength: needs.emissiveStrength,
    owner,
  };
}
