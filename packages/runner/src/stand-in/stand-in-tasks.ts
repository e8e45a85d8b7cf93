import type { View } from '@wembrel/core/compare/project';
import { renderView } from '@wembrel/core/compare/rasterise';
import type { RayMesh } from '@wembrel/core/rays/target/ray-mesh';
import { type StandInView, standInView } from '@wembrel/core/stand-in/fidelity';
import { fieldLayers, type HullGrid, measureLayer } from '@wembrel/core/stand-in/hull/field';
import { fieldSource } from '@wembrel/core/stand-in/hull/hull';
import type { LightMesh } from '@wembrel/core/stand-in/light-mesh';
import { hidingBvh, markSeen } from '@wembrel/core/stand-in/seen';
import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { RayCaster } from '@wembrel/kernels/rays';
import { type CancelFlag, stopped } from '../pool/cancel-flag.ts';
import { inPlace } from '../pool/places.ts';
import { taskGroup } from '../pool/task.ts';
import type { ScenePair } from '../stages/view-tasks.ts';

/** What worker threads do for stand-ins. */
export const standInTasks = taskGroup('stand-in', {
  async hidingBvh({ mesh, slots }: { mesh: RayMesh; slots: number }): Promise<Bvh> {
    return hidingBvh(mesh, slots);
  },

  /** Marks which triangles of a range are seen from outside, in shared memory. @param slot of the hierarchy that this worker uses */
  async markSeen(input: {
    mesh: RayMesh;
    bvh: Bvh;
    slot: number;
    range: readonly [number, number];
    seen: Uint8Array;
    cancel: CancelFlag;
  }): Promise<void> {
    const caster = new RayCaster(input.bvh, input.slot);
    markSeen(input.mesh, caster, input.range, input.seen, () => stopped(input.cancel));
  },

  /** Measures layers of a hull's field, in shared memory, as the shared counter deals them out. */
  async measureLayers({
    source,
    grid,
    bvh,
    field,
    next,
    cancel,
  }: {
    source: LightMesh;
    grid: HullGrid;
    bvh: Bvh;
    field: Float32Array;
    next: Int32Array;
    cancel: CancelFlag;
  }): Promise<void> {
    const measured = fieldSource(source, bvh);
    for (;;) {
      const layer = Atomics.add(next, 0, 1);
      if (layer >= fieldLayers(grid) || stopped(cancel)) return;
      measureLayer(grid, field, measured, layer);
    }
  },

  /** One view of a source and its stand-in, compared within their outlines. */
  async compareView({ name, view, ...pair }: ScenePair & { name: string; view: View }): Promise<StandInView> {
    return inPlace(pair.readers, (reader) => {
      const { original, result } = pair;
      return standInView(name, {
        truth: renderView(original.scene, original.textures, view, { reader, truth: true }),
        source: renderView(original.scene, original.textures, view, { reader }),
        result: renderView(result.scene, result.textures, view, { reader }),
      });
    });
  },
});
