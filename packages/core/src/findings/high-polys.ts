import type { RayDecisions } from '../decisions/ray-decisions.ts';
import { fileStem, readName } from '../rays/pairing/pairings.ts';
import type { SurveyFacts } from '../survey/facts.ts';
import type { Finding } from './finding.ts';

/** What is only of interest in a model that is drawn in the end: its UVs, its vertices, its texels, its draw calls. */
const OF_LOW_POLYS: ReadonlySet<string> = new Set([
  'clamped-repeats',
  'duplicate-mesh',
  'empty-area',
  'factor-materials',
  'flat-texture',
  'heavy-model',
  'heavy-outlier',
  'joinable-parts',
  'low-density',
  'mergeable-slots',
  'mirrored-uvs',
  'needless-splits',
  'no-uvs',
  'over-density',
  'overlapping-uvs',
  'oversized-texture',
  'repeats',
  'shifted-uvs',
  'stacked-uvs',
  'steep-smooth-edge',
  'stretched-uvs',
  'duplicate-materials',
  'unassigned-faces',
  'uneven-sizes',
  'uneven-tiles',
  'unsplit-hard-edge',
  'uv-tiles',
]);

/** Positions of the models of which nothing is drawn in the end: all their objects are high-polys, of a pairing or by their names. */
function highPolyModels({ models }: Pick<SurveyFacts, 'models'>, rays: RayDecisions): Set<number> {
  const key = (path: string, name: string) => `${path}\0${name}`;
  const refs = (of: 'high' | 'low') =>
    new Set(rays.pairings.flatMap((pairing) => pairing[of].map((ref) => key(ref.path, ref.name))));
  const [high, low] = [refs('high'), refs('low')];
  const isHigh = (path: string, name: string): boolean => {
    if (high.has(key(path, name))) return true;
    if (low.has(key(path, name))) return false;
    const said = readName(name, rays.endings) ?? readName(fileStem(path), rays.endings);
    return said?.kind === 'high';
  };
  return new Set(
    models.flatMap(({ path, bodies }, i) =>
      bodies.length > 0 && bodies.every((body) => isHigh(path, body.name)) ? [i] : [],
    ),
  );
}

/** Without what is said of high-polys as if they were drawn. */
export function withoutHighPolys(findings: readonly Finding[], facts: SurveyFacts, rays: RayDecisions): Finding[] {
  const high = highPolyModels(facts, rays);
  if (high.size === 0) return [...findings];
  const modelsOf = ({ objects }: Finding): number[] => [
    ...(objects.models ?? []),
    ...(objects.slots ?? []).map((slot) => facts.slots[slot].model),
    ...(objects.parts ?? []).map(([model]) => model),
  ];
  return findings.filter((finding) => {
    if (!OF_LOW_POLYS.has(finding.code)) return true;
    const models = modelsOf(finding);
    return models.length === 0 || models.some((model) => !high.has(model));
  });
}
