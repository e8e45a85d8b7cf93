import { tangentsReady } from '@wembrel/core/bake/tangents';
import { cellBounds, channelEncoding, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { IMAGE_CHANNELS } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import { texturesByUse } from '@wembrel/core/survey/figures';
import { type SlotFacts, slotFacts } from '@wembrel/core/survey/slot-facts';
import { type TextureBytes, textureBytes } from '@wembrel/core/survey/texture-memory';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { Images } from './images.ts';
import type { Pool } from './pool/pool.ts';
import { imageKey } from './read/load.ts';
import { PREVIEW_TRIANGLES } from './reduce.ts';
import type { ReadFiles } from './survey.ts';

/** One texture of the pile; twins are one row. */
export interface PictureFacts {
  /** Hash of the decoded pixels. */
  key: string;
  name: string;
  width: number;
  height: number;
  bits: 8 | 16;
  colour: boolean;
  /** Every texel is the same. */
  flat: boolean;
  bytes: TextureBytes;
  /** How many textures of the files are this one, and in how many models. */
  copies: number;
  models: number;
  /** Mean of R, G and B as stored, 0 … 255. */
  mean: [number, number, number];
}

export interface ModelFacts {
  path: string;
  /** Position among the files that were given. */
  file: number;
  /** Longest side of its box, m. */
  span: number;
  /** Triangles as drawn; above `PREVIEW_TRIANGLES` there is a reduced copy for looking at. */
  triangles: number;
  reduced: boolean;
}

export interface SurveyDetails {
  models: ModelFacts[];
  slots: SlotFacts[];
  pictures: PictureFacts[];
}

/** What the views need beyond the figures: every slot with its facts, every distinct texture, the size of every model. */
export async function surveyDetails(read: ReadFiles, order: readonly unknown[]): Promise<SurveyDetails> {
  await tangentsReady;
  const { images } = read;
  const models = read.models.map((m) => m.model);
  const pictures = new Map<string, PictureFacts>();
  read.models.forEach(({ model }) => {
    const here = new Set<string>();
    for (const { key, facts, name, colour } of texturesByUse(model, images.facts, imageKey)) {
      let row = pictures.get(key);
      if (!row) {
        row = {
          key: facts.pixelKey,
          name,
          width: facts.width,
          height: facts.height,
          bits: facts.bits,
          colour,
          flat: images.byPixels(facts.pixelKey).flat,
          bytes: textureBytes(facts.width, facts.height),
          copies: 0,
          models: 0,
          mean: images.byPixels(facts.pixelKey).mean,
        };
        pictures.set(key, row);
      }
      row.copies++;
      if (!here.has(key)) row.models++;
      here.add(key);
    }
  });
  return {
    models: read.models.map(({ model, file, figures }) => ({
      path: model.path,
      file: order.indexOf(file),
      span: spanOf(model),
      triangles: figures.triangles,
      reduced: figures.triangles > PREVIEW_TRIANGLES,
    })),
    slots: slotFacts(
      models,
      (i) => images.size(i),
      (i) => images.pixelKey(i),
    ),
    pictures: [...pictures.values()],
  };
}

function spanOf(model: Model): number {
  const [box] = cellBounds(drawScene([model], 1));
  if (!(box[3] >= box[0])) return 0;
  return Math.max(box[3] - box[0], box[4] - box[1], box[5] - box[2]);
}

/** A small picture of one model with its textures, R G B A, clear where the model is not. */
export async function modelPicture(model: Model, images: Images, pool: Pool, size: number): Promise<Uint8Array> {
  const scene = drawScene([model], size);
  const table = new Map<string, Promise<LevelSet>>();
  for (const part of model.parts) {
    const { look } = model.slots[part.slot];
    for (const channel of IMAGE_CHANNELS) {
      const use = look[channel];
      if (!use) continue;
      const key = textureKey(use.image, channel, look);
      const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
      if (!table.has(key)) table.set(key, images.levels(use.image, channelEncoding(channel), weighted, true));
    }
  }
  const textures = new Map(await Promise.all([...table].map(async ([k, v]) => [k, await v] as const)));
  return pool.run('modelPicture', { scene, textures, bounds: cellBounds(scene), size });
}
