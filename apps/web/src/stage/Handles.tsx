import { type Box, cornersOf } from './drag.ts';
import css from './SheetStage.module.css';

/** Sides of a handle, and how far beyond its corner turning is dragged, px of the screen. */
const SIDE = 8;
const REACH = 13;

/** What the bays that are selected are scaled and turned by: squares at the corners of their box, and arcs beyond those. */
export function Handles({ box, k, scale, turn }: { box: Box; k: number; scale: boolean; turn: boolean }) {
  const [side, reach] = [SIDE / k, REACH / k];
  return (
    <g>
      <rect
        className={css.around}
        x={box.left}
        y={box.top}
        width={box.right - box.left}
        height={box.bottom - box.top}
      />
      {cornersOf(box).map(([x, y], corner) => {
        const [sx, sy] = [corner === 1 || corner === 2 ? 1 : -1, corner > 1 ? 1 : -1];
        const arc = `M${x + sx * reach} ${y - (sy * side) / 2}A${reach} ${reach} 0 0 ${sx * sy > 0 ? 1 : 0} ${x - (sx * side) / 2} ${y + sy * reach}`;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: always the same four
          <g key={corner}>
            {turn && (
              <g className={css.turn} data-handle="turn" data-corner={corner}>
                <path className={css.grip} d={arc} strokeWidth={12 / k} />
                <path className={css.arc} d={arc} />
              </g>
            )}
            {scale && (
              <rect
                className={css.corner}
                data-handle="scale"
                data-corner={corner}
                style={{ cursor: sx * sy > 0 ? 'nwse-resize' : 'nesw-resize' }}
                x={x - side / 2}
                y={y - side / 2}
                width={side}
                height={side}
              />
            )}
          </g>
        );
      })}
    </g>
  );
}
