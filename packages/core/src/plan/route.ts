import { Wrap } from '@wembrel/kernels/sample';
import { IMAGE_CHANNELS, lookKey, type MaterialLook, uvSetsUsed } from '../scene/material.ts';
import type { Model, Part } from '../scene/model.ts';
import { layoutCoordinates } from '../uv/coordinates.ts';
import { uvIslands } from '../uv/islands.ts';
import { APART, type MergeDecisions } from './decisions.ts';

/** A slot that is not merged, and why. */
export interface KeptApart {
  model: number;
  slot: number;
  name: string;
  code: 'named' | 'extension' | 'variants' | 'points' | 'no-uvs' | 'repeats' | 'alone' | 'wrap';
  reason: string;
}

/** Slots that may share one output material. */
export interface OutputClass {
  key: string;
  alphaMode: MaterialLook['alphaMode'];
  alphaCutoff: number;
  doubleSided: boolean;
  unlit: boolean;
}

/** A material that is distinct after twins; all its parts read the same images in the same way. */
export interface RoutedMaterial {
  key: string;
  /** Slot name of its first appearance. */
  name: string;
  look: MaterialLook;
  classKey: string;
  members: { model: number; slot: number }[];
  /** Position among the sheets; −1 until it is spread. */
  sheet: number;
}

export interface Routing {
  classes: OutputClass[];
  materials: RoutedMaterial[];
  keptApart: KeptApart[];
  /** `${model}:${slot}` → index into materials, for slots that are merged. */
  routed: Map<string, number>;
}

export const slotKey = (model: number, slot: number): string => `${model}:${slot}`;

/** Slots whose keys differ never share an output material. */
export function classKey(look: MaterialLook): string {
  return JSON.stringify([
    look.alphaMode,
    look.alphaMode === 'MASK' ? look.alphaCutoff : 0,
    look.doubleSided,
    look.unlit,
  ]);
}

/**
 * Repeats along the busier axis that an island of the part asks of a tiling texture. Clamped axes do not repeat.
 */
export function repeatsOf(part: Part, look: MaterialLook): number {
  let worst = 1;
  for (const channel of IMAGE_CHANNELS) {
    const use = look[channel];
    const uv = use ? part.uvs[use.uvSet] : null;
    if (!use || !uv) continue;
    const xy = layoutCoordinates(part, use, [1, 1]);
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
    for (let o = 0; o < box.length; o += 4) {
      if (use.wrapS !== Wrap.clamp) worst = Math.max(worst, box[o + 1] - box[o]);
      if (use.wrapT !== Wrap.clamp) worst = Math.max(worst, box[o + 3] - box[o + 2]);
    }
  }
  return worst;
}

export interface Obstacle {
  code: KeptApart['code'];
  reason: string;
}

/** Why a part cannot go on a sheet, repeats aside, or null. */
function partObstacle(part: Part, look: MaterialLook): Obstacle | null {
  if (part.mode < 4) return { code: 'points', reason: `"${part.name}" draws points or lines` };
  if (part.primitive.getExtension('KHR_materials_variants'))
    return { code: 'variants', reason: `"${part.name}" changes its material by variants` };
  const sets = uvSetsUsed(look);
  const missing = sets.find((s) => !part.uvs[s]);
  if (missing !== undefined)
    return {
      code: 'no-uvs',
      reason: `"${part.name}" has no UV set ${missing}, which the slot's textures need; it has to be unwrapped`,
    };
  return null;
}

/** Why a slot cannot go on a sheet, whatever is decided, and how often its texture repeats across an island at most. */
export function slotObstacle(parts: Part[], look: MaterialLook): { obstacle: Obstacle | null; repeats: number } {
  if (look.foreign.length > 0)
    return {
      obstacle: { code: 'extension', reason: `uses ${look.foreign.join(', ')}, which a sheet does not carry` },
      repeats: 1,
    };
  for (const part of parts) {
    const obstacle = partObstacle(part, look);
    if (obstacle) return { obstacle, repeats: 1 };
  }
  return { obstacle: null, repeats: Math.max(1, ...parts.map((p) => repeatsOf(p, look))) };
}

export function repeatsReason(repeats: number, limit: number): string {
  return `its texture repeats ${repeats.toFixed(1)} times across an island; up to ${limit} repeats are baked in`;
}

/**
 * Decides for every used slot whether it is merged, and groups twins. Rules: "Materials → sheet", last paragraph but one.
 * A class that would hold a single slot is kept apart as well, since merging it saves no draw call.
 */
