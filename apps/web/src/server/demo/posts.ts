import { RayDecisions } from '@wembrel/core/decisions/ray-decisions';
import { evenSheets } from '@wembrel/core/decisions/sheets';
import { pairing } from '@wembrel/core/rays/pairing/pairings';
import type { MergeDecisions } from '../../contract/project.ts';
import { postRecipe } from './dressed.ts';

const POST = { high: 'posts/ticket-post_high.glb', low: 'posts/ticket-post_low.glb' };

/** The ticket post, whose partners were found by their names; the lamp heads wait to be paired by their places. */
export function postDecisions(): Partial<MergeDecisions> {
  const high = ['', ' fittings', ' plate'].map((end) => ({ path: POST.high, name: `ticket post_high${end}` }));
  return {
    sheets: evenSheets(1, 'halt', 1024, 12),
    recipes: [postRecipe(POST.low)],
    rays: RayDecisions.parse({
      pairings: [pairing('ticket post', high, [{ path: POST.low, name: 'ticket post_low' }])],
      recipe: { maps: ['normal', 'ao', 'curvature', 'height', 'id', 'color'], size: 1024, samples: 4, cast: 'blended' },
    }),
  };
}
