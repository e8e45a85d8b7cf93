import type { RecipeChannel, StockLook } from '../../decisions/recipe/look.ts';
import type { Raster } from '../../image/raster.ts';
import * as grounds from './grounds.ts';
import * as metals from './metals.ts';
import type { StockPainter } from './surface-point.ts';

/** Looks that are at hand in every recipe, made by code. */
export const STOCK: Readonly<Record<StockLook, StockPainter>> = {
  enamel: metals.enamel,
  zinc: metals.zinc,
  oak: grounds.oak,
  brick: grounds.brick,
  moss: grounds.moss,
  grime: grounds.grime,
  rust: metals.rust,
  brass: metals.brass,
  glass: metals.glass,
  asphalt: grounds.asphalt,
  paint: grounds.paint,
  paper: grounds.paper,
};

/** Side of their pictures, px. */
export const STOCK_SIDE = 512;

/** What every look of the stock has values for. */
export const STOCK_CHANNELS: readonly RecipeChannel[] = [
  'color',
  'alpha',
  'occlusion',
  'roughness',
  'metallic',
  'normal',
];

/** Pictures of a look: R G B A each, in shared memory. */
export interface StockPictures {
  /** sRGB, with alpha. */
  color: Raster;
  /** Occlusion, roughness, metallic. */
  orm: Raster;
  /** Tangent space, Y up. */
  normal: Raster;
  /** 0 deepest, 1 highest. */
  height: Raster;
}

/** Paints a look of the stock. Normals follow from its heights and its true size. @param side px */
export function paintStock(look: StockLook, side = STOCK_SIDE): StockPictures {
  const painter = STOCK[look];
  const raster = (): Raster => ({
    width: side,
    height: side,
    bits: 8,
    data: new Uint8Array(new SharedArrayBuffer(side * side * 4)).fill(255),
  });
  const out = { color: raster(), orm: raster(), normal: raster(), height: raster() };
  const heights = new Float32Array(side * side);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const i = y * side + x;
      const point = painter.at((x + 0.5) / side, (y + 0.5) / side);
      heights[i] = point.height;
      const [red, green, blue] = point.color;
      put(out.color.data, i * 4, red, green, blue, (point.alpha ?? 1) * 255);
      put(out.orm.data, i * 4, point.occlusion * 255, point.roughness * 255, point.metallic * 255, 255);
      const height = (point.height / painter.relief) * 255;
      put(out.height.data, i * 4, height, height, height, 255);
    }
  // mm of height over the mm between two texels.
  const spacing = (painter.metres * 1000) / side;
  for (let y = 0; y < side; y++) {
    const [above, row, below] = [y === 0 ? side - 1 : y - 1, y, y === side - 1 ? 0 : y + 1].map((r) => r * side);
    for (let x = 0; x < side; x++) {
      const dx =
        (heights[row + (x === 0 ? side - 1 : x - 1)] - heights[row + (x === side - 1 ? 0 : x + 1)]) / (2 * spacing);
      const dy = (heights[below + x] - heights[above + x]) / (2 * spacing);
      const l = Math.sqrt(dx * dx + dy * dy + 1);
      put(out.normal.data, (row + x) * 4, (dx / l) * 127.5 + 127.5, (dy / l) * 127.5 + 127.5, 127.5 / l + 127.5, 255);
    }
  }
  return out;
}

const byte = (v: number): number => (v <= 0 ? 0 : v >= 255 ? 255 : (v + 0.5) | 0);

function put(data: Raster['data'], o: number, red: number, green: number, blue: number, alpha: number): void {
  data[o] = byte(red);
  data[o + 1] = byte(green);
  data[o + 2] = byte(blue);
  data[o + 3] = byte(alpha);
}
