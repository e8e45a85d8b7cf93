import { awkwardFiles, brokenFiles } from './broken.ts';
import { buildFittings } from './fittings.ts';
import { buildFurniture } from './furniture.ts';
import { buildBollards, buildKiosk, buildPlanters, buildTram, buildWalls } from './pieces.ts';
import { buildPlatform } from './platform.ts';
import { buildLamps, buildPostHigh, buildPostLow } from './posts.ts';
import { buildRails } from './rails.ts';
import { buildSigns } from './signs.ts';
import { buildBracket, buildNoticeBoard, buildStone } from './simple-formats.ts';
import { buildFerns, buildRampRail } from './strips.ts';

/** All files of the demo, by path. */
export function buildScenario(): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = { 'furniture/stop-furniture.glb': buildFurniture() };
  const add = (folder: string, files: Record<string, Uint8Array>) => {
    for (const [name, bytes] of Object.entries(files)) out[`${folder}/${name}`] = bytes;
  };
  add('signs', buildSigns());
  add('pieces', {
    'bollards.glb': buildBollards(),
    'shelter-walls.glb': buildWalls(),
    'tram-body.glb': buildTram(),
    'planters.glb': buildPlanters(),
    'rails.glb': buildRails(),
    'platform.glb': buildPlatform(),
    'ferns.glb': buildFerns(),
    'ramp-rail.glb': buildRampRail(),
  });
  add('posts', {
    'ticket-post_high.glb': buildPostHigh(),
    'ticket-post_low.glb': buildPostLow(),
    'lamp-heads.glb': buildLamps(),
  });
  add('fittings', { 'fittings_high.glb': buildFittings('high'), 'fittings_low.glb': buildFittings('low') });
  add('kiosk', buildKiosk());
  add('workshop', { ...buildNoticeBoard(), 'boundary-stone.ply': buildStone(), 'bracket.stl': buildBracket() });
  add('broken', brokenFiles());
  add('awkward', awkwardFiles());
  return out;
}
