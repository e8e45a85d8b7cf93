import type { Read } from '../decisions/reads.ts';
import type { SurveyFacts } from '../survey/facts.ts';
import { bySaving, type Finding } from './finding.ts';
import { duplicateMeshes, heavyOutliers, oddFaces, oddNormals } from './geometry.ts';
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
  'heavy-outlier',
  'joinable-parts',
  'low-density',
  'mergeable-slots',
  'mirrored-uvs',
  'missing-texture',
  'name-clash',
  'near-twin-textures',
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
  'twin-materials',
  'twin-textures',
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
export function surveyFindings(s: SurveyFacts, d: Read<'findings'>): Finding[] {
  const { format, density } = d.budget;
  return [
    ...unreadFiles(s),
    ...oddScale(s),
    ...duplicateTextures(s, format),
    ...textureSizes(s, format, density),
    ...unevenSizes(s),
    ...unusedChannels(s, format),
    ...emptyArea(s, format),
    ...wrongReading(s),
    ...strayTextures(s),
    ...duplicateMaterials(s),
    ...spareDrawCalls(s),
    ...blendedSlots(s),
    ...densityFindings(s, density),
    ...oddFaces(s),
    ...oddNormals(s),
    ...duplicateMeshes(s),
    ...heavyOutliers(s, d.budget.triangles),
    ...uvFindings(s),
    ...nameClashes(s),
    ...requiredNames(s, d.requiredNames),
  ].sort(bySaving);
}

function unreadFiles(s: SurveyFacts): Finding[] {
  return s.errors.map((e) => ({
    code: 'not-read',
    severity: 'fault',
    subject: e.path,
    message: `${e.path}: ${e.message}`,
    saves: {},
    objects: {},
    action: { do: 'go', label: 'See the files', to: 'files' },
  }));
}

/** Models of a size that no prop or place has: most likely the wrong unit. */
function oddScale(s: SurveyFacts): Finding[] {
  return s.models.flatMap((m, i): Finding[] => {
    if (m.span === 0 || (m.span >= 0.005 && m.span <= 2000)) return [];
    return [
      {
        code: 'odd-scale',
        severity: 'warning',
        subject: m.path,
        message: `${m.path} is ${m.span >= 1 ? `${Math.round(m.span)} m` : `${(m.span * 1000).toFixed(3)} mm`} across; is the unit right? Density depends on it`,
        saves: {},
        objects: { models: [i] },
        action: {
          do: 'go',
          label: m.format === 'gltf' ? 'See it' : 'Choose the unit',
          to: m.format === 'gltf' ? 'files' : 'reading',
        },
      },
    ];
  });
}
