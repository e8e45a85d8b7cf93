import { farView, nearView } from '@wembrel/core/compare/distances';
import type { PictureFidelity } from '@wembrel/core/compare/fidelity';
import type { View, ViewPictures } from '@wembrel/core/compare/project';
import { renderView } from '@wembrel/core/compare/rasterise';
import type { DrawScene } from '@wembrel/core/compare/scene';
import { pictureDifference } from '@wembrel/core/image/metrics';
import type { LevelSet } from '@wembrel/kernels/sample';
import { inPlace } from '../pool/places.ts';
import { taskGroup } from '../pool/task.ts';

/** A scene with the textures that it is drawn with. */
export interface TexturedScene {
  scene: DrawScene;
  textures: Map<string, LevelSet>;
}

/** A scene and what became of it. */
export interface ScenePair {
  original: TexturedScene;
  result: TexturedScene;
  /** One for each task that reads their textures at a time; see `inPlace`. */
  readers: Int32Array;
}

/** Pictures of both from one view, and how they differ. */
interface PicturePair {
  original: ViewPictures;
  result: ViewPictures;
  difference: PictureFidelity;
}

function drawBoth({ original, result }: ScenePair, view: View, reader: number): PicturePair {
  const a = renderView(original.scene, original.textures, view, { reader });
  const b = renderView(result.scene, result.textures, view, { reader });
  return { original: a, result: b, difference: differenceOf(a, b) };
}

const differenceOf = (a: ViewPictures, b: ViewPictures): PictureFidelity => ({
  unlit: pictureDifference(a.unlit, b.unlit, a.coverage, b.coverage, a.size),
  lit: pictureDifference(a.lit, b.lit, a.coverage, b.coverage, a.size),
});

/** Pictures of models, drawn in worker threads. */
export const viewTasks = taskGroup('view', {
  /** A model seen from front right, R G B A; alpha is the share of each pixel that it covers. */
  async modelPicture({ scene, textures, bounds, size }: TexturedScene & Omit<View, 'eye'>): Promise<Uint8Array> {
    const v = renderView(scene, textures, { eye: [0.55, 0.35, 1], bounds, size }, { overGrey: false });
    const out = new Uint8Array(size * size * 4);
    for (let i = 0; i < size * size; i++) {
      for (let c = 0; c < 3; c++) out[i * 4 + c] = v.lit[i * 3 + c];
      out[i * 4 + 3] = v.coverage[i];
    }
    return out;
  },

  /** One view, lit, three bytes a pixel. */
  async viewPicture({ scene, textures, view }: TexturedScene & { view: View }): Promise<Uint8Array> {
    return renderView(scene, textures, view).lit;
  },

  /** One view of the original and of the result from three distances, and how they differ. @returns pictures of the framed one */
  async compareView({ view, ...pair }: ScenePair & { view: View }) {
    return inPlace(pair.readers, (reader) => {
      const framed = drawBoth(pair, view, reader);
      const nearer = nearView(view, framed.original, framed.result);
      const near = drawBoth(pair, nearer, reader).difference;
      const far = drawBoth(pair, farView(view), reader).difference;
      return { ...framed, near, far, nearer };
    });
  },

  /** How original and result differ from the truth of a view: the original read at its finest level, sixteen samples a pixel. */
  async compareWithTruth({ view, ...pair }: ScenePair & { view: View }): Promise<{
    original: PictureFidelity;
    result: PictureFidelity;
  }> {
    return inPlace(pair.readers, (reader) => {
      const truth = renderView(pair.original.scene, pair.original.textures, view, { truth: true, reader });
      const { original, result } = drawBoth(pair, view, reader);
      return { original: differenceOf(truth, original), result: differenceOf(truth, result) };
    });
  },
});
