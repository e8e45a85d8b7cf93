import type { ReactNode } from 'react';
import type { ViewName } from './stages.ts';
import css from './ViewSketch.module.css';

const box = (x: number, y: number, width: number, height: number) => (
  <rect key={`${x} ${y}`} x={x} y={y} width={width} height={height} />
);

/** What stands in each view, in a few lines. */
const SKETCHES: Record<ViewName, ReactNode> = {
  survey: (
    <>
      {box(10, 18, 26, 30)}
      {box(48, 28, 26, 20)}
      {box(86, 36, 20, 12)}
      <path d="M4 50H42M46 50H78M84 50H108M4 70H116" />
    </>
  ),
  plan: (
    <>
      {[8, 24, 40, 56].map((y) => box(4, y, 22, 8))}
      {box(84, 10, 32, 32)}
      <path d="M26 12C56 12 54 18 84 18M26 28C56 28 54 24 84 24M26 44C56 44 54 30 84 30M26 60C60 60 58 64 84 64" />
    </>
  ),
  uv: (
    <>
      {box(24, 4, 72, 72)}
      <path d="M30 10H60V34H44V44H30ZM66 10H90V26H66ZM66 32H90V52H72ZM30 52H58V70H30ZM64 60H90V70H64Z" />
    </>
  ),
  bake: (
    <>
      {box(10, 8, 52, 52)}
      {[8, 26, 44].map((y) => box(70, y, 16, 16))}
      <path d="M10 34H62M36 8V60M10 70H110" />
    </>
  ),
  compare: (
    <>
      {box(8, 10, 104, 60)}
      <path d="M60 10V70M24 56V34L38 26L52 34V56ZM72 56V34L86 26L100 34V56Z" />
    </>
  ),
  handover: (
    <>
      <path d="M20 12H44L50 18H84V66H20ZM32 30H72M32 40H72M32 50H60M92 40L98 46L110 32" />
    </>
  ),
};

/** A line drawing of what a view will show. */
export const ViewSketch = ({ view }: { view: ViewName }) => (
  <svg className={css.sketch} viewBox="0 0 120 80" width={180} height={120} aria-hidden="true">
    {SKETCHES[view]}
  </svg>
);
