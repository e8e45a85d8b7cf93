import { createHash } from 'node:crypto';
import { slotReader } from '@wembrel/core/plan/route';
import { IMAGE_CHANNELS } from '@wembrel/core/scene/material';
import { decidingParts, type Model, type Part } from '@wembrel/core/scene/model';
import { objectsOfParts } from '@wembrel/core/scene/object-names';
import { type Coverage, type SlotFacts, slotFacts, usedSlots } from '@wembrel/core/survey/slot-facts';
import { type SlotSurface, surfaceInput } from '@wembrel/core/survey/surface';
import type { FactsCache } from '../cache/facts-cache.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { sideBySide } from '../pool/side-by-side.ts';
import type { Images } from '../read/images.ts';
import { surfaceTasks } from './surface-tasks.ts';

/** What is kept of one model: its slots, and what they cover of each picture, a bit a cell. */
interface KnownSlots {
  slots: SlotFacts[];
  covered: [picture: string, bits: Uint8Array][];
}

/** What is needed besides models and their pictures. */
interface Means {
  cache: FactsCache | null;
  /** Where surfaces are looked at; null: here. */
  scope: JobScope | null;
  /** Takes what UVs cover of each picture. */
  coverage: Coverage;
  /** Called before each model; may throw to stop. */
  checkpoint: (share: number) => void;
}

/**
 * Facts of the slots of all models; those of a model that is just as it was in a former run come from the cache. Surfaces are looked at in other
 * threads, some models ahead of the one whose facts are put together here.
 */
export async function slotsOfModels(
  models: readonly Model[],
  images: Images,
  { cache, scope, coverage, checkpoint }: Means,
): Promise<SlotFacts[]> {
  const found = new Array<SlotFacts[]>(models.length);
  let done = 0;
  await sideBySide(models.length, (scope?.threads ?? 0) + 1, async (m) => {
    checkpoint(done / models.length);
    const find = () => findSlots(models[m], images, scope);
    const { slots, covered } = await (cache?.of('slots', contentOf(models[m], images), find) ?? find());
    for (const [picture, bits] of covered) addBits(coverage, picture, bits);
    // Where a model stands among others, and what it is called, is nothing that is kept.
    found[m] = slots.map((slot) => ({ ...slot, model: m, path: models[m].path }));
    done++;
  });
  return found.flat();
}

async function findSlots(model: Model, images: Images, scope: JobScope | null): Promise<KnownSlots> {
  const pictures = {
    sizes: (i: string) => images.size(i),
    pixelKey: (i: string) => images.pixelKey(i),
    flatCells: (i: string) => images.flatCells(i),
  };
  const surfaces = new Map<number, SlotSurface>();
  if (scope)
    await Promise.all(
      usedSlots(model).map(async (slot) => {
        const input = surfaceInput(decidingParts(model, slot), model.slots[slot].look, pictures);
        surfaces.set(slot, await scope.run(surfaceTasks.surface, input));
      }),
    );
  const coverage: Coverage = new Map();
  const slots = slotFacts([model], { ...pictures, coverage, surfaces: (_, slot) => surfaces.get(slot) });
  return { slots, covered: [...coverage].map(([picture, grid]) => [picture, bitsOf(grid)]) };
}

function bitsOf(grid: Uint8Array): Uint8Array {
  const bits = new Uint8Array(Math.ceil(grid.length / 8));
  for (let i = 0; i < grid.length; i++) if (grid[i]) bits[i >> 3] |= 1 << (i & 7);
  return bits;
}

function addBits(coverage: Coverage, picture: string, bits: Uint8Array): void {
  let grid = coverage.get(picture);
  if (!grid) {
    grid = new Uint8Array(bits.length * 8);
    coverage.set(picture, grid);
  }
  for (let i = 0; i < grid.length; i++) grid[i] |= (bits[i >> 3] >> (i & 7)) & 1;
}

/** Hash of all that the facts of a model's slots are made from: what routes know of them, their parts, materials, and pictures as they look. */
function contentOf(model: Model, images: Images): string {
  const hash = createHash('blake2b512');
  const tell = (value: unknown) => hash.update(`${JSON.stringify(value)}\n`);
  const traitsOf = slotReader(model, 0, images.pictures);
  model.slots.forEach((slot, s) => {
    tell([slot.name, slot.look, slot.material !== null, { ...traitsOf(s), model: null }]);
    for (const channel of IMAGE_CHANNELS) {
      const use = slot.look[channel];
      if (!use) continue;
      const { width, height, flat } = images.size(use.image);
      tell([images.pixelKey(use.image), width, height, flat]);
    }
  });
  for (const part of model.parts) {
    tell(withoutArrays(part));
    for (const array of arraysOf(part)) {
      tell(array?.length ?? null);
      if (array) hash.update(new Uint8Array(array.buffer, array.byteOffset, array.byteLength));
    }
  }
  return hash.digest('hex').slice(0, 64);
}

/** All of a part but its long arrays. */
const withoutArrays = (part: Part) => [
  [part.id, part.name, part.slot, part.mode],
  part.instances.map(({ world, copies }) => [world, copies]),
  part.undrawn.map(({ world, copies, role }) => [world, copies, role]),
  objectsOfParts([part]),
  part.primitive.listSemantics(),
];

function arraysOf(part: Part): ((ArrayBufferView & { length: number }) | null)[] {
  const stored = part.primitive.listSemantics().map((name) => part.primitive.getAttribute(name)?.getArray() ?? null);
  const { positions, normals, tangents, uvs, colors, indices } = part;
  return [
    positions,
    normals,
    tangents,
    ...uvs,
    colors,
    indices,
    part.primitive.getIndices()?.getArray() ?? null,
    ...stored,
  ];
}
