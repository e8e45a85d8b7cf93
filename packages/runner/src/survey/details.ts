import { cellBounds, channelEncoding, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { partsForGroups } from '@wembrel/core/faces/group-faces';
import { coarseLikeness, LIKENESS, likenessDistance, mayBeAlike } from '@wembrel/core/image/analysis';
import { isNearDuplicate, type PictureSense } from '@wembrel/core/image/near-duplicate';
import { textureBytes } from '@wembrel/core/image/texture-memory';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { byteColumn, weldVertices } from '@wembrel/core/mesh/weld';
import { objectFacts } from '@wembrel/core/rays/pairing/object-facts';
import { drawnSpan } from '@wembrel/core/scene/drawn-span';
import { IMAGE_CHANNELS, READERS } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import type { ModelFacts, NearDuplicates, PictureFacts, SurveyFacts } from '@wembrel/core/survey/facts';
import { texturesByUse, usedTextures } from '@wembrel/core/survey/figures';
import type { Coverage } from '@wembrel/core/survey/slot-facts';
import type { LevelSet } from '@wembrel/kernels/sample';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { sideBySide } from '../pool/side-by-side.ts';
import { type OnProgress, reporter } from '../progress.ts';
import { imageKey } from '../read/image-keys.ts';
import type { Images } from '../read/images.ts';
import { PREVIEW_TRIANGLES } from '../reduce/reduce.ts';
import type { ReadFiles, ReadModel } from '../stages/read.ts';
import { viewTasks } from '../stages/view-tasks.ts';
import { slotsOfModels } from './slots-of-models.ts';

/**
 * How far the small likenesses of near-duplicates can differ at most (of 255; normals: length of the difference): what the bounds on mean and
 * worst block allow, since a mean of differences is never less than the difference of means. Colours have some room, their bounds being in
 * another space.
 */
const CAN_DIFFER: Record<PictureSense, { mean: number; worst: number }> = {
  colour: { mean: 12, worst: 30 },
  data: { mean: 5.1 + 0.5, worst: 12.75 + 0.5 },
  normal: { mean: 4.45 + 1, worst: 11.2 + 1 },
};
/** From this common size on a cell of the likeness holds whole 8×8 blocks. */
const WHOLE_BLOCKS = LIKENESS * 8;
/** Full comparisons of pictures, at most, the most alike at a glance first; beyond it near-duplicates may be missed. */
const MOST_COMPARISONS = 400;

/** What the views and findings need beyond the figures. */
export type SurveyDetails = Omit<SurveyFacts, 'totals' | 'errors'>;

/**
 * Every slot with its facts, every distinct texture, the size of every model.
 * @param order the files as they were given
 * @throws Cancelled
 */
export async function surveyDetails(
  read: ReadFiles,
  order: readonly unknown[],
  scope?: JobScope,
  onProgress?: OnProgress,
): Promise<SurveyDetails> {
  await tangentsReady;
  const report = reporter(onProgress);
  const { images } = read;
  const models = read.models.map((model) => model.model);
  const pictures = pictureRows(read);
  const coverage: Coverage = new Map();
  const slots = await slotsOfModels(models, images, {
    cache: scope?.cache ?? null,
    scope: scope ?? null,
    coverage,
    checkpoint: (share) => {
      scope?.checkpoint();
      report('survey', share * 0.7, 'looking at surfaces');
    },
  });
  for (const picture of pictures.values()) {
    const grid = coverage.get(picture.key);
    if (grid) picture.used = grid.reduce((sum, v) => sum + v, 0) / grid.length;
  }
  const rows = [...pictures.values()];
  const nearDuplicates = scope
    ? await findNearDuplicates(rows, images, scope, (s) => report('survey', 0.7 + 0.2 * s, 'comparing textures'))
    : [];
  if (scope) {
    const normals = rows.filter((row) => row.sense === 'normal' && !row.nearlyFlat);
    await sideBySide(normals.length, scope.threads, async (i) => {
      scope.checkpoint();
      const { path, name, stored } = images.byPixels(normals[i].key);
      const find = () => scope.run(pictureTasks.normals, { path, name, bytes: stored });
      normals[i].normals = await (scope.cache?.of('normals', normals[i].key, find) ?? find());
      report('survey', 0.9 + (0.1 * i) / normals.length, 'looking at normal maps');
    });
  }
  return {
    models: read.models.map((model) => modelRow(model, order)),
    slots,
    pictures: rows,
    nearDuplicates,
    loose: read.loose,
  };
}

function modelRow({ model, file, figures, edited }: ReadModel, order: readonly unknown[]): ModelFacts {
  const used = new Set(usedTextures(model));
  const root = model.document.getRoot();
  return {
    path: model.path,
    file: order.indexOf(file),
    format: model.format,
    span: drawnSpan(model),
    triangles: figures.triangles,
    reduced: figures.triangles > PREVIEW_TRIANGLES,
    unused: root
      .listTextures()
      .filter((texture) => !used.has(texture))
      .map((texture) => texture.getName() || texture.getURI() || 'unnamed'),
    missing: model.missing,
    sideFiles: model.sideFiles,
    slotSplits: slotSplits(model),
    meshes: root.listMeshes().map((mesh, i) => mesh.getName() || `mesh ${i}`),
    bodies: objectFacts(model),
    parts: edited?.parts ?? partsForGroups(model).parts,
    edited: edited && { reports: edited.reports, origins: edited.origins },
  };
}

/** Places of a mesh that several of its slots use, counted once for each further slot. */
function slotSplits(model: Model): number {
  let extra = 0;
  const byMesh = new Map<unknown, Float32Array[]>();
  for (const part of model.parts) byMesh.set(part.mesh, [...(byMesh.get(part.mesh) ?? []), part.positions]);
  const distinct = (list: Float32Array[]) => {
    const all = new Float32Array(list.reduce((sum, l) => sum + l.length, 0));
    let at = 0;
    for (const l of list) {
      all.set(l, at);
      at += l.length;
    }
    return weldVertices([byteColumn(all, 3)], all.length / 3).count;
  };
  for (const lists of byMesh.values())
    if (lists.length > 1) extra += lists.reduce((sum, list) => sum + distinct([list]), 0) - distinct(lists);
  return extra;
}

function pictureRows(read: ReadFiles): Map<string, PictureFacts> {
  const { images } = read;
  const pictures = new Map<string, PictureFacts>();
  const senses = new Map<string, PictureSense>();
  for (const { model } of read.models)
    for (const { look } of model.slots) {
      if (look.normal) senses.set(images.pixelKey(look.normal.image), 'normal');
    }
  read.models.forEach(({ model }, m) => {
    const here = new Set<string>();
    for (const { key, facts, name, colour } of texturesByUse(model, images.facts, imageKey)) {
      let row = pictures.get(key);
      if (!row) {
        const e = images.byPixels(facts.pixelKey);
        row = {
          key: facts.pixelKey,
          name,
          width: facts.width,
          height: facts.height,
          bits: facts.bits,
          colour,
          sense: colour ? 'colour' : (senses.get(facts.pixelKey) ?? 'data'),
          flat: e.flat,
          nearlyFlat: e.nearlyFlat,
          bytes: textureBytes(facts.width, facts.height),
          copies: 0,
          models: 0,
          places: [],
          mean: e.mean,
          min: e.min,
          max: e.max,
          grey: e.grey,
          usefulSide: e.usefulSide,
          used: 1,
          normals: null,
        };
        pictures.set(key, row);
      }
      row.copies++;
      row.places.push({ model: m, name });
      if (!here.has(key)) row.models++;
      here.add(key);
    }
  });
  return pictures;
}

/** near-duplicates among the pictures: those that look alike at a glance are compared in full ("Counts and sizes", Near-duplicate). */
async function findNearDuplicates(
  rows: PictureFacts[],
  images: Images,
  scope: JobScope,
  progress: (share: number) => void,
): Promise<NearDuplicates[]> {
  const seen = rows.map((row) => {
    const { likeness } = images.byPixels(row.key);
    return { likeness, coarse: coarseLikeness(likeness) };
  });
  const alike: { a: PictureFacts; b: PictureFacts; mean: number }[] = [];
  for (let i = 0; i < rows.length; i++)
    for (let j = i + 1; j < rows.length; j++) {
      const [facts, b] = [rows[i], rows[j]];
      if (facts.key === b.key || facts.sense !== b.sense || facts.nearlyFlat || b.nearlyFlat) continue;
      const aspect = (facts.width * b.height) / (facts.height * b.width);
      if (aspect > 1.01 || aspect < 0.99) continue;
      const whole = Math.min(facts.width, b.width, facts.height, b.height) >= WHOLE_BLOCKS;
      const can = whole ? CAN_DIFFER[facts.sense] : { ...CAN_DIFFER[facts.sense], worst: Number.POSITIVE_INFINITY };
      const vectors = facts.sense === 'normal';
      if (!mayBeAlike(seen[i].coarse, seen[j].coarse, vectors, can)) continue;
      const d = likenessDistance(seen[i].likeness, seen[j].likeness, vectors, can);
      if (d) alike.push({ a: facts, b, mean: d.mean });
    }
  const candidates = alike
    .sort((x, y) => x.mean - y.mean)
    .slice(0, MOST_COMPARISONS)
    // One picture after the other, so that workers find it decoded.
    .sort((x, y) => (x.a.key < y.a.key ? -1 : x.a.key > y.a.key ? 1 : x.mean - y.mean));
  const out: NearDuplicates[] = [];
  let done = 0;
  await sideBySide(candidates.length, scope.threads, async (i) => {
    scope.checkpoint();
    const { a: facts, b } = candidates[i];
    const { path, stored } = images.byPixels(facts.key);
    const find = () =>
      scope.run(pictureTasks.likeness, {
        path,
        a: { key: facts.key, bytes: stored },
        b: { key: b.key, bytes: images.byPixels(b.key).stored },
        sense: facts.sense,
      });
    const likeness = await (scope.cache?.of('likeness', `${facts.key} ${b.key} ${facts.sense}`, find) ?? find());
    if (isNearDuplicate(likeness)) out.push({ a: facts.key, b: b.key, ...likeness });
    progress(++done / candidates.length);
  });
  return out.sort((x, y) => x.mean - y.mean || (x.a + x.b < y.a + y.b ? -1 : 1));
}

/** A small picture of one model with its textures, R G B A, clear where the model is not. */
export async function modelPicture(model: Model, images: Images, scope: JobScope, size: number): Promise<Uint8Array> {
  const scene = drawScene([model], size);
  const table = new Map<string, Promise<LevelSet>>();
  for (const part of model.parts) {
    const { look } = model.slots[part.slot];
    for (const channel of IMAGE_CHANNELS) {
      const use = look[channel];
      if (!use) continue;
      const key = textureKey(use.image, channel, look);
      const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
      if (!table.has(key)) table.set(key, images.levels(use.image, channelEncoding(channel), weighted, true, READERS));
    }
  }
  const textures = new Map(await Promise.all([...table].map(async ([k, v]) => [k, await v] as const)));
  return scope.run(viewTasks.modelPicture, { scene, textures, bounds: cellBounds(scene), size });
}
