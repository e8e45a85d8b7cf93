import type { Read } from '../decisions/reads.ts';
import type { SurveyFacts } from '../survey/facts.ts';
import { bySaving, type Finding } from './finding.ts';
import { duplicateMeshes, heavyModels, heavyOutliers, oddFaces, oddNormals } from './geometry.ts';
import { groupBy } from './group-by.ts';
import { withoutHighPolys } from './high-polys.ts';
import { nameClashes, requiredNames } from './names.ts';
import { blendedSlots, densityFindings, duplicateMaterials, spareDrawCalls } from './slots.ts';
import {
  duplicateTextures,
  emptyArea,
  strayTextures,
  textureSizes,
  unevenSizes,
  unusedChannels,
  wrongReading,
} from './textures.ts';
import { uvFindings } from './uvs.ts';

/** Every code that a finding may have; docs/findings.md says what each means. */
export const FINDING_CODES = [
  'alpha-blended',
  'clamped-repeats',
  'colour-and-data',
  'degenerate-faces',
  'duplicate-faces',
  'duplicate-mesh',
  'empty-area',
  'encoded-normals',
  'factor-materials',
  'flat-texture',
  'heavy-model',
  'heavy-outlier',
  'joinable-parts',
  'low-density',
  'mergeable-slots',
  'mirrored-uvs',
  'missing-texture',
  'name-clash',
  'near-duplicate-textures',
  'needless-blending',
  'needless-splits',
  'no-normals',
  'no-uvs',
  'normal-y-down',
  'not-read',
  'odd-scale',
  'odd-size',
  'over-density',
  'overlapping-uvs',
  'oversized-texture',
  'repeats',
  'required-names',
  'shifted-uvs',
  'stacked-uvs',
  'steep-smooth-edge',
  'stretched-uvs',
  'duplicate-materials',
  'duplicate-textures',
  'unassigned-faces',
  'uneven-sizes',
  'uneven-tiles',
  'unsplit-hard-edge',
  'unused-channel',
  'unused-texture',
  'uv-tiles',
] as const;

/**
 * All that can be seen before a bake, largest saving first. Pure and quick, so that a changed budget or name shows at once.
 */
export function surveyFindings(facts: SurveyFacts, read: Read<'findings'>): Finding[] {
  const { format, density } = read.budget;
  const found = [
    ...unreadFiles(facts),
    ...oddScale(facts),
    ...duplicateTextures(facts, format),
    ...textureSizes(facts, format, density),
    ...unevenSizes(facts),
    ...unusedChannels(facts, format),
    ...emptyArea(facts, format),
    ...wrongReading(facts),
    ...strayTextures(facts),
    ...duplicateMaterials(facts),
    ...spareDrawCalls(facts),
    ...blendedSlots(facts),
    ...densityFindings(facts, density),
    ...oddFaces(facts),
    ...oddNormals(facts),
    ...duplicateMeshes(facts),
    ...heavyOutliers(facts, read.budget.triangles),
    ...heavyModels(facts),
    ...uvFindings(facts),
    ...nameClashes(facts),
    ...requiredNames(facts, read.requiredNames),
  ];
  return withoutHighPolys(found, facts, read.rays).sort(bySaving);
}

/** Files that could not be read; many of one reason are one line. */
function unreadFiles({ errors }: SurveyFacts): Finding[] {
  const action = { do: 'go', label: 'See the files', to: 'files' } as const;
  const finding = (subject: string, message: string): Finding => ({
    code: 'not-read',
    severity: 'fault',
    subject,
    message,
    saves: {},
    objects: {},
    action,
  });
  if (errors.length <= MOST_APART) return errors.map((error) => finding(error.path, `${error.path}: ${error.message}`));
  const reasons = [...groupBy(errors, (error) => error.message)].sort((a, b) => b[1].length - a[1].length);
  const said = reasons
    .slice(0, MOST_APART)
    .map(([message, list]) => `${list.length === 1 ? list[0].path : `${list.length} as ${list[0].path}`}: ${message}`);
  const more = reasons.length > MOST_APART ? `; ${reasons.length - MOST_APART} more reasons` : '';
  return [finding(`${errors.length} files`, `${errors.length} files could not be read: ${said.join('; ')}${more}`)];
}

/** Files, and reasons, that are told one by one. */
const MOST_APART = 3;

/** Models of a size that no prop or place has: most likely the wrong unit. */
function oddScale(facts: SurveyFacts): Finding[] {
  return facts.models.flatMap((model, i): Finding[] => {
    if (model.span === 0 || (model.span >= 0.005 && model.span <= 2000)) return [];
    return [
      {
        code: 'odd-scale',
        severity: 'warning',
        subject: model.path,
        message: `${model.path} is ${model.span >= 1 ? `${Math.round(model.span)} m` : `${(model.span * 1000).toFixed(3)} mm`} across; is the unit right? Density depends on it`,
        saves: {},
        objects: { models: [i] },
        action: {
          do: 'go',
          label: model.format === 'gltf' ? 'See it' : 'Choose the unit',
          to: model.format === 'gltf' ? 'files' : 'reading',
        },
      },
    ];
  });
}
