import { renderView, type ViewPictures } from '@wembrel/core/compare/rasterise';
import type { DrawScene } from '@wembrel/core/compare/scene';
import { type Difference, pictureDifference } from '@wembrel/core/image/metrics';
import type { LevelSet } from '@wembrel/kernels/sample';
import { taskGroup } from '../pool/task.ts';

/** Pictures of models, drawn in worker threads. */
export const viewTasks = taskGroup('view', {
  /** A model seen from front right, R G B A; alpha is the share of each pixel that it covers. */
  async modelPicture(input: {
    scene: DrawScene;
    textures: Map<string, LevelSet>;
    bounds: Float64Array[];
    size: number;
  }): Promise<Uint8Array> {
    const v = renderView(input.scene, input.textures, [0.55, 0.35, 1], input.bounds, input.size, false);
    const out = new Uint8Array(input.size * input.size * 4);
    for (let i = 0; i < input.size * input.size; i++) {
      for (let c = 0; c < 3; c++) out[i * 4 + c] = v.lit[i * 3 + c];
      out[i * 4 + 3] = v.coverage[i];
    }
    return out;
  },

  /** One view of the original and of the result, and how they differ. */
  async compareView(input: {
    original: DrawScene;
    result: DrawScene;
    originalTextures: Map<string, LevelSet>;
    resultTextures: Map<string, LevelSet>;
    eye: [number, number, number];
    bounds: Float64Array[];
    size: number;
  }): Promise<{ original: ViewPictures; result: ViewPictures; unlit: Difference; lit: Difference }> {
    const original = renderView(input.original, input.originalTextures, input.eye, input.bounds, input.size);
    const result = renderView(input.result, input.resultTextures, input.eye, input.bounds, input.size);
    return {
      original,
      result,
      unlit: pictureDifference(original.unlit, result.unlit, original.coverage, result.coverage, input.size),
      lit: pictureDifference(original.lit, result.lit, original.coverage, result.coverage, input.size),
    };
  },
});
