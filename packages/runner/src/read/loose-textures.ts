import { readFile } from 'node:fs/promises';
import { type MapName, type ReadingDecisions, SourceOptions } from '@wembrel/core/decisions/reading';
import { InputError } from '@wembrel/core/errors';
import type { Model } from '@wembrel/core/scene/model';
import { type Assignment, assignTextures, mapsOf, type NamedSlot } from '@wembrel/core/survey/assign-textures';
import type { LooseTexture } from '@wembrel/core/survey/facts';
import type { PictureWork } from '../pictures/work.ts';
import { MapApplier, type MaterialMaps } from './apply-maps.ts';
import type { InputFile } from './collect.ts';
import { rereadModel } from './load.ts';
import { fileKey } from './side-files.ts';

const stem = (path: string) => path.replace(/^.*[\\/]/, '').replace(/\.[^.]+$/, '');

interface Target extends NamedSlot {
  /** Position among the files. */
  file: number;
  slotIndex: number;
}

export interface LooseInput {
  textures: InputFile[];
  reading: ReadingDecisions;
  work: PictureWork;
  again: (file: number, read: () => Promise<Model>) => Promise<void>;
}

/**
 * Gives loose textures to the slots that their names speak of, where those have no map of that kind yet.
 * @param again reads a model once more after its materials have changed
 * @returns a row for every loose texture
 */
export async function assignLoose(
  files: InputFile[],
  results: (Model | InputError)[],
  { textures, reading, work, again }: LooseInput,
): Promise<LooseTexture[]> {
  const models = results.flatMap((result, file) => (result instanceof InputError ? [] : [{ model: result, file }]));
  const used = new Set(models.flatMap(({ model }) => model.sideFiles));
  const loose = textures.filter((texture) => !used.has(fileKey(texture)));
  if (loose.length === 0) return [];
  const targets: Target[] = models.flatMap(({ model, file }) => {
    const inUse = [...new Set(model.parts.map((part) => part.slot))].filter((s) => model.slots[s].material !== null);
    return inUse.map((s) => ({
      model: stem(files[file].name),
      slot: model.slots[s].name,
      siblings: inUse.length,
      file,
      slotIndex: s,
    }));
  });
  const { assignments, unmatched } = assigned(loose, targets, reading);
  const rows: LooseTexture[] = loose.map((inputFile) => ({ path: inputFile.name, to: [], maps: [], reason: null }));
  for (const u of unmatched) rows[u.file].reason = u.reason;
  const byTarget = new Map<number, MaterialMaps>();
  for (const assignment of assignments) {
    const free = assignment.slots.filter((slot) =>
      mapsOf(assignment.holds).some((channel) => !hasMap(materialOf(results, targets[slot]), channel)),
    );
    rows[assignment.file].maps = mapsOf(assignment.holds);
    if (free.length === 0) {
      rows[assignment.file].reason = `"${targets[assignment.slots[0]].slot}" has that map already`;
      continue;
    }
    const bytes = new Uint8Array(await readFile(loose[assignment.file].path));
    for (const s of free) {
      const maps = byTarget.get(s) ?? {};
      byTarget.set(s, maps);
      rows[assignment.file].to.push(`${targets[s].model}: ${targets[s].slot}`);
      fill(maps, assignment.holds, materialOf(results, targets[s]), {
        name: loose[assignment.file].name,
        bytes,
        options: reading.sources[loose[assignment.file].name] ?? SourceOptions.parse({}),
      });
    }
  }
  const changed = new Set([...byTarget.keys()].map((key) => targets[key].file));
  for (const file of changed)
    await again(file, async () => {
      const old = results[file] as Model;
      const applier = new MapApplier(old.path, old.document, work);
      for (const [s, maps] of byTarget)
        if (targets[s].file === file) await applier.apply(materialOf(results, targets[s]), maps);
      return rereadModel(old);
    });
  return rows;
}

/** By what pictures are for, where that is known, else by their names. */
function assigned(
  loose: readonly InputFile[],
  targets: readonly Target[],
  reading: ReadingDecisions,
): ReturnType<typeof assignTextures> {
  // A name that nothing has, for those whose slots are known.
  const names = loose.map((file) => (file.slot === undefined ? stem(file.name) : '\0'));
  const { assignments, unmatched } = assignTextures(names, [...targets], reading.naming);
  const known = loose.flatMap((file, i): Assignment[] => {
    const slots = targets.flatMap((target, t) => (target.slot === file.slot ? [t] : []));
    return slots.length > 0 ? [{ file: i, slots, holds: { all: 'baseColor' }, pattern: '{slot}' }] : [];
  });
  const found = new Set(known.map((one) => one.file));
  return {
    assignments: [...assignments, ...known],
    unmatched: unmatched.flatMap((one) => {
      const { slot } = loose[one.file];
      if (found.has(one.file)) return [];
      return slot === undefined ? [one] : [{ ...one, reason: `no slot is called "${slot}"` }];
    }),
  };
}

function materialOf(results: (Model | InputError)[], target: Target) {
  return (results[target.file] as Model).slots[target.slotIndex].material as NonNullable<
    Model['slots'][number]['material']
  >;
}

function hasMap(material: ReturnType<typeof materialOf>, map: MapName): boolean {
  if (map === 'baseColor' || map === 'opacity') return material.getBaseColorTexture() !== null;
  if (map === 'normal') return material.getNormalTexture() !== null;
  if (map === 'occlusion') return material.getOcclusionTexture() !== null;
  if (map === 'emissive') return material.getEmissiveTexture() !== null;
  return material.getMetallicRoughnessTexture() !== null;
}

function fill(
  maps: MaterialMaps,
  holds: Assignment['holds'],
  material: ReturnType<typeof materialOf>,
  picture: { name: string; bytes: Uint8Array; options: SourceOptions },
): void {
  const put = (map: MapName | null, channel: 0 | 1 | 2 | 3 | null) => {
    if (map !== null && !hasMap(material, map)) maps[map] ??= { ...picture, channel };
  };
  if ('all' in holds) {
    put(holds.all, null);
    return;
  }
  put(holds.r, 0);
  put(holds.g, 1);
  put(holds.b, 2);
  put(holds.a, 3);
}
