import { type PointerEvent, useEffect, useLayoutEffect, useRef } from 'react';
import { type TexelLevel, type TexelPlace, texelAt } from '../../workers/texel-values.ts';
import css from './TexelViewer.module.css';

/** From this scale on the borders of texels are drawn. */
const GRID_FROM = 8;

interface TexelStageProps {
  label: string;
  drawn: { texels: TexelLevel; bitmap: ImageBitmap } | null;
  place: TexelPlace | null;
  /** The texel that is looked at. */
  at: readonly [number, number] | null;
  onAt: (texel: [number, number]) => void;
  onMove: (dx: number, dy: number) => void;
  /** Wheel: further in (1) or out (−1), around a point of the frame. */
  onScale: (way: 1 | -1, around: [number, number]) => void;
  onSize: (size: { width: number; height: number }) => void;
}

/** The picture, texel by texel: drawn without blending from one px a texel on, untinted. */
export function TexelStage({ label, drawn, place, at, onAt, onMove, onScale, onSize }: TexelStageProps) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drag = useRef<[number, number] | null>(null);
  const sized = useRef(onSize);
  sized.current = onSize;
  const scaled = useRef(onScale);
  scaled.current = onScale;

  useEffect(() => {
    const el = frame.current;
    if (!el) return;
    const seen = new ResizeObserver(() => sized.current({ width: el.clientWidth, height: el.clientHeight }));
    seen.observe(el);
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = el.getBoundingClientRect();
      scaled.current(event.deltaY < 0 ? 1 : -1, [event.clientX - box.left, event.clientY - box.top]);
    };
    el.addEventListener('wheel', wheel, { passive: false });
    return () => {
      seen.disconnect();
      el.removeEventListener('wheel', wheel);
    };
  }, []);

  useLayoutEffect(() => {
    const el = canvas.current;
    const context = el?.getContext('2d');
    if (!el || !context || !frame.current) return;
    const ratio = window.devicePixelRatio;
    el.width = Math.round(frame.current.clientWidth * ratio);
    el.height = Math.round(frame.current.clientHeight * ratio);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    if (drawn && place) draw(context, drawn.bitmap, place, at);
  }, [drawn, place, at]);

  const pointOf = (event: PointerEvent): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  return (
    <div
      ref={frame}
      className={css.stage}
      onPointerDown={(event) => {
        drag.current = pointOf(event);
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        const point = pointOf(event);
        if (drag.current) {
          onMove(point[0] - drag.current[0], point[1] - drag.current[1]);
          drag.current = point;
        } else if (place) onAt(texelAt(place, ...point));
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
    >
      <canvas ref={canvas} role="img" aria-label={label} />
    </div>
  );
}

function draw(
  context: CanvasRenderingContext2D,
  bitmap: ImageBitmap,
  { x, y, scale }: TexelPlace,
  at: readonly [number, number] | null,
): void {
  context.imageSmoothingEnabled = scale < 1;
  context.imageSmoothingQuality = 'high';
  context.drawImage(bitmap, x, y, bitmap.width * scale, bitmap.height * scale);
  if (scale >= GRID_FROM) drawGrid(context, bitmap, { x, y, scale });
  if (!at) return;
  const side = Math.max(scale, 3);
  context.lineWidth = 1;
  // Two lines, so that one is seen on any ground; both lie outside the texel.
  for (const [colour, out] of [
    ['#000', 0.5],
    ['#fff', 1.5],
  ] as const) {
    context.strokeStyle = colour;
    context.strokeRect(x + at[0] * scale - out, y + at[1] * scale - out, side + 2 * out, side + 2 * out);
  }
}

/** Lines between the texels that are in sight. */
function drawGrid(context: CanvasRenderingContext2D, bitmap: ImageBitmap, { x, y, scale }: TexelPlace): void {
  const { width, height } = context.canvas;
  const [left, top] = [Math.max(0, Math.floor(-x / scale)), Math.max(0, Math.floor(-y / scale))];
  const right = Math.min(bitmap.width, Math.ceil((width - x) / scale));
  const bottom = Math.min(bitmap.height, Math.ceil((height - y) / scale));
  context.beginPath();
  for (let u = left; u <= right; u++) {
    context.moveTo(x + u * scale, y + top * scale);
    context.lineTo(x + u * scale, y + bottom * scale);
  }
  for (let v = top; v <= bottom; v++) {
    context.moveTo(x + left * scale, y + v * scale);
    context.lineTo(x + right * scale, y + v * scale);
  }
  context.lineWidth = 1;
  context.strokeStyle = '#7f7f7f';
  context.stroke();
}
