import { mapSides, type SheetDecision } from '../decisions/sheets.ts';
import { textureBytes } from '../image/texture-memory.ts';
import { type CountedSlot, DrawCallCounter, type joiningOf } from './draw-calls.ts';
import { type MapUse, neededMaps } from './sheet-maps.ts';

/** A texture of a slot as it is stored when the slot is not merged. */
export interface StoredTexture {
  /** Equal where pixels, size and colour space agree. */
  key: string;
  /** With all mips, as BC7. */
  bytes: number;
}

/** What decides whether merging a slot is worth it. */
export interface WeighedSlot {
  /** Equal for duplicates. */
  look: string;
  textures: readonly StoredTexture[];
  drawn: CountedSlot & MapUse;
}

/** Where a slot would go: sheets by position, −1 alone: kept apart. */
export interface Destination {
  sheet: number;
  /** It has no route of its own, and goes to one of `allowed`. */
  spread: boolean;
  allowed: readonly number[];
}

/** What merging a class would cost, where nothing is gained by it. */
export interface NoGain {
  /** Texture memory with the class merged and without, bytes as BC7. */
  merged: number;
  apart: number;
}

interface Totals {
  bytes: number;
  textures: number;
  materials: number;
}

/**
 * Classes whose merging gains nothing; reference, "Worth it". A class is worth merging where it lowers the draw calls of a model, the texture
 * memory, or the number of textures or materials at no more memory. Memory is an upper bound: every map that a sheet may have, at its full size. Slots with
 * a route of their own are merged in any case; they are weighed with the others.
 * @param to where each slot would go
 */
export function classesWithoutGain(
  slots: readonly WeighedSlot[],
  to: readonly Destination[],
  sheets: readonly SheetDecision[],
  joining: ReturnType<typeof joiningOf>,
): Map<string, NoGain> {
  const weighing = new Weighing(slots, to, sheets, joining);
  const merged = new Set<string>();
  const left = new Set<string>();
  for (const key of weighing.classes) (weighing.savesCalls(key) ? merged : left).add(key);
  const gains = (keys: readonly string[]): boolean => {
    const before = weighing.totals(merged);
    const after = weighing.totals(new Set([...merged, ...keys]));
    if (after.bytes !== before.bytes) return after.bytes < before.bytes;
    return after.textures < before.textures || after.materials < before.materials;
  };
  const take = (keys: readonly string[]): void => {
    for (const key of keys) {
      merged.add(key);
      left.delete(key);
    }
  };
  // Each by itself, then the rest together: several classes may pay for a sheet that none pays for alone.
  for (const key of [...left]) if (gains([key])) take([key]);
  if (left.size > 1 && gains([...left])) take([...left]);
  const apart = weighing.totals(merged).bytes;
  return new Map(
    [...left].map((key) => [key, { apart, merged: weighing.totals(new Set([...merged, key])).bytes }] as const),
  );
}

/** Draw calls and memory of any choice of classes. */
class Weighing {
  /** Classes with slots that have no route of their own, in order of their first. */
  readonly classes: string[];
  private readonly counter: DrawCallCounter;
  /** Draw calls where no class is merged. */
  private readonly callsApart: number;

  constructor(
    private readonly slots: readonly WeighedSlot[],
    private readonly to: readonly Destination[],
    private readonly sheets: readonly SheetDecision[],
    joining: ReturnType<typeof joiningOf>,
  ) {
    this.counter = new DrawCallCounter(
      slots.map((slot) => slot.drawn),
      joining,
    );
    this.callsApart = this.calls(new Set());
    this.classes = [...new Set(slots.flatMap((slot, i) => (to[i].spread ? [slot.drawn.classKey] : [])))];
  }

  private isMerged(i: number, classes: ReadonlySet<string>): boolean {
    return this.to[i].sheet >= 0 || (this.to[i].spread && classes.has(this.slots[i].drawn.classKey));
  }

  /** Slots of different classes are never joined, so each class can be counted by itself; spread slots count as on one sheet. */
  savesCalls(key: string): boolean {
    return this.calls(new Set([key])) < this.callsApart;
  }

  private calls(classes: ReadonlySet<string>): number {
    return this.counter.count(
      this.to.map(({ sheet, allowed }, i) => (this.isMerged(i, classes) ? Math.max(sheet, allowed[0] ?? 0) : -1)),
    );
  }

  totals(classes: ReadonlySet<string>): Totals {
    const stored = new Map<string, number>();
    const materials = new Set<string>();
    const onSheet = this.sheets.map((): MapUse[] => []);
    this.slots.forEach((slot, i) => {
      if (!this.isMerged(i, classes)) {
        for (const { key, bytes } of slot.textures) stored.set(key, bytes);
        materials.add(slot.look);
        return;
      }
      const { sheet, allowed } = this.to[i];
      for (const s of sheet >= 0 ? [sheet] : allowed) {
        onSheet[s].push(slot.drawn);
        materials.add(`sheet ${s} ${slot.drawn.classKey}`);
      }
    });
    let bytes = [...stored.values()].reduce((sum, b) => sum + b, 0);
    let textures = stored.size;
    onSheet.forEach((list, s) => {
      for (const map of neededMaps(list)) {
        const sides = mapSides(this.sheets[s], map);
        if (!sides) continue;
        bytes += textureBytes(...sides).bc7;
        textures++;
      }
    });
    return { bytes, textures, materials: materials.size };
  }
}
