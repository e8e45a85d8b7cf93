import { cloneDocument } from '@gltf-transform/functions';
import { binTriangles } from '@wembrel/core/bake/transfer';
import { InputError, sentence } from '@wembrel/core/errors';
import { repackModel } from '@wembrel/core/layout/repack';
import { TileSamples, tileFrame } from '@wembrel/core/rays/cast/tile-samples';
import { lowTarget } from '@wembrel/core/rays/target/low-target';
import { sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import { type Model, readModel } from '@wembrel/core/scene/model';
import { unwrapModel } from '@wembrel/core/unwrap/unwrap';
import { imageKey } from '../read/image-keys.ts';

/** How a model came to UVs that it has for itself on one sheet. */
export type LayoutKind = 'own' | 'packed' | 'unwrapped';

/** A model whose parts share one UV layout. */
export interface OwnLayout {
  /** A copy of the source, which stays as it is. */
  model: Model;
  layout: LayoutKind;
  /** Share of the covered texels on which islands lie over each other. */
  stacked: number;
}

export interface OwnLayoutOptions {
  /** Side of the sheet, px, and least gap between islands. */
  size: number;
  margin: number;
  /** Islands that lie over each other get places of their own. */
  separate: boolean;
  /** Slots that are not laid out. */
  apart: ReadonlySet<number>;
  cancelled: () => boolean;
  progress: (share: number) => void;
}

/** Side of the sheet on which overlaps are looked for, px. */
const LOOK = 512;
/** Share of overlapping texels that rounding makes. */
const ROUNDING = 0.002;
/** Beyond this share islands overlap themselves, and packing does not help. */
const TANGLED = 0.02;

/**
 * A copy of a model with UVs for one sheet in set 0: its own where they lie in 0–1 and no part covers another, else its islands packed anew, else unwrapped.
 * @throws InputError where it cannot be unwrapped
 */
export function ownLayout(source: Model, options: OwnLayoutOptions): OwnLayout {
  const again = (document = cloneDocument(source.document)) => readModel(source.path, document, imageKey);
  const own = again();
  const before = options.separate ? null : look(own, options.apart);
  if (before?.fits && before.between <= ROUNDING) return { model: own, layout: 'own', stacked: before.within };
  const slots = own.slots.flatMap((slot, s) => (options.apart.has(s) ? [] : [slot.name]));
  const common = { ...options, slots, seed: 1, set: 0, together: true };
  if (!options.separate && before?.covers) {
    try {
      repackModel(own, {
        ...common,
        width: options.size,
        height: options.size,
        rotate: 'quarter',
        even: true,
        snap: false,
        effort: 0,
      });
      const packed = again(own.document);
      const { between, within, fits } = look(packed, options.apart);
      if (fits && between <= ROUNDING && within <= TANGLED) return { model: packed, layout: 'packed', stacked: within };
    } catch (error) {
      if (options.cancelled()) throw error;
    }
  }
  const fresh = again();
  try {
    unwrapModel(fresh, { ...common, method: 'charts', axis: 'y', stretch: 1.1, spread: 1.4, cutAngle: 66, effort: 0 });
  } catch (error) {
    if (options.cancelled()) throw error;
    throw new InputError(source.path, `it has no UVs of its own and cannot be unwrapped: ${sentence(error)}`);
  }
  return { model: again(fresh.document), layout: 'unwrapped', stacked: 0 };
}

/** What a recipe is laid on: each part where it stands first, without what stays apart. */
export const placedOnce = (model: Model, apart: ReadonlySet<number>): Model => ({
  ...model,
  parts: model.parts.map((part) => ({
    ...part,
    indices: apart.has(part.slot) ? new Uint32Array(0) : part.indices,
    instances: part.instances.slice(0, 1),
  })),
});

interface Look {
  /** All UVs lie within 0–1. */
  fits: boolean;
  /** Every part has UVs with some area. */
  covers: boolean;
  /** Shares of the covered texels on which two parts of different slots lie, and two of one slot. */
  between: number;
  within: number;
}

function look(model: Model, apart: ReadonlySet<number>): Look {
  const once = placedOnce(model, apart);
  const objects = sceneObjects([once]);
  const none = { fits: false, covers: false, between: 1, within: 1 };
  if (once.parts.some((part) => part.indices.length > 0 && part.instances.length > 0 && !part.uvs[0])) return none;
  const target = lowTarget([once], objects, { size: [LOOK, LOOK], uvSet: 0, cast: 'own', blend: 0 });
  if (target.place.some((v) => v < -0.5 || v > LOOK + 0.5)) return { ...none, covers: hasArea(target.place) };
  let [covered, between, within] = [0, 0, 0];
  const slotOf = (t: number) => target.mesh.sources[target.mesh.sourceOf[t]].slot;
  const found = new TileSamples();
  for (const [tile, list] of binTriangles(target, LOOK, LOOK)) {
    found.find(target.place, list, tileFrame(tile, LOOK, LOOK), 1);
    const mixed = new Set(Array.from(list, slotOf)).size > 1;
    for (let i = 0; i < found.owner.length; i++) {
      if (found.owner[i] >= 0) covered++;
      if (!found.clash[i]) continue;
      if (mixed) between++;
      else within++;
    }
  }
  if (covered === 0) return none;
  return { fits: true, covers: hasArea(target.place), between: between / covered, within: within / covered };
}

/** Whether nearly all triangles have an area on the sheet. */
function hasArea(place: Float64Array): boolean {
  let empty = 0;
  for (let o = 0; o < place.length; o += 6) {
    const area =
      (place[o + 2] - place[o]) * (place[o + 5] - place[o + 1]) -
      (place[o + 4] - place[o]) * (place[o + 3] - place[o + 1]);
    if (Math.abs(area) < 1e-6) empty++;
  }
  return empty * 6 < place.length * 0.02;
}
