import type { MapName, TextureNaming } from '../decisions/reading.ts';

/** A slot that loose textures may be for. */
export interface NamedSlot {
  /** Name of the model's file, without folder and ending. */
  model: string;
  slot: string;
  /** How many slots the model has: `{model}_{map}` alone is clear only for one. */
  siblings: number;
}

/** What a loose texture is for. */
export interface Assignment {
  /** Position among the given files. */
  file: number;
  /** Positions among the given slots; several models may have a slot of that name. */
  slots: number[];
  /** What each channel holds; a picture with one map has it in `all`. */
  holds: { all: MapName } | { r: MapName | null; g: MapName | null; b: MapName | null; a: MapName | null };
  pattern: string;
}

export interface Assigned {
  assignments: Assignment[];
  /** Files that no pattern matches, with what stands in the way. */
  unmatched: { file: number; reason: string }[];
}

/** Names as they are compared: small letters; blanks, dots and dashes are underscores. */
export function plainName(name: string): string {
  return name
    .normalize('NFC')
    .toLowerCase()
    .replace(/[\s._-]+/g, '_')
    .replace(/^_|_$/g, '');
}

/**
 * Finds for every loose texture the slots and maps that its name speaks of. Earlier patterns win over later ones, and the first
 * file of a slot's map over others.
 * @param files names without folder and ending
 */
export function assignTextures(files: string[], slots: NamedSlot[], naming: TextureNaming): Assigned {
  const endings: { ending: string; holds: Assignment['holds'] }[] = [
    ...naming.packed.map(({ ending, r: channel, g, b, a }) => ({
      ending: plainName(ending),
      holds: { r: channel, g, b, a },
    })),
    ...Object.entries(naming.endings).flatMap(([map, list]) =>
      (list ?? []).map((entry) => ({ ending: plainName(entry), holds: { all: map as MapName } })),
    ),
  ];
  const wanted = new Map<string, { slots: number[]; holds: Assignment['holds']; pattern: string }>();
  for (const pattern of naming.patterns)
    slots.forEach((slot, i) => {
      if (!pattern.includes('{slot}') && slot.siblings > 1) return;
      const name = pattern.replaceAll('{model}', slot.model).replaceAll('{slot}', slot.slot);
      for (const { ending, holds } of endings) {
        const key = plainName(name.replaceAll('{map}', ending));
        const known = wanted.get(key);
        if (!known) wanted.set(key, { slots: [i], holds, pattern });
        else if (known.pattern === pattern && known.holds === holds) known.slots.push(i);
      }
    });
  // A picture that is called just like a slot is its base colour.
  slots.forEach((slot, i) => {
    const key = plainName(slot.slot);
    const known = wanted.get(key);
    if (!known) wanted.set(key, { slots: [i], holds: { all: 'baseColor' }, pattern: '{slot}' });
    else if (known.pattern === '{slot}') known.slots.push(i);
  });
  const assignments: Assignment[] = [];
  const unmatched: Assigned['unmatched'] = [];
  const taken = new Map<string, number>();
  files.forEach((given, file) => {
    const name = plainName(given);
    const hit = wanted.get(name);
    if (!hit) {
      const ending = endings.find((ending) => name.endsWith(`_${ending.ending}`) || name === ending.ending);
      unmatched.push({
        file,
        reason: ending
          ? `no slot or model is called "${name.slice(0, Math.max(0, name.length - ending.ending.length - 1))}"`
          : 'its name ends like no map',
      });
      return;
    }
    const maps = mapsOf(hit.holds);
    const clash = hit.slots
      .flatMap((slot) => maps.map((map) => taken.get(`${slot}:${map}`)))
      .find((f) => f !== undefined);
    if (clash !== undefined) {
      unmatched.push({ file, reason: `"${files[clash]}" is already taken for that map` });
      return;
    }
    for (const slot of hit.slots) for (const map of maps) taken.set(`${slot}:${map}`, file);
    assignments.push({ file, slots: hit.slots, holds: hit.holds, pattern: hit.pattern });
  });
  return { assignments, unmatched };
}

/** Maps that a picture holds; gloss stands for roughness. */
export function mapsOf(holds: Assignment['holds']): MapName[] {
  const list = 'all' in holds ? [holds.all] : [holds.r, holds.g, holds.b, holds.a];
  return list.flatMap((channel) => (channel === null ? [] : [channel === 'gloss' ? ('roughness' as const) : channel]));
}
