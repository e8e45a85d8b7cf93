import { COVERED_AT_ONCE, ViewKernel } from '@wembrel/kernels/view-kernel';
import { encodeByte, encodeTables } from '../image/srgb.ts';
import { Band, bandColumns, binBands } from './band.ts';
import { BatchShader } from './batch-shader.ts';
import { LayerCollector } from './layers.ts';
import {
  BACKGROUND,
  emptyPictures,
  type Projected,
  projectScene,
  type RenderOptions,
  type View,
  type ViewPictures,
} from './project.ts';
import { renderViewReference } from './render-reference.ts';
import { BAND } from './sample-rows.ts';
import type { DrawScene, TextureTable } from './scene.ts';
import { PointShader } from './shade.ts';
import { viewFrame } from './views.ts';

/** The kernel of this thread; the memory of the largest picture serves all others. */
let held: ViewKernel | null = null;

/** @returns null where there is not so much memory */
function kernelFor(size: number): ViewKernel | null {
  if (held && held.size >= size) return held;
  try {
    const { guess, thresholds } = encodeTables();
    held = new ViewKernel(size, guess, thresholds);
    return held;
  } catch {
    return null;
  }
}

/**
 * Draws the scene from one direction: orthographic, each model fitted to its cell by the bounds, 4×4 coverage samples a pixel,
 * shaded once per pixel and triangle at the middle of the covered samples, trilinear textures. Alpha-tested faces are tested
 * at every sample; alpha-blended ones are laid over by nearness. Equal nearness goes to the earlier triangle. The work is done by a kernel;
 * `renderViewReference` gives the same bytes.
 */
export function renderView(
  scene: DrawScene,
  textures: TextureTable,
  view: View,
  options: RenderOptions = {},
): ViewPictures {
  const kernel = kernelFor(view.size);
  if (!kernel) return renderViewReference(scene, textures, view, options);
  const { overGrey = true, truth = false, reader = 0 } = options;
  const projected = projectScene(scene, view);
  const painter = new BandPainter(kernel, projected, view.size, { overGrey, everySample: truth });
  const { toward } = viewFrame(view.eye);
  const reading = { finest: truth, reader };
  const shader = new BatchShader(kernel, projected, painter.drawOf, textures, toward, reading);
  // Alpha-tested faces are looked at sample by sample.
  const tester = new PointShader(textures, toward, reading);
  const out = emptyPictures(view.size);
  binBands(projected, view.size).forEach((triangles, b) => {
    if (triangles.length > 0) painter.paint(b * BAND, triangles, shader, tester, out);
  });
  return out;
}

/** Paints the bands of one picture. */
class BandPainter {
  /** Draw of each triangle among all. */
  readonly drawOf: Uint32Array;
  private readonly band: Band;
  private waiting = 0;

  constructor(
    private readonly kernel: ViewKernel,
    private readonly projected: Projected[],
    private readonly size: number,
    private readonly options: { overGrey: boolean; everySample: boolean },
  ) {
    this.band = new Band(size, { depth: kernel.depth, hit: kernel.hits });
    this.drawOf = new Uint32Array(projected.reduce((sum, { screen }) => sum + screen.length / 9, 0));
    projected.forEach(({ first, screen }, d) => {
      this.drawOf.fill(d, first, first + screen.length / 9);
    });
  }

  /** @param triangles draw and number of those that may show */
  paint(
    top: number,
    triangles: readonly [number, number][],
    shader: BatchShader,
    tester: PointShader,
    out: ViewPictures,
  ): void {
    const { kernel, size, options } = this;
    const columns = bandColumns(this.projected, triangles, size);
    if (columns[1] < columns[0]) return;
    kernel.begin(size, top, columns, encodeByte(BACKGROUND));
    this.cover(top, columns, triangles, tester);
    const rows = Math.min(BAND, size - top);
    const layers = this.layers(triangles).list(size, columns, rows);
    const end = rows * (columns[1] - columns[0] + 1);
    for (let from = 0; from < end; ) {
      const { count, to } = kernel.gather(from, end, layers, options.everySample);
      shader.shade(count);
      kernel.write(from, to, layers !== null, options.overGrey, BACKGROUND);
      from = to;
    }
    for (let row = 0; row < rows; row++) {
      const [from, to] = columns.map((x, end) => row * size + x + end);
      const at = (top + row) * size + columns[0];
      out.unlit.set(kernel.unlit.subarray(from * 3, to * 3), at * 3);
      out.lit.set(kernel.lit.subarray(from * 3, to * 3), at * 3);
      out.coverage.set(kernel.coverage.subarray(from, to), at);
    }
  }

  /** Lays what is opaque or alpha-tested over the samples. */
  private cover(
    top: number,
    columns: [number, number],
    triangles: readonly [number, number][],
    tester: PointShader,
  ): void {
    const { projected, band } = this;
    band.y0 = top;
    band.columns = columns;
    for (const [d, t] of triangles) {
      const { alphaMode } = projected[d].draw.look;
      if (alphaMode === 'OPAQUE') this.queue(projected[d], t);
      else if (alphaMode === 'MASK') {
        this.flush();
        band.cover(projected[d], t, tester);
      }
    }
    this.flush();
  }

  private queue({ screen, first }: Projected, t: number): void {
    const { kernel } = this;
    for (let k = 0; k < 9; k++) kernel.screen[this.waiting * 9 + k] = screen[t * 9 + k];
    kernel.screenIds[this.waiting++] = first + t;
    if (this.waiting === COVERED_AT_ONCE) this.flush();
  }

  private flush(): void {
    this.kernel.cover(this.waiting);
    this.waiting = 0;
  }

  /** What alpha-blended triangles show over the band. */
  private layers(triangles: readonly [number, number][]): LayerCollector {
    const { kernel, projected } = this;
    const layers = new LayerCollector();
    for (const [d, t] of triangles) {
      const { draw, screen, first } = projected[d];
      if (draw.look.alphaMode !== 'BLEND') continue;
      kernel.screen.set(screen.subarray(t * 9, t * 9 + 9));
      layers.add(first + t, kernel, kernel.layer());
    }
    return layers;
  }
}
