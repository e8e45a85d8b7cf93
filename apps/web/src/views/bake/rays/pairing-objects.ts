import { freeName } from '@wembrel/core/decisions/free-name';
import type { PairingDecision, RayDecisions } from '@wembrel/core/decisions/ray-decisions';
import type { ObjectFacts } from '@wembrel/core/rays/pairing/object-facts';
import {
  type FoundPairings,
  type ObjectBox,
  pairByNames,
  pairByPlace,
  splitByWeight,
} from '@wembrel/core/rays/pairing/pairings';
import type { ObjectRef, SceneObject } from '@wembrel/core/rays/target/scene-objects';
import type { SurveyView } from '../../../contract/project.ts';

/** A placed mesh of the project. */
export interface ProjectObject extends SceneObject {
  facts: ObjectFacts;
}

export const keyOf = (objectRef: ObjectRef): string => `${objectRef.path}\u0000${objectRef.name}`;

/** All placed meshes of the sources, in their order. */
export function projectObjects(survey: SurveyView | null): ProjectObject[] {
  return (survey?.models ?? []).flatMap((modelFacts, model) =>
    modelFacts.bodies.map((facts, i) => ({
      model,
      path: modelFacts.path,
      name: facts.name,
      parts: [i],
      instance: 0,
      facts,
    })),
  );
}

/** Bodies that are in no pairing. */
export function unpaired(objects: readonly ProjectObject[], pairings: readonly PairingDecision[]): ProjectObject[] {
  const taken = new Set(
    pairings.flatMap((pairing) =>
      [...pairing.high, ...pairing.low, pairing.cage, pairing.surface].flatMap((object) =>
        object ? [keyOf(object)] : [],
      ),
    ),
  );
  return objects.filter((object) => !taken.has(keyOf(object)));
}

/** Pairings that names tell of objects that have none yet. */
export function pairedByNames(objects: readonly ProjectObject[], rays: RayDecisions): PairingDecision[] {
  return pairByNames(unpaired(objects, rays.pairings), rays.endings).pairings;
}

/** Pairings that places tell: the heavier objects are the high-polys, those with UVs the low-polys. */
export const pairedByPlace = (objects: readonly ProjectObject[], rays: RayDecisions): PairingDecision[] =>
  byPlace(unpaired(objects, rays.pairings)).pairings;

/** All pairings of a project with those that names tell of what has none yet, and then those that places tell. */
export function withAllPaired(objects: readonly ProjectObject[], rays: RayDecisions): PairingDecision[] {
  let pairings = [...rays.pairings];
  const add = (list: readonly PairingDecision[]) => {
    for (const pairing of list) pairings = [...pairings, { ...pairing, name: freshName(pairing.name, pairings) }];
  };
  add(pairedByNames(objects, { ...rays, pairings }));
  add(pairedByPlace(objects, { ...rays, pairings }));
  return pairings;
}

/** Low-polys that a pairing's high-polys fit nearly as well as its own, by the name of the pairing; what names tell is sure. */
export function ambiguousPartners(
  objects: readonly ProjectObject[],
  { pairings, endings }: RayDecisions,
): Map<string, string[]> {
  const sure = new Set(pairByNames([...objects], endings).pairings.flatMap((pairing) => pairing.high.map(keyOf)));
  const doubtful = pairings.filter((pairing) => pairing.high.some((high) => !sure.has(keyOf(high))));
  const members = new Set(doubtful.flatMap((pairing) => [...pairing.high, ...pairing.low].map(keyOf)));
  const { ambiguous = [] } = byPlace(objects.filter((object) => members.has(keyOf(object))));
  const out = new Map<string, string[]>();
  for (const { high, low } of ambiguous) {
    const own = doubtful.find((pairing) => pairing.high.some((one) => keyOf(one) === keyOf(high)));
    const others = low.filter((one) => !own?.low.some((mine) => keyOf(mine) === keyOf(one)));
    if (own && others.length > 0)
      out.set(own.name, [...(out.get(own.name) ?? []), ...others.map((one) => `${high.name} also fits ${one.name}`)]);
  }
  return out;
}

function byPlace(free: readonly ProjectObject[]): FoundPairings {
  const { high, low } = splitByWeight(free, (projectObject) => projectObject.facts.triangles);
  const boxes = new Map<SceneObject, ObjectBox>(free.map((projectObject) => [projectObject, projectObject.facts.box]));
  return pairByPlace(
    high,
    low.filter((projectObject) => projectObject.facts.uvs),
    boxes,
  );
}

/** A name that no pairing has yet. */
export function freshName(wanted: string, pairings: readonly PairingDecision[]): string {
  return freeName(wanted, new Set(pairings.map((pairing) => pairing.name)));
}

/** Objects in a few words: the first, and how many more. */
export function partsText(refs: readonly { name: string }[]): string {
  if (refs.length === 0) return 'none';
  return refs.length === 1 ? refs[0].name : `${refs[0].name} + ${refs.length - 1}`;
}
