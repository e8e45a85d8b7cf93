import { join } from 'node:path';
import type { Material } from '@gltf-transform/core';
import type { TargetPart } from '@wembrel/core/bake/target';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Cancelled, sentence } from '@wembrel/core/errors';
import { commonNames, type NamedLook } from '@wembrel/core/handover/common-names';
import { joinParts, joinPrimitives } from '@wembrel/core/handover/join';
import { type SheetFiles, SheetMaterials } from '@wembrel/core/handover/materials';
import { Names, stem } from '@wembrel/core/handover/names';
import { addMissingUvs, applyTargets, tidy } from '@wembrel/core/handover/rebuild';
import { joiningOf } from '@wembrel/core/plan/draw-calls';
import { type Routing, slotKey } from '@wembrel/core/plan/route';
import { lookKey, materialLook } from '@wembrel/core/scene/material';
import { type Model, undrawnRole } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import type { InputFile } from '../read/collect.ts';
import { imageKey } from '../read/image-keys.ts';
import { sideFile } from '../read/side-files.ts';
import type { Delivery } from '../write/delivery.ts';
import { validateGltf } from '../write/validate.ts';
import { TextureFiles, writeModel } from '../write/write-models.ts';
import type { BakedSheet } from './bake.ts';
import type { StageContext } from './context.ts';
import type { LaidOut } from './lay-out.ts';
import { type ReadFiles, readFiles } from './read.ts';
import { type ModelFailure, UndeliverableModels } from './undeliverable.ts';
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
  /** What is not valid in results because it already was not in their sources, by model. */
  sourceErrors: ModelFailure[];
}

/**
 * The sixth stage: writes the sheets and every model, reads them again and has them checked. It uses up the documents of its input.
 * @param sources file of each model
 * @throws UndeliverableModels naming those that cannot be written or read back, or are not valid though their sources are @throws Cancelled
 */
export async function handOver(
  laidOut: LaidOut,
  baked: ReadonlyMap<number, BakedSheet>,
  decisions: MergeDecisions,
  { delivery, sources }: { delivery: Delivery; sources: readonly InputFile[] },
  context: StageContext,
): Promise<HandedOver> {
  const { scope, report } = context;
  report('handover', 0, 'writing textures');
  const names = new Names();
  const modelFiles = sources.map(({ name }) => names.claim(stem(name), '.glb'));
  names.claim('manifest', '.json');
  names.claim('report', '.json');
  names.claim('fidelity', '.json');
  const textures = new TextureFiles(new Names(), delivery);
  const sheets = await writeSheets(laidOut, baked, decisions, decisions.embed ? null : textures, scope);
  const common = decisions.sameNames ? commonNames(laidOut.models.map(namedLooks)) : new Map<string, string>();
  const withoutUvs: string[] = [];
  const failures: ModelFailure[] = [];
  for (const [m, model] of laidOut.models.entries()) {
    scope.checkpoint();
    report('handover', 0.3 + (0.4 * m) / laidOut.models.length, `writing ${modelFiles[m]}`);
    try {
      withoutUvs.push(...rebuild(laidOut, m, sheets, decisions));
      renameMaterials(model, common);
      await writeModel(model, modelFiles[m], decisions.embed, textures, delivery);
    } catch (error) {
      if (error instanceof Cancelled) throw error;
      failures.push({ model: m, reason: `cannot be written: ${sentence(error)}` });
    }
  }
  if (failures.length > 0) throw new UndeliverableModels(failures);
  report('handover', 0.75, 'reading the result again');
  const { again, sourceErrors } = await readAgain(modelFiles, sources, delivery, scope);
  return { names, modelFiles, sheets, withoutUvs, again, sourceErrors };
}

const lookOf = (material: Material): string => lookKey(materialLook(material, imageKey), (image) => image);

/** The materials of a model that may share a name with others: those of which all is known. */
const namedLooks = ({ document }: Model): NamedLook[] =>
  document
    .getRoot()
    .listMaterials()
    .filter((material) => materialLook(material, imageKey).foreign.length === 0)
    .map((material) => ({ look: lookOf(material), name: material.getName() }));

/** @param names by look */
function renameMaterials({ document }: Model, names: ReadonlyMap<string, string>): void {
  if (names.size === 0) return;
  for (const material of document.getRoot().listMaterials()) {
    const name = names.get(lookOf(material));
    if (name !== undefined) material.setName(name);
  }
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
  bareCollisionShapes(models[m], m, own, routing);
  const withoutUvs = addMissingUvs(document);
  if (own.length > 0) applyTargets(models[m], own, routing.materials, material);
  else tidy(document);
  const joining = joiningOf(decisions);
  if (joining === 'scene') joinParts(document, decisions.keepParts);
  else if (joining === 'mesh') joinPrimitives(document, material.materials);
  return withoutUvs;
}

/**
 * Takes the merged material off collision shapes that have no place on its sheet: nobody sees them, and their source's textures would stay
 * in the file for them alone.
 */
function bareCollisionShapes({ parts }: Model, m: number, own: readonly TargetPart[], { routed }: Routing): void {
  const placed = new Set(own.map((target) => target.part));
  for (const part of parts)
    if (undrawnRole(part) === 'collision' && routed.has(slotKey(m, part.slot)) && !placed.has(part.id))
      part.primitive.setMaterial(null);
}

/** Reads everything again as anybody would, and has it checked. @throws UndeliverableModels */
async function readAgain(
  files: string[],
  sources: readonly InputFile[],
  delivery: Delivery,
  scope: JobScope,
): Promise<Pick<HandedOver, 'again' | 'sourceErrors'>> {
  const paths = files.map((name) => ({ name, path: join(delivery.staging, name) }));
  const again = await readFiles(paths, scope);
  const failures: ModelFailure[] = again.report.errors.map(({ path, message }) => ({
    model: files.indexOf(path),
    reason: `the result could not be read again: ${message}`,
  }));
  const sourceErrors: ModelFailure[] = [];
  for (const [model, { path }] of paths.entries()) {
    if (failures.some((failure) => failure.model === model)) continue;
    const errors = await validateGltf(path);
    if (errors.length === 0) continue;
    const known = await sourceCodes(sources[model]);
    const made = errors.find(({ code }) => !known.has(code));
    if (made) failures.push({ model, reason: `the result is not valid glTF: ${made.text}` });
    else sourceErrors.push({ model, reason: `the source is not valid glTF, nor is the result: ${errors[0].text}` });
  }
  if (failures.length > 0) throw new UndeliverableModels(failures);
  return { again, sourceErrors };
}

/** Words of the validator for what is wrong in a source. */
async function sourceCodes(source: InputFile): Promise<Set<string>> {
  if (!/\.(glb|gltf)$/i.test(source.name)) return new Set();
  const beside = (uri: string) => {
    const side = sideFile(source, uri);
    return side ? side.path : '';
  };
  const errors = await validateGltf(source.path, beside).catch(() => []);
  return new Set(errors.map((error) => error.code));
}
