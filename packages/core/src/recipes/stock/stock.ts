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
export const STOCK_SIDE = 1024;

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
  const byte = (v: number) => Math.max(0, Math.min(255, Math.round(v)));
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const i = y * side + x;
      const point = painter.at((x + 0.5) / side, (y + 0.5) / side);
      out.color.data.set([...point.color.map(byte), byte((point.alpha ?? 1) * 255)], i * 4);
      out.orm.data.set(
        [point.occlusion, point.roughness, point.metallic].map((v) => byte(v * 255)),
        i * 4,
      );
      heights[i] = point.height;
      out.height.data.fill(byte((point.height / painter.relief) * 255), i * 4, i * 4 + 3);
    }
  // mm of height over the mm between two texels.
  const spacing = (painter.metres * 1000) / side;
  const at = (x: number, y: number) => heights[((y + side) % side) * side + ((x + side) % side)];
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const dx = (at(x - 1, y) - at(x + 1, y)) / (2 * spacing);
      const dy = (at(x, y + 1) - at(x, y - 1)) / (2 * spacing);
      const l = Math.sqrt(dx * dx + dy * dy + 1);
      out.normal.data.set(
        [dx, dy, 1].map((v) => byte((v / l) * 127.5 + 127.5)),
        (y * side + x) * 4,
      );
    }
  return out;
}
