import type { Plan } from '../decisions/decisions.ts';
import { weightOf } from '../decisions/routes.ts';
import { textureBytes } from '../image/texture-memory.ts';
import { movedNodes } from '../scene/joinable.ts';
import { IMAGE_CHANNELS, lookKey, type MaterialLook, uvSetsUsed } from '../scene/material.ts';
import { decidingParts, type Model, type Part } from '../scene/model.ts';
import { objectsOfParts } from '../scene/object-names.ts';
import {
  type ApartCode,
  type AssignableSlot,
  assign,
  type BayForm,
  bayForm,
  type Obstacle,
  type RouteDecisions,
} from './assign.ts';
import { drawnPart } from './drawn-parts.ts';
import { type JoinOffer, joinOffer } from './join-offer.ts';
import { mapUseOf } from './sheet-maps.ts';
import { NO_LAY, type SlotLay, slotLay } from './slot-lay.ts';
import type { StoredTexture } from './worth.ts';

/** A slot that is not merged, and why. */
export interface KeptApart {
  model: number;
  slot: number;
  name: string;
  code: ApartCode;
  reason: string;
}

/** Slots that may share one output material. */
export interface MaterialClass {
  key: string;
  alphaMode: MaterialLook['alphaMode'];
  alphaCutoff: number;
  doubleSided: boolean;
  unlit: boolean;
  /** Magnified without blending. */
  nearest: boolean;
  /** Minified with mips. */
  mips: boolean;
}

/** A material that is distinct after duplicates; all its parts read the same images in the same way. */
export interface RoutedMaterial {
  key: string;
  /** Slot name of its first appearance. */
  name: string;
  look: MaterialLook;
  classKey: string;
  members: { model: number; slot: number }[];
  /** Position among the sheets; −1 until it is spread. */
  sheet: number;
  /** Sheets that it may be spread to. */
  allowed: number[];
  /** How much sharper than the others it shall be. */
  weight: number;
  /** Its islands may be turned. */
  mayTurn: boolean;
  form: BayForm;
}

export interface Routing {
  classes: MaterialClass[];
  materials: RoutedMaterial[];
  keptApart: KeptApart[];
  /** What joining across nodes would save, or null. */
  joinOffer: JoinOffer | null;
  /** `${model}:${slot}` → index into materials, for slots that are merged. */
  routed: Map<string, number>;
}

export const slotKey = (model: number, slot: number): string => `${model}:${slot}`;

/** Slots whose keys differ never share an output material. */
export function classKey(look: MaterialLook): string {
  const { nearest, mips } = sampling(look);
  return JSON.stringify([
    look.alphaMode,
    look.alphaMode === 'MASK' ? look.alphaCutoff : 0,
    look.doubleSided,
    look.unlit,
    ...(nearest || !mips
      ? [[nearest ? 'nearest' : 'linear', mips ? 'mips' : 'no mips']]
      : look.carried === ''
        ? []
        : [null]),
    ...(look.carried === '' ? [] : [look.carried]),
  ]);
}

/** How a material reads its textures, by the first that it has; reference: "Samplers". */
export function sampling(look: MaterialLook): Pick<MaterialClass, 'nearest' | 'mips'> {
  const channel = IMAGE_CHANNELS.find((channel) => look[channel]);
  const use = channel ? look[channel] : null;
  return { nearest: use?.nearest ?? false, mips: !use?.unmipped };
}

/** Why a part cannot go on a sheet, repeats aside, or null. */
function partObstacle(part: Part, look: MaterialLook): Obstacle | null {
  if (part.mode < 4) return { code: 'points', reason: `"${part.name}" draws points or lines` };
  if (part.primitive.getExtension('KHR_materials_variants'))
    return { code: 'variants', reason: `"${part.name}" changes its material by variants` };
  const sets = uvSetsUsed(look);
  const missing = sets.find((set) => !part.uvs[set]);
  if (missing !== undefined)
    return {
      code: 'no-uvs',
      reason: `"${part.name}" has no UV set ${missing}, which the slot's textures need; it has to be unwrapped`,
    };
  return null;
}

/** Why a slot cannot go on a sheet, whatever is decided, and how its UVs lie on its textures. */
function slotObstacle(parts: Part[], look: MaterialLook): { obstacle: Obstacle | null; lay: SlotLay } {
  if (look.foreign.length > 0)
    return {
      obstacle: { code: 'extension', reason: `uses ${look.foreign.join(', ')}, which a sheet does not carry` },
      lay: NO_LAY,
    };
  for (const part of parts) {
    const obstacle = partObstacle(part, look);
    if (obstacle) return { obstacle, lay: NO_LAY };
  }
  if (parts.every((part) => part.instances.length === 0))
    return { obstacle: { code: 'not-drawn', reason: 'nothing that is drawn uses it' }, lay: NO_LAY };
  return { obstacle: null, lay: slotLay(parts, look) };
}

/** What the image table knows of a picture. */
export interface Pictures {
  /** Hash of the decoded pixels. */
  key: (image: string) => string;
  flat: (image: string) => boolean;
  size: (image: string) => { width: number; height: number };
}

