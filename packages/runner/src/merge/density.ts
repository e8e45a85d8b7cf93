import { signedArea, triangleArea } from '@wembrel/core/layout/plots';
import { determinant3 } from '@wembrel/core/math/mat4';
import { type Density, densityOf, sortedDensities } from '@wembrel/core/survey/density';
import type { LaidOut } from '../stages/lay-out.ts';

/** Texel density of everything on sheets, by face. */
export function sheetDensity({ models, targets, layout }: LaidOut): Density | null {
  const pixels: number[] = [];
  const surface: number[] = [];
  for (const target of targets) {
    const part = models[target.model].parts[target.part];
    const { width, height } = layout.sheets[target.sheet];
    const uv = Float64Array.from(target.uv, (v, i) => v * (i % 2 === 0 ? width : height));
    const corners = new Float64Array(6);
    for (const { world } of part.instances) {
      const k = Math.cbrt(Math.abs(determinant3(world))) ** 2;
      for (let f = 0; f < target.indices.length / 3; f++) {
        for (let c = 0; c < 3; c++) {
          corners[c * 2] = uv[target.indices[f * 3 + c] * 2];
          corners[c * 2 + 1] = uv[target.indices[f * 3 + c] * 2 + 1];
        }
        pixels.push(Math.abs(signedArea(corners, 0)));
        surface.push(triangleArea(part.positions, part.indices, f) * k);
      }
    }
  }
  return densityOf(sortedDensities(pixels, surface));
}
