import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { encodeByte, linearOf, unitByte } from '@wembrel/core/image/srgb';

/** What a recipe without a ground of its own begins with on a cell. */
const GREY = { color: '#808080', roughness: 0.6, metallic: 0 };

/** Fills the maps of a cell with what lies under all lines. */
export function layGround(maps: SheetMaps, ground: Recipe['ground']): void {
  const { color, roughness, metallic } = ground ?? GREY;
  const bytes = linearOf(color).map(encodeByte);
  const orm = [255, unitByte(roughness), unitByte(metallic)];
  for (let i = 0; i < maps.owner.length; i++) {
    maps.baseColor.set(bytes, i * 4);
    maps.orm.set(orm, i * 3);
  }
}
