import type { Frame } from '@wembrel/core/layout/place';
import { memo, useEffect, useMemo, useRef } from 'react';
import type { BayPaint } from '../workers/bay-pictures.worker.ts';
import { borderOf, type SheetBay } from './bay.ts';
import css from './SheetStage.module.css';

export interface TexelsProps {
  bays: readonly SheetBay[];
  /** By material; bays of others stay empty. */
  paints: ReadonlyMap<number, BayPaint>;
  /** Where the sheet lies in the stage, and px of the stage per px of the sheet. */
  view: { x: number; y: number; k: number };
  /** Size of the stage. */
  width: number;
  height: number;
  /** Bays that are being dragged, and how. */
  dragged: ReadonlySet<number> | null;
  change: Frame | null;
}

/** What islands show, each through its border: the sheet as it would be baked, but for what a bake alone can tell. */
export const Texels = memo(function Texels({ bays, paints, view, width, height, dragged, change }: TexelsProps) {
  const ref = useRef<HTMLCanvasElement>(null);
  const paths = useMemo(() => bays.map((bay) => new Path2D(borderOf(bay))), [bays]);
  useEffect(() => {
    const canvas = ref.current;
    const context = canvas?.getContext('2d');
    if (!canvas || !context || width === 0 || height === 0) return;
    const ratio = window.devicePixelRatio;
    const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== w || canvas.height !== h) {
      canvas.width = w;
      canvas.height = h;
    }
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, w, h);
    context.imageSmoothingQuality = 'high';
    const patterns = new Map<number, CanvasPattern | null>();
    const k = view.k * ratio;
    bays.forEach((bay, i) => {
      const paint = paints.get(bay.material);
      if (!paint) return;
      context.setTransform(k, 0, 0, k, view.x * ratio, view.y * ratio);
      if (change && dragged?.has(bay.id)) context.transform(...change);
      const { picture } = paint;
      let pattern = patterns.get(bay.material);
      if (pattern === undefined) {
        pattern = picture && context.createPattern(picture.image, picture.repetition);
        patterns.set(bay.material, pattern);
      }
      // A picture that is not repeated leaves bays open beyond its sides.
      if (!pattern || !picture || !bay.frame || picture.repetition !== 'repeat') {
        context.fillStyle = paint.colour;
        context.fill(paths[i]);
      }
      if (!pattern || !picture || !bay.frame) return;
      const [a, b, c, d, e, f] = bay.frame;
      const [u, v] = [picture.width / picture.image.width, picture.height / picture.image.height];
      pattern.setTransform(new DOMMatrix([a * u, b * u, c * v, d * v, e, f]));
      context.imageSmoothingEnabled = !picture.nearest || Math.hypot(a * u, b * u) * k < 1;
      context.fillStyle = pattern;
      context.fill(paths[i]);
    });
  }, [bays, paints, paths, view, width, height, dragged, change]);
  return <canvas ref={ref} className={css.texels} />;
});
