import { hexOf } from '../image/hex.ts';
import type { Swatch, SwatchPlace } from './palette.ts';

/** One swatch as tables name it. */
export interface SwatchRow {
  id: number;
  colour: string;
  /** 0 … 1. */
  metallic: number;
  roughness: number;
  emissive: string;
  /** m². */
  area: number;
  faces: number;
  /** Greatest ΔE OK × 100 of what it stands for. */
  error: number;
  /** Upper left on the texture, px. */
  px: [number, number];
  /** Middle, V down and V up. */
  uv: [number, number];
  uvUp: [number, number];
}

export function swatchRows(
  swatches: readonly Swatch[],
  places: readonly SwatchPlace[],
  faces: ArrayLike<number>,
): SwatchRow[] {
  const six = (v: number) => Number(v.toPrecision(6));
  return swatches.map((swatch, i) => ({
    id: i,
    colour: hexOf(swatch.colour),
    metallic: six(swatch.metallic / 255),
    roughness: six(swatch.roughness / 255),
    emissive: hexOf(swatch.emissive),
    area: six(swatch.area),
    faces: faces[i] ?? 0,
    error: six(swatch.error),
    px: [places[i].x, places[i].y],
    uv: [places[i].u, places[i].v],
    uvUp: [places[i].u, 1 - places[i].v],
  }));
}

/** The same as CSV, one line a swatch. */
export function swatchCsv(rows: readonly SwatchRow[]): string {
  const head = 'id,colour,metallic,roughness,emissive,area_m2,faces,error,x_px,y_px,u,v_down,v_up';
  const line = (swatchRow: SwatchRow) =>
    [
      swatchRow.id,
      swatchRow.colour,
      swatchRow.metallic,
      swatchRow.roughness,
      swatchRow.emissive,
      swatchRow.area,
      swatchRow.faces,
      swatchRow.error,
      ...swatchRow.px,
      ...swatchRow.uv,
      swatchRow.uvUp[1],
    ].join();
  return `${[head, ...rows.map(line)].join('\n')}\n`;
}
