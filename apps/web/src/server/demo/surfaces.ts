import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { RouteList } from '@wembrel/core/decisions/routes';
import { SheetDecision } from '@wembrel/core/decisions/sheets';
import type { MergeDecisions } from '../../contract/project.ts';

/** Rails on a trim sheet, the platform on a tile sheet, tram, walls and ferns on an atlas; what is done to faces for that. */
export function surfaceDecisions(): Partial<MergeDecisions> {
  const sheet = (id: string, name: string, more: object) => SheetDecision.parse({ id, name, margin: 12, ...more });
  return {
    sheets: [
      sheet('s1', 'halt', { size: 1024 }),
      sheet('s2', 'rails', { kind: 'trim', size: 512 }),
      sheet('s3', 'paving', { kind: 'tile', size: 512, cell: 256 }),
    ],
    routes: RouteList.parse({
      HandrailSteel: 's2',
      KerbStone: 's2',
      BattenWood: 's2',
      PavingSlab: 's3',
      PavingCracked: 's3',
      PavingEdge: 's3',
      PlatformSetts: 's3',
      FernFrond: 's1',
      TiledBrick: 's1',
    }),
    cutRepeats: ['TiledBrick'],
    keepTurn: ['FernFrond'],
    faces: FaceDecisions.parse({
      groups: [
        {
          id: 'g1',
          name: 'Paving',
          hue: 20,
          note: 'One slab in ten is cracked; where the platform ends, it gives way to gravel.',
          slots: ['PavingSlab', 'PavingCracked', 'PavingEdge'],
        },
        { id: 'g2', name: 'Ramp rail', hue: 158, note: 'Came without UVs.', parts: ['RampRail'] },
        { id: 'g3', name: 'Tram', hue: 295, note: 'Painted on four UV tiles.', slots: ['TramBody'] },
      ],
      edits: [
        {
          id: 'e1',
          kind: 'cells',
          groups: ['g1'],
          mix: [
            { slot: 'PavingSlab', share: 9 },
            { slot: 'PavingCracked', share: 1 },
          ],
          turns: 'quarter',
          edge: { slot: 'PavingEdge' },
          seed: 7,
        },
        { id: 'e2', kind: 'strip', groups: ['g2'], slot: 'HandrailSteel', bend: 60 },
        { id: 'e3', kind: 'tiles', groups: ['g3'] },
      ],
    }),
    join: true,
  };
}
