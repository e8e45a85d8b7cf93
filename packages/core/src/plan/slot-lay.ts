import { Wrap } from '@wembrel/kernels/sample';
import { cutObstacle } from '../cut/cut-repeats.ts';
import type { SheetKind } from '../decisions/sheets.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { uvIslands } from '../mesh/islands.ts';
import { IMAGE_CHANNELS, type MaterialLook } from '../scene/material.ts';
import type { Part } from '../scene/model.ts';

/** How the UVs of a slot lie on its textures. */
export interface SlotLay {
  /** Repeats along the busier axis that an island asks of a tiling texture, at most; clamped axes do not repeat. */
  repeats: number;
  /** Why it cannot go on a sheet of that kind. */
  unfit: Partial<Record<SheetKind, string>>;
  /** Why it cannot be cut at the repeats of its texture, or null; see `cutAtRepeats`. */
  uncut: string | null;
}

export const NO_LAY: SlotLay = { repeats: 1, unfit: {}, uncut: 'it stays as it is' };

/** A hair of a texture by which UVs may stick out of their repeat. */
const HAIR = 1e-3;

/** Looks at every island under every texture. */
export function slotLay(parts: readonly Part[], look: MaterialLook): SlotLay {
  const axes: [number, number] = [1, 1];
  const crosses = [false, false];
  let beyond = false;
  const readings = new Set<string>();
  for (const channel of IMAGE_CHANNELS) {
    const use = look[channel];
    if (!use) continue;
    readings.add(JSON.stringify([use.uvSet, use.transform, use.wrapS, use.wrapT]));
    const wraps = [use.wrapS, use.wrapT];
    for (const part of parts) {
      const uv = part.uvs[use.uvSet];
      if (!uv) continue;
      const box = islandBoxes(part, layoutCoordinates(part, use, [1, 1]), uv);
      for (let o = 0; o < box.length; o += 4)
        for (const axis of [0, 1] as const) {
          const [low, high] = [box[o + axis * 2], box[o + axis * 2 + 1]];
          if (wraps[axis] !== Wrap.clamp) axes[axis] = Math.max(axes[axis], high - low);
          if (Math.floor(low + HAIR) < Math.ceil(high - HAIR) - 1) crosses[axis] = true;
          if (wraps[axis] === Wrap.clamp && (low < -HAIR || high > 1 + HAIR)) crosses[axis] = beyond = true;
        }
    }
  }
  const unfit: SlotLay['unfit'] = {};
  if (readings.size === 0) {
    unfit.trim = unfit.tile = 'it has no picture';
  } else if (readings.size > 1) {
    unfit.trim = unfit.tile = 'its maps are laid in different ways';
  } else if (parts.some((part) => part.colors)) {
    unfit.trim = unfit.tile = 'its vertex colours tell its faces apart';
  } else {
    if (crosses[1]) unfit.trim = 'its texture repeats up and down';
    if (crosses[0] || crosses[1]) unfit.tile = 'its faces reach over the edge of the texture';
  }
  const uncut =
    cutObstacle(parts, look) ??
    (parts.some((part) => part.colors) ? (unfit.tile as string) : null) ??
    (beyond ? 'its faces reach beyond a texture that does not repeat there' : null);
  return { repeats: Math.max(...axes), unfit, uncut };
}

/** Least and greatest U, least and greatest V of each island, in repeats. */
function islandBoxes(part: Part, xy: Float64Array, uv: Float32Array): Float64Array {
  const { ofTriangle, count } = uvIslands(part.indices, part.positions, uv);
  const box = new Float64Array(count * 4);
  for (let i = 0; i < count; i++) box.set([Infinity, -Infinity, Infinity, -Infinity], i * 4);
  part.indices.forEach((v, i) => {
    const o = ofTriangle[Math.floor(i / 3)] * 4;
    box[o] = Math.min(box[o], xy[v * 2]);
    box[o + 1] = Math.max(box[o + 1], xy[v * 2]);
    box[o + 2] = Math.min(box[o + 2], xy[v * 2 + 1]);
    box[o + 3] = Math.max(box[o + 3], xy[v * 2 + 1]);
  });
  return box;
}