export function route(models: Model[], decisions: MergeDecisions, pixelKey: (image: string) => string): Routing {
  const keptApart: KeptApart[] = [];
  const byKey = new Map<string, RoutedMaterial>();
  const classes = new Map<string, OutputClass>();
  models.forEach((model, m) => {
    model.slots.forEach((slot, s) => {
      const parts = model.parts.filter((p) => p.slot === s);
      if (parts.length === 0) return;
      const keep = (code: KeptApart['code'], reason: string) =>
        keptApart.push({ model: m, slot: s, name: slot.name, code, reason });
      const to = decisions.routes[slot.name];
      if (to === APART) {
        keep('named', 'kept apart by name');
        return;
      }
      const { obstacle, repeats } = slotObstacle(parts, slot.look);
      if (obstacle) {
        keep(obstacle.code, obstacle.reason);
        return;
      }
      if (repeats > decisions.maxRepeats + 1e-4) {
        keep('repeats', repeatsReason(repeats, decisions.maxRepeats));
        return;
      }
      const sheet = decisions.sheets.findIndex((d) => d.id === to);
      // Twins are one material, unless they were sent to different sheets by hand.
      const key = `${sheet} ${lookKey(slot.look, pixelKey)}`;
      const ck = classKey(slot.look);
      if (!classes.has(ck))
        classes.set(ck, {
          key: ck,
          alphaMode: slot.look.alphaMode,
          alphaCutoff: slot.look.alphaCutoff,
          doubleSided: slot.look.doubleSided,
          unlit: slot.look.unlit,
        });
      const known = byKey.get(key);
      if (known) known.members.push({ model: m, slot: s });
      else
        byKey.set(key, {
          key,
          name: slot.name,
          look: slot.look,
          classKey: ck,
          members: [{ model: m, slot: s }],
          sheet,
        });
    });
  });
  let materials = [...byKey.values()];
  const counts = new Map<string, number>();
  for (const mat of materials) counts.set(mat.classKey, (counts.get(mat.classKey) ?? 0) + mat.members.length);
  const largest = [...counts].reduce((best, c) => (c[1] > best[1] ? c : best), ['', 0])[0];
  materials = materials.filter((mat) => {
    if (mat.classKey === largest || (counts.get(mat.classKey) as number) > 1) return true;
    for (const { model, slot } of mat.members)
      keptApart.push({
        model,
        slot,
        name: models[model].slots[slot].name,
        code: 'alone',
        reason: `${describeClass(mat.classKey)}, as no other slot is; merging it would save no draw call`,
      });
    return false;
  });
  const kept = new Set(materials.map((mat) => mat.classKey));
  keptApart.sort((a, b) => a.model - b.model || a.slot - b.slot);
  const routed = new Map<string, number>();
  materials.forEach((mat, i) => {
    for (const { model, slot } of mat.members) routed.set(slotKey(model, slot), i);
  });
  return { classes: [...classes.values()].filter((c) => kept.has(c.key)), materials, keptApart, routed };
}

/** A class in words. */
export function describeClass(key: string): string {
  const [alphaMode, , doubleSided, unlit] = JSON.parse(key) as [MaterialLook['alphaMode'], number, boolean, boolean];
  const words = [{ OPAQUE: 'opaque', MASK: 'alpha-tested', BLEND: 'alpha-blended' }[alphaMode]];
  if (doubleSided) words.push('double-sided');
  if (unlit) words.push('unlit');
  return `it is ${words.join(' and ')}`;
}

/**
 * The sheet that is least full after it has taken an area; the first of equals.
 * @param load texels taken so far, by sheet @param sizes px of each sheet's side
 */
export function emptiest(load: readonly number[], sizes: readonly number[], area: number): number {
  const after = (s: number) => (load[s] + area) / sizes[s] ** 2;
  let best = 0;
  for (let s = 1; s < load.length; s++) if (after(s) < after(best)) best = s;
  return best;
}

/**
 * Gives every material that has no route a sheet: largest texel area first, each to the sheet that is then least full.
 * @param areas texel area of each material @param sizes px of each sheet's side
 */
export function spread(materials: RoutedMaterial[], areas: number[], sizes: number[]): void {
  const load = sizes.map(() => 0);
  materials.forEach((m, i) => {
    if (m.sheet >= 0) load[m.sheet] += areas[i];
  });
  const order = materials.flatMap((m, i) => (m.sheet < 0 ? [i] : [])).sort((a, b) => areas[b] - areas[a] || a - b);
  for (const i of order) {
    const best = emptiest(load, sizes, areas[i]);
    materials[i].sheet = best;
    load[best] += areas[i];
  }
}
