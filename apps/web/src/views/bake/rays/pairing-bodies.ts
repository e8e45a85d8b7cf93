import type { PairingDecision, RayDecisions } from '@wembrel/core/decisions/ray-decisions';
import type { BodyFacts } from '@wembrel/core/rays/pairing/body-facts';
import { type BodyBox, pairByNames, pairByPlace, splitByWeight } from '@wembrel/core/rays/pairing/pairings';
import type { Body, BodyRef } from '@wembrel/core/rays/target/bodies';
import type { SurveyView } from '../../../contract/project.ts';

/** A placed mesh of the project. */
export interface ProjectBody extends Body {
  facts: BodyFacts;
}

export const keyOf = (r: BodyRef): string => `${r.path}\u0000${r.name}`;

/** All placed meshes of the sources, in their order. */
export function projectBodies(survey: SurveyView | null): ProjectBody[] {
  return (survey?.models ?? []).flatMap((m, model) =>
    m.bodies.map((facts, i) => ({ model, path: m.path, name: facts.name, parts: [i], instance: 0, facts })),
  );
}

/** Bodies that are in no pairing. */
export function unpaired(bodies: readonly ProjectBody[], pairings: readonly PairingDecision[]): ProjectBody[] {
  const taken = new Set(
    pairings.flatMap((p) => [...p.high, ...p.low, p.cage, p.surface].flatMap((r) => (r ? [keyOf(r)] : []))),
  );
  return bodies.filter((b) => !taken.has(keyOf(b)));
}

/** Pairings that names tell of bodies that have none yet. */
export function pairedByNames(bodies: readonly ProjectBody[], rays: RayDecisions): PairingDecision[] {
  return pairByNames(unpaired(bodies, rays.pairings), rays.endings).pairings;
}

/** Pairings that places tell: the heavier bodies are the high-polys, those with UVs the low-polys. */
export function pairedByPlace(bodies: readonly ProjectBody[], rays: RayDecisions): PairingDecision[] {
  const free = unpaired(bodies, rays.pairings);
  const { high, low } = splitByWeight(free, (b) => b.facts.triangles);
  const boxes = new Map<Body, BodyBox>(free.map((b) => [b, b.facts.box]));
  return pairByPlace(
    high,
    low.filter((b) => b.facts.uvs),
    boxes,
  ).pairings;
}

/** A name that no pairing has yet. */
export function freshName(wanted: string, pairings: readonly PairingDecision[]): string {
  const taken = new Set(pairings.map((p) => p.name));
  let name = wanted;
  for (let i = 2; taken.has(name); i++) name = `${wanted} ${i}`;
  return name;
}
