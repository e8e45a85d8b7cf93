import type { Material } from '@gltf-transform/core';
import type { ComingSlot, FaceEditOf } from '../decisions/face-decisions.ts';
import type { Raster } from '../image/raster.ts';
import { linearOf } from '../image/srgb.ts';
import { materialLook } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';
import { type TextureLay, textureLay } from '../scene/texture-lay.ts';
import type { Chosen } from './face-table.ts';

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

  /** A plain slot of its own. */
  plain(edit: Pick<FaceEditOf<'swatch'>, 'slot' | 'colour' | 'roughness' | 'metallic' | 'emissive'>): number {
    const made = this.model.document
      .createMaterial(edit.slot)
      .setBaseColorFactor([...linearOf(edit.colour), 1])
      .setRoughnessFactor(edit.roughness)
      .setMetallicFactor(edit.metallic)
      .setEmissiveFactor(linearOf(edit.emissive));
    return this.materials.push(made) - 1;
  }
}
