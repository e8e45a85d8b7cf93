import { join } from 'node:path';
import { Document } from '@gltf-transform/core';
import { cloneDocument, prune } from '@gltf-transform/functions';
import { SheetDecision } from '@wembrel/core/decisions/sheets';
import { InputError } from '@wembrel/core/errors';
import { type SheetFiles, SheetMaterials } from '@wembrel/core/handover/materials';
import { classKey, type MaterialClass } from '@wembrel/core/plan/route';
import type { RaySheetNeeds } from '@wembrel/core/rays/maps/sheet-maps';
import { DEFAULT_LOOK } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import { type FinishedMesh, finishedPrimitive } from '@wembrel/core/stand-in/document';
import type { JobScope } from '../pool/job-scope.ts';
import type { BakedSheet } from '../stages/bake.ts';
import { writeSheet } from '../stages/write-sheet.ts';
import type { Delivery } from '../write/delivery.ts';
import { validateGltf } from '../write/validate.ts';
import { dropUnused, type TextureFiles, writeModel } from '../write/write-models.ts';

/** Everything of one stand-in that is written. */
export interface StandInFiles {
  name: string;
  source: Model;
  /** Slots of the source that stay apart, by their position. */
  apart: ReadonlySet<number>;
  needs: RaySheetNeeds;
  sheet: BakedSheet;
}

/** Its class of material: opaque, or alpha-tested where something of the source was; cards always are, and have a back of their own. */
function materialClass({ masked }: RaySheetNeeds, card: boolean): MaterialClass {
  const alphaMode = masked || card ? ('MASK' as const) : ('OPAQUE' as const);
  const look = { ...DEFAULT_LOOK, alphaMode, doubleSided: masked && !card };
  return { ...look, key: classKey(look), nearest: false, mips: true };
}

/** The maps as files, named NAME_baseColor and so on. */
export async function writeMaps(
  { name, sheet, needs }: StandInFiles,
  margin: number,
  textures: TextureFiles | null,
  scope: JobScope,
): Promise<SheetFiles> {
  const decision = SheetDecision.parse({ id: 's1', name: 'stand-in', size: sheet.maps.width, margin });
  return writeSheet({ ...decision, name }, sheet, needs.occlusion, textures, scope);
}

/** Writes one level as a model of its own: the mesh with its material, and what stays apart as it was. @throws InputError where it is not valid */
export async function writeLevel(
  files: StandInFiles,
  { mesh, file, maps, card = false }: { mesh: FinishedMesh; file: string; maps: SheetFiles; card?: boolean },
  { delivery, textures, embed }: { delivery: Delivery; textures: TextureFiles; embed: boolean },
): Promise<void> {
  const { document, ...model } = await bare(files);
  const kind = materialClass(files.needs, card);
  const material = new SheetMaterials(document, new Map([[0, maps]]), [kind]).get(0, kind.key);
  const primitive = finishedPrimitive(document, mesh, material);
  const node = document.createNode(files.name).setMesh(document.createMesh(files.name).addPrimitive(primitive));
  const root = document.getRoot();
  const scene = root.getDefaultScene() ?? root.listScenes()[0] ?? document.createScene(files.name);
  root.setDefaultScene(scene.addChild(node));
  await writeModel({ ...model, document }, file, embed, textures, delivery);
  const [error] = await validateGltf(join(delivery.staging, file));
  if (error) throw new InputError(file, `the result is not valid glTF: ${error.text}`);
}

/** The source with nothing but what stays apart; it is left as it is. */
async function bare({ source, apart }: StandInFiles): Promise<Model> {
  if (apart.size === 0) {
    const document = new Document();
    document.createBuffer();
    return { ...source, document };
  }
  const document = cloneDocument(source.document);
  const names = new Set([...apart].map((slot) => source.slots[slot].material));
  const kept = source.document
    .getRoot()
    .listMaterials()
    .map((material) => names.has(material));
  const materials = document.getRoot().listMaterials();
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const material = primitive.getMaterial();
      if (!material || !kept[materials.indexOf(material)]) primitive.dispose();
    }
  for (const mesh of document.getRoot().listMeshes()) if (mesh.listPrimitives().length === 0) mesh.dispose();
  await document.transform(prune());
  dropUnused(document);
  return { ...source, document };
}
