import { loadModel } from '../src/read/load.ts';

/**
 * Texels of a picture whose middle lies in a triangle's UVs, seen from the written file alone.
 * @param material name of the material whose triangles count; null: all @returns one byte a texel
 */
export async function uvCoverage(
  path: string,
  [width, height]: readonly [number, number],
  material: string | null = null,
): Promise<Uint8Array> {
  const model = await loadModel({ name: path, path });
  const covered = new Uint8Array(width * height);
  for (const part of model.parts) {
    const uv = part.uvs[0];
    if (!uv || (material !== null && model.slots[part.slot].name !== material)) continue;
    for (let t = 0; t < part.indices.length; t += 3) {
      const corners = [0, 1, 2].map((k) => {
        const v = part.indices[t + k] * 2;
        return [uv[v] * width, uv[v + 1] * height] as const;
      });
      markTriangle(covered, width, height, corners);
    }
  }
  return covered;
}

function markTriangle(
  covered: Uint8Array,
  width: number,
  height: number,
  corners: readonly (readonly [number, number])[],
): void {
  const [xs, ys] = [0, 1].map((axis) => corners.map((corner) => corner[axis]));
  const side = ([ax, ay]: readonly number[], [bx, by]: readonly number[], x: number, y: number) =>
    Math.sign((bx - ax) * (y - ay) - (by - ay) * (x - ax));
  for (let y = Math.max(0, Math.floor(Math.min(...ys))); y < Math.min(height, Math.max(...ys)); y++)
    for (let x = Math.max(0, Math.floor(Math.min(...xs))); x < Math.min(width, Math.max(...xs)); x++) {
      const sides = [0, 1, 2].map((k) => side(corners[k], corners[(k + 1) % 3], x + 0.5, y + 0.5));
      if (sides.every((s) => s >= 0) || sides.every((s) => s <= 0)) covered[y * width + x] = 1;
    }
}
