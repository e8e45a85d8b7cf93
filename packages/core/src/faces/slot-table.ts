import type { Material } from '@gltf-transform/core';
import type { ComingSlot, FaceEditOf } from '../decisions/face-decisions.ts';
import { freeName } from '../decisions/free-name.ts';
import type { Raster } from '../image/raster.ts';
import { linearOf } from '../image/srgb.ts';
import { materialLook } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';
import { type TextureLay, textureLay } from '../scene/texture-lay.ts';
import type { Chosen } from './face-table.ts';
import { paintGradient } from './gradients.ts';

/** What edits need to know of the world around a model. */
export interface FaceSurroundings {
  /** The material of a slot by its name, from another model; null where there is none. */
  elsewhere(name: string): Material | null;
  /** Width and height of the base colour's picture, px; null without one. */
  picture(material: Material | null): [number, number] | null;
  /** Decoded pictures by their keys, for edits that read colours. */
  raster?(key: string): Raster | undefined;
  cancelled?: () => boolean;
}

/** Slots while edits are applied: those of the model, and those that edits ask for. */
export class SlotTable {
  readonly materials: (Material | null)[];
  /** Pictures that there will be, px. */
  private readonly expected = new Map<Material, [number, number]>();
  /** Painted slots by their paint. */
  private readonly made = new Map<string, number>();

  constructor(
    private readonly model: Model,
    private readonly around: FaceSurroundings,
    private readonly coming: readonly ComingSlot[],
  ) {
    this.materials = model.slots.map((slot) => slot.material);
  }

  numberOf(material: Material | null): number {
    const at = this.materials.indexOf(material);
    return at >= 0 ? at : this.materials.push(material) - 1;
  }

  nameOf(slot: number): string {
    const known = this.model.slots[slot];
    return known?.name ?? this.materials[slot]?.getName() ?? 'no material';
  }

  /** The slot of a name: the model's own, else one of another model, else one that is to come, else a copy of what the faces had. */
  named(name: string, like: number): number {
    for (let s = 0; s < this.materials.length; s++) if (this.nameOf(s) === name) return s;
    return this.materials.push(this.around.elsewhere(name) ?? this.toCome(name) ?? this.copyOf(like, name)) - 1;
  }

  /** Width and height of a slot's picture, px, also of one that there will be. */
  picture(slot: number): [number, number] | null {
    const material = this.materials[slot];
    return (material && this.expected.get(material)) ?? this.around.picture(material);
  }

  /** How the textures of a slot are laid, see `textureLay`. @throws Error where there is no one way */
  lay(slot: number, set: number | null): TextureLay {
    try {
      return textureLay(
        materialLook(this.materials[slot], () => ''),
        set,
      );
    } catch (error) {
      throw new Error(`"${this.nameOf(slot)}" ${(error as Error).message}`);
    }
  }

  /** The same by face. */
  laysOf(set: number | null): (chosen: Chosen) => (face: number) => TextureLay {
    const known: TextureLay[] = [];
    return ({ table }) =>
      (face) => {
        const slot = table.slots[face];
        known[slot] ??= this.lay(slot, set);
        return known[slot];
      };
  }

  private toCome(name: string): Material | null {
    const coming = this.coming.find((one) => one.slot === name);
    if (!coming) return null;
    const made = this.model.document
      .createMaterial(name)
      .setBaseColorFactor([...linearOf(coming.colour), 1])
      .setMetallicFactor(0);
    this.expected.set(made, [coming.width, coming.height]);
    return made;
  }

  private copyOf(like: number, name: string): Material {
    const from = this.materials[like];
    return (from ? from.clone() : this.model.document.createMaterial()).setName(name);
  }

  /** A plain slot of its own, the same one for the same paint, with a picture where it is a gradient. */
  painted(paint: Paint): number {
    const key = JSON.stringify([
      paint.slot,
      paint.colour,
      paint.upper,
      paint.roughness,
      paint.metallic,
      paint.emissive,
    ]);
    const known = this.made.get(key);
    if (known !== undefined) return known;
    const { document } = this.model;
    const material = document
      .createMaterial(paint.slot)
      .setRoughnessFactor(paint.roughness)
      .setMetallicFactor(paint.metallic)
      .setEmissiveFactor(linearOf(paint.emissive));
    if (paint.upper) paintGradient(document, material, paint.colour, paint.upper);
    else material.setBaseColorFactor([...linearOf(paint.colour), 1]);
    const slot = this.materials.push(material) - 1;
    this.made.set(key, slot);
    return slot;
  }

  /**
   * Gives painted slots names of their own, where one that is used is called alike.
   * @returns sentences on those that were renamed
   */
  settleNames(used: ReadonlySet<number>): string[] {
    const names = new Set([...used].filter((slot) => !this.isPainted(slot)).map((slot) => this.nameOf(slot)));
    const said: string[] = [];
    for (const slot of this.made.values()) {
      if (!used.has(slot)) continue;
      const name = this.nameOf(slot);
      const free = freeName(name, names);
      names.add(free);
      if (free === name) continue;
      this.materials[slot]?.setName(free);
      said.push(`there is another slot "${name}"; this one is called "${free}"`);
    }
    return said;
  }

  private isPainted(slot: number): boolean {
    return slot >= this.model.slots.length && [...this.made.values()].includes(slot);
  }
}

/** What a painted slot looks like. */
export type Paint = Pick<FaceEditOf<'swatch'>, 'slot' | 'colour' | 'roughness' | 'metallic' | 'emissive'> & {
  upper?: string | null;
};
