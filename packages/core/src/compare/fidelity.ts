import type { Difference } from '../image/metrics.ts';
import { DISTANCES, type DistanceName } from './distances.ts';

/** PSNR, dB, from which on pictures count as alike whatever their original loses itself; reference, "Picture oracle". */
export const ALIKE = 40;

/** How much more than its original a result may lose against the truth, dB. */
const SLACK = 1;

/** From near to far, as `Fidelity.distances` has them. */
export const DISTANCE_NAMES: readonly DistanceName[] = ['near', 'framed', 'far'];

/** How unlit and lit pictures of a view differ. */
export interface PictureFidelity {
  unlit: Difference;
  lit: Difference;
}

/** A view from the distance that frames the models, from nearer (that part alone that differs most) and from farther away. */
export interface ViewFidelity extends PictureFidelity {
  name: string;
  near: PictureFidelity;
  far: PictureFidelity;
}

/** The worst view from one distance. */
export interface DistanceFidelity {
  /** In times the distance at which the models fill the picture. */
  distance: number;
  psnr: number | null;
  ssim: number;
  worstView: string;
  /**
   * Where it is under 40 dB: PSNR of original and result against the truth, which is the original read at its finest level with sixteen samples a pixel.
   * A result is as good as its original where it comes as near to it, less 1 dB.
   */
  truth?: { original: number; result: number };
}

/** The `fidelity` of the contract: the worst of all views, lit and unlit, from the distance that frames the models; `distances` has the others too. */
export interface Fidelity {
  psnr: number | null;
  ssim: number;
  worstView: string;
  /** Side of the pictures, px. */
  picture: number;
  /** Models that were compared: those that are not drawn from the same data as before. */
  models: number;
  /** From near to far. */
  distances: DistanceFidelity[];
  views: ViewFidelity[];
}

/** From the views to the worst of each distance. @param picture side of the framing pictures, px @param models that they show */
export function summarise(views: ViewFidelity[], picture: number, models: number): Fidelity {
  const at = (distance: DistanceName) => worstOf(views, distance);
  const { psnr, ssim, worstView } = at('framed');
  return { psnr, ssim, worstView, picture, models, distances: DISTANCE_NAMES.map(at), views };
}

/** Whether a result is seen to be worse than its original from a distance. */
export const isWorse = ({ truth }: DistanceFidelity): boolean =>
  truth !== undefined && truth.result < Math.min(ALIKE, truth.original - SLACK);

/** A view as it is from one distance. */
export const fidelityFrom = (view: ViewFidelity, distance: DistanceName): PictureFidelity =>
  distance === 'framed' ? view : view[distance];

function worstOf(views: ViewFidelity[], distance: DistanceName): DistanceFidelity {
  const out: DistanceFidelity = {
    distance: DISTANCES[distance],
    psnr: null,
    ssim: 1,
    worstView: views[0]?.name ?? '',
  };
  for (const view of views) {
    const { unlit, lit } = fidelityFrom(view, distance);
    for (const { psnr, ssim } of [unlit, lit]) {
      out.ssim = Math.min(out.ssim, ssim);
      if (psnr === null || (out.psnr !== null && psnr >= out.psnr)) continue;
      out.psnr = psnr;
      out.worstView = view.name;
    }
  }
  return out;
}
