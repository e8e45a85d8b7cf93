import type { RaySettings } from '@wembrel/core/decisions/ray-decisions';
import { castTile, type RayJob, RayScratch } from '@wembrel/core/rays/cast/tile-cast';
import { cageFaults } from '@wembrel/core/rays/faults/cage-crossing';
import { edgeFaults, type MeshFault } from '@wembrel/core/rays/faults/edge-faults';
import type { RayMaps } from '@wembrel/core/rays/maps/baked-maps';
import { fillMaps, markThinMargins, softenIds } from '@wembrel/core/rays/maps/finish-maps';
import { piecesOf, type Reaches } from '@wembrel/core/rays/pairing/measure';
import { type Sweep, sweepReaches } from '@wembrel/core/rays/pairing/sweep';
import type { LowTarget } from '@wembrel/core/rays/target/low-target';
import type { RayMesh } from '@wembrel/core/rays/target/ray-mesh';
import { buildBvh } from '@wembrel/kernels/bvh';
import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import { RayCaster } from '@wembrel/kernels/rays';
import { type CancelFlag, stopped } from '../pool/cancel-flag.ts';
import { taskGroup } from '../pool/task.ts';

/** Tiles of one pairing for several workers: they take them from a shared counter. */
export interface RayTiles {
  job: RayJob;
  high: Bvh;
  low: Bvh;
  /** Of everything, when AO sees that. */
  all: Bvh | null;
  maps: RayMaps;
  tiles: Uint32Array;
  lists: Uint32Array[];
  surfaceLists: (Uint32Array | undefined)[];
  next: Int32Array;
  done: Int32Array;
  cancel: CancelFlag;
}

const scratch = new RayScratch();

/** What worker threads do for ray bakes. */
export const rayTasks = taskGroup('rays', {
  async buildBvh(input: { positions: Float32Array; indices: Uint32Array; slots: number }): Promise<Bvh> {
    return buildBvh(input.positions, input.indices, input.slots);
  },

  /** @param slot of the hierarchies that this worker uses @returns rays cast */
  async castTiles(input: RayTiles & { slot: number }): Promise<number> {
    const caster = new RayCaster(input.high, input.slot);
    const tools = {
      caster,
      ambient: input.all ? new RayCaster(input.all, input.slot) : caster,
      low: new ClosestPoint(input.low),
      unit: 1 / input.high.space.scale,
    };
    let rays = 0;
    for (;;) {
      if (stopped(input.cancel)) return rays;
      const i = Atomics.add(input.next, 0, 1);
      if (i >= input.tiles.length) return rays;
      rays += castTile(input.job, input.maps, {
        tile: input.tiles[i],
        list: input.lists[i],
        surfaceList: input.surfaceLists[i],
        tools,
        scratch,
      });
      Atomics.add(input.done, 0, 1);
    }
  },

  /** Tries reaches on a pairing, see `sweepReaches`. */
  async sweep(input: {
    target: LowTarget;
    high: RayMesh;
    highBvh: Bvh;
    lowBvh: Bvh;
    measured: Reaches;
  }): Promise<Sweep> {
    return sweepReaches({ ...input, pieces: piecesOf(input.target.mesh).of }, input.measured);
  },

  /** Edges and faces of a low-poly and its cage that will show. */
  async meshFaults(input: { target: LowTarget; uvSet: number }): Promise<MeshFault[]> {
    return [...edgeFaults(input.target, input.uvSet), ...cageFaults(input.target)];
  },

  /** Thin margins, softened colours, filling and padding. @param scale px of these maps per px of the final ones */
  async finishRays(input: { maps: RayMaps; settings: RaySettings; scale: number }): Promise<void> {
    markThinMargins(input.maps, input.settings.margin * input.scale);
    for (const map of input.maps.maps)
      if (map.kind === 'id') softenIds(input.maps, map, input.settings.id.soften * input.scale);
    fillMaps(input.maps, Math.max(1, Math.round(input.settings.padding * input.scale)));
  },
});
