import { join } from 'node:path';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { joinParts } from '@wembrel/core/handover/join';
import { type SheetFiles, SheetMaterials } from '@wembrel/core/handover/materials';
import { Names, stem } from '@wembrel/core/handover/names';
import { addMissingUvs, applyTargets, tidy } from '@wembrel/core/handover/rebuild';
import type { JobScope } from '../pool/job-scope.ts';
import type { Delivery } from '../write/delivery.ts';
import { validateGltf } from '../write/validate.ts';
import { TextureFiles, writeModel } from '../write/write-models.ts';
import type { BakedSheet } from './bake.ts';
import type { StageContext } from './context.ts';
import type { LaidOut } from './lay-out.ts';
import { type ReadFiles, readFiles } from './read.ts';
import { writeSheet } from './write-sheet.ts';

/** Models and textures as they were written, still aside. */
export interface HandedOver {
  /** Names in the delivery, so that nothing else takes them. */
  names: Names;
  /** File of each model. */
  modelFiles: string[];
  /** Files and factors of every sheet, by its position in the layout. */
  sheets: Map<number, SheetFiles>;
  /** Slots that got UVs of zeros, since their textures need some and there were none. */
  withoutUvs: string[];
  /** What was written, read again as anybody would. */
  again: ReadFiles;
}

/**
 * The sixth stage: writes the sheets and every model, reads them again and has them checked. It uses up the documents of its input.
 * @param sourceNames of each model's file
 * @throws Error when something that was written cannot be read again or is not valid @throws Cancelled
 */
export async function handOver(
  laidOut: LaidOut,
  baked: ReadonlyMap<number, BakedSheet>,
  decisions: MergeDecisions,
  { delivery, sourceNames }: { delivery: Delivery; sourceNames: readonly string[] },
  context: StageContext,
): Promise<HandedOver> {
  const { scope, report } = context;
  report('handover', 0, 'writing textures');
  const names = new Names();
  const modelFiles = sourceNames.map((name) => names.claim(stem(name), '.glb'));
  names.claim('manifest', '.json');
  names.claim('report', '.json');
  const textures = new TextureFiles(new Names(), delivery);
  const sheets = await writeSheets(laidOut, baked, decisions, decisions.embed ? null : textures, scope);
  const withoutUvs: string[] = [];
  for (const [m, model] of laidOut.models.entries()) {
    scope.checkpoint();
    report('handover', 0.3 + (0.4 * m) / laidOut.models.length, `writing ${modelFiles[m]}`);
    withoutUvs.push(...rebuild(laidOut, m, sheets, decisions));
    await writeModel(model, modelFiles[m], decisions.embed, textures, delivery);
  }
  report('handover', 0.75, 'reading the result again');
  const again = await readAgain(modelFiles, delivery, scope);
  return { names, modelFiles, sheets, withoutUvs, again };
}

async function writeSheets(
  { routing }: LaidOut,
  baked: ReadonlyMap<number, BakedSheet>,
  decisions: MergeDecisions,
  textures: TextureFiles | null,
  scope: JobScope,
): Promise<Map<number, SheetFiles>> {
  const sheets = new Map<number, SheetFiles>();
  for (const [s, sheet] of baked) {
    const occlusion = routing.materials.some((material) => material.sheet === s && material.look.occlusion);
    sheets.set(s, await writeSheet(decisions.sheets[s], sheet, occlusion, textures, scope));
  }
  return sheets;
}

/** Gives a model its new UVs and materials. @returns slots that got UVs of zeros */
function rebuild(
  { models, targets, routing }: LaidOut,
  m: number,
  sheets: ReadonlyMap<number, SheetFiles>,
  decisions: MergeDecisions,
): string[] {
  const { document } = models[m];
  const own = targets.filter((target) => target.model === m);
  const material = new SheetMaterials(document, sheets, routing.classes);
  const withoutUvs = addMissingUvs(document);
  if (own.length > 0) applyTargets(models[m], own, routing.materials, material);
  else tidy(document);
  if (decisions.join) joinParts(document, decisions.keepParts);
  return withoutUvs;
}

/** Reads everything again as anybody would, and has it checked. */
async function readAgain(files: string[], delivery: Delivery, scope: JobScope): Promise<ReadFiles> {
  const paths = files.map((name) => ({ name, path: join(delivery.staging, name) }));
  const again = await readFiles(paths, scope);
  const [error] = again.report.errors;
  if (error) throw new Error(`the result "${error.path}" could not be read again: ${error.message}`);
  for (const { name, path } of paths) {
    const [problem] = await validateGltf(path);
    if (problem) throw new Error(`the result "${name}" is not valid glTF: ${problem}`);
  }
  return again;
}