/** Textures of a look as they are stored when it is not merged; pictures of the same pixels once a colour space. */
function texturesOf(look: MaterialLook, pictures: Pictures): StoredTexture[] {
  const stored = new Map<string, StoredTexture>();
  for (const channel of IMAGE_CHANNELS) {
    const image = look[channel]?.image;
    if (image === undefined) continue;
    const key = storedKey(pictures.key(image), channel);
    const { width, height } = pictures.size(image);
    stored.set(key, { key, bytes: textureBytes(width, height).bc7 });
  }
  return [...stored.values()];
}

/** Textures with equal keys are stored once. */
export const storedKey = (picture: string, channel: string): string =>
  `${picture}:${channel === 'baseColor' || channel === 'emissive'}`;

/**
 * Reads the traits that decide a slot's route.
 * @param index position of the model
 * @returns traits by slot, or null where nothing is drawn with it
 */
export function slotReader(model: Model, index: number, pictures: Pictures): (slot: number) => AssignableSlot | null {
  const moving = movedNodes(model.document);
  const meshes = new Map(
    model.document
      .getRoot()
      .listMeshes()
      .map((mesh, i) => [mesh, i] as const),
  );
  return (slot) => {
    const parts = decidingParts(model, slot);
    if (parts.length === 0) return null;
    const { name, look } = model.slots[slot];
    const { obstacle, lay } = slotObstacle(parts, look);
    const images = IMAGE_CHANNELS.flatMap((channel) => look[channel]?.image ?? []);
    const flat = images.every((i) => pictures.flat(i));
    const key = classKey(look);
    return {
      name,
      model: model.path,
      objects: objectsOfParts(parts),
      pictures: images.map((i) => pictures.key(i)),
      flat,
      repeats: flat ? 1 : lay.repeats,
      alphaMode: look.alphaMode,
      classKey: key,
      obstacle,
      unfit: { ...lay.unfit, ...(flat ? {} : { palette: 'it has pictures' }) },
      uncut: flat ? 'it has no picture' : lay.uncut,
      look: lookKey(look, pictures.key),
      textures: texturesOf(look, pictures),
      drawn: {
        model: index,
        slot,
        classKey: key,
        ...mapUseOf(look, pictures.flat, pictures.key),
        parts: parts.map((part) => drawnPart(part, meshes.get(part.mesh) ?? -1, moving, uvSetsUsed(look))),
      },
    };
  };
}

/** Decides for every used slot whether it is merged, and groups duplicates; see `assign`. */
export function route(
  models: Model[],
  decisions: RouteDecisions & Pick<Plan, 'weights' | 'keepTurn'>,
  pictures: Pictures,
): Routing {
  const places: { model: number; slot: number }[] = [];
  const slots: AssignableSlot[] = [];
  models.forEach((model, m) => {
    const traitsOf = slotReader(model, m, pictures);
    model.slots.forEach((_, s) => {
      const traits = traitsOf(s);
      if (!traits) return;
      places.push({ model: m, slot: s });
      slots.push(traits);
    });
  });
  const keptApart: KeptApart[] = [];
  const apart = (i: number, code: ApartCode, reason: string): KeptApart => ({
    ...places[i],
    name: slots[i].name,
    code,
    reason,
  });
  const byKey = new Map<string, RoutedMaterial>();
  const classes = new Map<string, MaterialClass>();
  const assigned = assign(slots, decisions);
  /** Those that nothing draws with: they follow a drawn one of the same look, where there is one. */
  const notDrawn: number[] = [];
  assigned.forEach((assignment, i) => {
    const { name, classKey: ck } = slots[i];
    const { look } = models[places[i].model].slots[places[i].slot];
    if (assignment.code === 'not-drawn') {
      notDrawn.push(i);
      return;
    }
    if (assignment.code) {
      keptApart.push(apart(i, assignment.code, assignment.reason as string));
      return;
    }
    if (!classes.has(ck))
      classes.set(ck, {
        key: ck,
        alphaMode: look.alphaMode,
        alphaCutoff: look.alphaCutoff,
        doubleSided: look.doubleSided,
        unlit: look.unlit,
        ...sampling(look),
      });
    // Duplicates are one material, unless they were sent to different sheets or given different weights by hand.
    const weight = weightOf(decisions.weights, name);
    const form = bayForm(slots[i], assignment.sheet < 0 ? 'atlas' : decisions.sheets[assignment.sheet].kind, decisions);
    const key = `${assignment.sheet} ${weight} ${form} ${lookKey(look, pictures.key)}`;
    const known = byKey.get(key);
    const mayTurn = !decisions.keepTurn.includes(name);
    if (known) {
      known.members.push(places[i]);
      known.mayTurn &&= mayTurn;
    } else
      byKey.set(key, {
        key,
        name,
        look,
        classKey: ck,
        members: [places[i]],
        sheet: assignment.sheet,
        allowed: assignment.allowed,
        weight,
        mayTurn,
        form,
      });
  });
  const materials = [...byKey.values()];
  for (const i of notDrawn) {
    const leader = materials.find(({ look }) => lookKey(look, pictures.key) === slots[i].look);
    if (leader) leader.members.push(places[i]);
    else keptApart.push(apart(i, 'not-drawn', assigned[i].reason as string));
  }
  const routed = new Map<string, number>();
  materials.forEach((mat, i) => {
    for (const { model, slot } of mat.members) routed.set(slotKey(model, slot), i);
  });
  return {
    classes: [...classes.values()],
    materials,
    keptApart,
    joinOffer: joinOffer(slots, assigned, decisions),
    routed,
  };
}
