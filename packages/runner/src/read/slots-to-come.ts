import { Document } from '@gltf-transform/core';
import { type FaceDecisions, facesInForce, slotsNamedBy } from '@wembrel/core/decisions/face-decisions';
import type { ReadingDecisions } from '@wembrel/core/decisions/reading';
import type { InputError } from '@wembrel/core/errors';
import { type Model, readModel } from '@wembrel/core/scene/model';
import type { LooseTexture } from '@wembrel/core/survey/facts';
import type { PictureWork } from '../pictures/work.ts';
import type { InputFile } from './collect.ts';
import { imageKey } from './image-keys.ts';
import { assignLoose } from './loose-textures.ts';

export interface SlotsToCome {
  /** A model that draws nothing worth seeing: its slots are those that changes of faces make; null where no picture is for one. */
  model: Model | null;
  /** A row for each picture that found its slot here. */
  rows: LooseTexture[];
}

export interface ComingInput {
  models: readonly (Model | null)[];
  faces: FaceDecisions;
  /** Pictures that found no slot of a model. */
  textures: readonly InputFile[];
  reading: ReadingDecisions;
  work: PictureWork;
}

/** Slots that changes of faces make, with the loose pictures that are for them: faces are laid on them in the proportion of those. */
export async function slotsToCome({ models, faces, textures, reading, work }: ComingInput): Promise<SlotsToCome> {
  const there = new Set(models.flatMap((model) => model?.slots.map((slot) => slot.name) ?? []));
  const names = [...slotsNamedBy(facesInForce(faces).edits)].filter((name) => !there.has(name));
  if (names.length === 0 || textures.length === 0) return { model: null, rows: [] };
  const results: (Model | InputError)[] = [modelOf(names)];
  // Rows say "model: slot"; the model here is none, and its name is taken off again.
  const rows = await assignLoose([{ name: 'faces', path: '' }], results, {
    textures: [...textures],
    reading,
    work,
    again: async (_, read) => {
      results[0] = await read();
    },
  });
  const found = rows.filter((row) => row.to.length > 0);
  return {
    model: found.length > 0 ? (results[0] as Model) : null,
    rows: found.map((row) => ({ ...row, to: row.to.map((to) => to.replace(/^faces: /, '')) })),
  };
}

/** A model with a triangle for each slot. */
function modelOf(names: readonly string[]): Model {
  const document = new Document();
  const buffer = document.createBuffer();
  const corners = document.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(buffer);
  const mesh = document.createMesh();
  for (const name of names)
    mesh.addPrimitive(
      document
        .createPrimitive()
        .setAttribute('POSITION', corners)
        .setMaterial(document.createMaterial(name).setMetallicFactor(0)),
    );
  document.createScene().addChild(document.createNode().setMesh(mesh));
  return readModel('slots to come', document, imageKey);
}
