import { join } from 'node:path';
import { SheetDecision } from '@wembrel/core/decisions/sheets';
import { InputError } from '@wembrel/core/errors';
import { type SheetFiles, SheetMaterials } from '@wembrel/core/handover/materials';
import { classKey, type MaterialClass } from '@wembrel/core/plan/route';
import { DEFAULT_LOOK } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { writeSheet } from '../stages/write-sheet.ts';
import type { Delivery } from '../write/delivery.ts';
import { validateGltf } from '../write/validate.ts';
import { dropUnused, type TextureFiles, writeModel } from '../write/write-models.ts';
import type { Dressed } from './dress.ts';

/** Where the files of a run go. */
export interface Destination {
  delivery: Delivery;
  textures: TextureFiles;
  embed: boolean;
}

/** The maps as files, named NAME_baseColor and so on. */
export function writeMaps(
  name: string,
  { sheet, needs }: Pick<Dressed, 'sheet' | 'needs'>,
  margin: number,
  to: Destination,
  scope: JobScope,
): Promise<SheetFiles> {
  // Its size says nothing here: maps are as large as they are.
  const decision = SheetDecision.parse({ id: 's1', name: 'recipe', size: 2048, margin });
  return writeSheet({ ...decision, name }, sheet, needs.occlusion, to.embed ? null : to.textures, scope);
}

/** Gives a model its new material, in its document, and writes it. @throws InputError where the result is not valid */
export async function writeDressed(
  file: string,
  { model, apart, needs }: { model: Model; apart: ReadonlySet<number> } & Pick<Dressed, 'needs'>,
  maps: SheetFiles,
  to: Destination,
): Promise<void> {
  const doubleSided = model.slots.some((slot, s) => !apart.has(s) && slot.look.doubleSided);
  const look = { ...DEFAULT_LOOK, alphaMode: needs.masked ? ('MASK' as const) : ('OPAQUE' as const), doubleSided };
  const kind: MaterialClass = { ...look, key: classKey(look), nearest: false, mips: true };
  const material = new SheetMaterials(model.document, new Map([[0, maps]]), [kind]).get(0, kind.key);
  for (const part of model.parts) {
    if (apart.has(part.slot) || part.mode < 4) continue;
    // Colours of vertices are in the sheet now.
    part.primitive.setMaterial(material).setAttribute('COLOR_0', null).setExtension('KHR_materials_variants', null);
  }
  dropUnused(model.document);
  await writeModel(model, file, to.embed, to.textures, to.delivery);
  const [error] = await validateGltf(join(to.delivery.staging, file));
  if (error) throw new InputError(file, `the result is not valid glTF: ${error.text}`);
}
