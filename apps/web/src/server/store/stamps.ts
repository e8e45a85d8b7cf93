import { createHash } from 'node:crypto';
import { canonicalJson } from '@wembrel/core/canonical-json';
import { readText, type Stage } from '@wembrel/core/decisions/reads';
import type { JobKind } from '../../contract/project.ts';
import type { ProjectState } from './state.ts';

/** The stage whose decisions a kind of job reads. */
export const STAGE_OF: Record<JobKind, Stage> = {
  survey: 'survey',
  layout: 'layout',
  proof: 'merge',
  final: 'merge',
  'ray-proof': 'rays',
  'ray-final': 'rays',
  'ray-reaches': 'rays',
  'ray-all': 'rays',
  light: 'light',
  'stand-in-proof': 'standIn',
  'stand-in-final': 'standIn',
  'recipe-proof': 'recipe',
  'recipe-final': 'recipe',
};

/** One short text for the sources of a project and whatever else results depend on. */
export function stampOver(sources: ProjectState['sources'], text = ''): string {
  const hash = createHash('sha256');
  for (const path of Object.keys(sources).sort()) hash.update(`${path}\0${sources[path].hash}\n`);
  hash.update(text);
  return hash.digest('hex').slice(0, 24);
}

/** One text for the files and how they are read, whatever is done to their faces. */
export const filesStamp = ({ sources, decisions }: ProjectState): string =>
  stampOver(sources, canonicalJson(decisions.reading));

/** One text for all that a kind of job reads: results made from another one are out of date. */
export const stampOf = ({ sources, decisions }: ProjectState, kind: JobKind): string =>
  stampOver(sources, readText(STAGE_OF[kind], decisions));
