import { encodeByte } from '../image/srgb.ts';
import type { Cell, Draw, DrawScene } from './scene.ts';
import { type ViewFrame, viewFrame } from './views.ts';

/** From where a scene is drawn, and how much of the picture that frames it. */
export interface View {
  /** Direction from the middle of the models to the eye. */
  eye: [number, number, number];
  /** Box of each cell's model; see `cellBounds`. */
  bounds: Float64Array[];
  /** Side of the picture, px. */
  size: number;
  /** The square of the framing picture, whose px the cells are in, that fills the picture; all of it where there is none. */
  window?: { x: number; y: number; side: number };
}

/** Pictures of one view, three bytes a pixel, over mid grey, with the share of each pixel that is covered. */
export interface ViewPictures {
  size: number;
  unlit: Uint8Array;
  lit: Uint8Array;
  coverage: Uint8Array;
}

/** Grey behind everything, linear. */
export const BACKGROUND = 0.2159;

export interface RenderOptions {
  /** False leaves the colour of half-covered pixels as it is, for pictures that are laid over something; true unless given. */
  overGrey?: boolean;
  /** Textures are read at their finest level for each of the sixteen samples of a pixel: what the filtered picture comes near to. */
  truth?: boolean;
  /** Of this worker among those that read the same textures; 0 unless given. */
  reader?: number;
}

/** Pictures in shared memory on which nothing is drawn yet. */
export function emptyPictures(size: number): ViewPictures {
  const grey = encodeByte(BACKGROUND);
  return {
    size,
    unlit: new Uint8Array(new SharedArrayBuffer(size * size * 3)).fill(grey),
    lit: new Uint8Array(new SharedArrayBuffer(size * size * 3)).fill(grey),
    coverage: new Uint8Array(new SharedArrayBuffer(size * size)),
  };
}

/** The triangles of a draw on screen. */
export interface Projected {
  draw: Draw;
  /** Number of its first triangle among all; a sample keeps one such number. */
  first: number;
  /** x, y (px, y down) and nearness by corner. */
  screen: Float64Array;
}

/** All draws of a scene as a view shows them. */
export function projectScene(scene: DrawScene, view: View): Projected[] {
  const frame = viewFrame(view.eye);
  const fits = scene.cells.map((cell, i) => zoomed(fitCell(cell, view.bounds[i], frame), view));
  const projected = scene.draws.map((draw) => project(draw, fits[draw.cell], frame));
  let triangles = 0;
  for (const p of projected) {
    p.first = triangles;
    triangles += p.screen.length / 9;
  }
  return projected;
}

function zoomed(fit: Fit, { window, size }: View): Fit {
  if (!window) return fit;
  const zoom = size / window.side;
  return { scale: fit.scale * zoom, x: (fit.x - window.x) * zoom, y: (fit.y - window.y) * zoom };
}

interface Fit {
  scale: number;
  x: number;
  y: number;
}

function fitCell(cell: Cell, b: Float64Array, f: ViewFrame): Fit {
  let lx = Infinity;
  let hx = -Infinity;
  let ly = Infinity;
  let hy = -Infinity;
  for (let k = 0; k < 8; k++) {
    const p = [b[k & 1 ? 3 : 0], b[k & 2 ? 4 : 1], b[k & 4 ? 5 : 2]];
    const x = p[0] * f.right[0] + p[1] * f.right[1] + p[2] * f.right[2];
    const y = p[0] * f.up[0] + p[1] * f.up[1] + p[2] * f.up[2];
    lx = Math.min(lx, x);
    hx = Math.max(hx, x);
    ly = Math.min(ly, y);
    hy = Math.max(hy, y);
  }
  const span = Math.max(hx - lx, hy - ly, 1e-9);
  const scale = (cell.side * 0.94) / span;
  return {
    scale,
    x: cell.x + cell.side / 2 - ((lx + hx) / 2) * scale,
    y: cell.y + cell.side / 2 + ((ly + hy) / 2) * scale,
  };
}

function project(draw: Draw, fit: Fit, f: ViewFrame): Projected {
  const positions = draw.positions;
  const screen = new Float64Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    screen[i] =
      fit.x + fit.scale * (positions[i] * f.right[0] + positions[i + 1] * f.right[1] + positions[i + 2] * f.right[2]);
    screen[i + 1] =
      fit.y - fit.scale * (positions[i] * f.up[0] + positions[i + 1] * f.up[1] + positions[i + 2] * f.up[2]);
    screen[i + 2] =
      fit.scale * (positions[i] * f.toward[0] + positions[i + 1] * f.toward[1] + positions[i + 2] * f.toward[2]);
  }
  return { draw, first: 0, screen };
}

/** Twice the signed area on screen; negative for faces that show their front (y runs down). */
export function screenArea(s: Float64Array, o: number): number {
  return (s[o + 3] - s[o]) * (s[o + 7] - s[o + 1]) - (s[o + 6] - s[o]) * (s[o + 4] - s[o + 1]);
}

/** Whether the back of a triangle is seen. */
export function facesBack(projected: Projected, t: number): boolean {
  const a = screenArea(projected.screen, t * 9);
  return projected.draw.mirrored ? a < 0 : a > 0;
}
