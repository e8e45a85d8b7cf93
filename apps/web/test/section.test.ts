import { mkdtempSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serialize } from 'node:v8';
import { describe, expect, test } from 'vitest';
import { type SectionScene, type SectionTexels, sectionAt } from '../src/server/jobs/kinds/ray-section.ts';

const SIDE = 8;

/** A square of 2 m at a height over the ground, two triangles. */
const square = (height: number) => ({
  positions: Float32Array.of(-1, height, -1, 1, height, -1, 1, height, 1, -1, height, 1),
  indices: Uint32Array.of(0, 2, 1, 0, 3, 2),
});

/** A low-poly on the ground over the whole sheet, and a high-poly so much above it. */
async function bake(height: number, reaches: { outward: number; inward: number }): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'wembrel-section-'));
  const low = square(0);
  const px = (v: number) => ((v + 1) / 2) * SIDE;
  const corners = [...low.indices].map((v) => [low.positions[v * 3], low.positions[v * 3 + 2]]);
  const texels: SectionTexels = {
    width: SIDE,
    height: SIDE,
    pairing: new Uint16Array(SIDE * SIDE).fill(1),
    triangle: Uint32Array.from({ length: SIDE * SIDE }, (_, i) => {
      const [x, y] = [(i % SIDE) + 0.5, Math.floor(i / SIDE) + 0.5];
      return x > y ? 0 : 1;
    }),
    distance: new Float32Array(SIDE * SIDE).fill(height),
    faults: new Uint8Array(SIDE * SIDE),
  };
  texels.pairing[0] = 0;
  texels.distance[SIDE * SIDE - 1] = Number.NaN;
  texels.faults[SIDE * SIDE - 1] = 1;
  const scene: SectionScene = {
    name: 'ground',
    ...reaches,
    high: square(height),
    low,
    place: Float64Array.from(corners.flatMap(([x, z]) => [px(x), px(z)])),
    directions: Float32Array.from({ length: 18 }, (_, i) => (i % 3 === 1 ? 1 : 0)),
    reach: new Float32Array(6).fill(reaches.outward),
    density: new Float32Array(2).fill(SIDE / 2),
    localReaches: [],
  };
  await writeFile(join(folder, 'texels-0.bin'), serialize(texels));
  await writeFile(join(folder, 'scene-0-0.bin'), serialize(scene));
  return folder;
}

describe('a cut through a pairing at a texel', () => {
  test('both surfaces are level lines as far apart as they lie; the picked ray meets the upper one', async () => {
    const folder = await bake(0.1, { outward: 0.25, inward: 0.05 });
    const cut = await sectionAt(folder, 0, 5.5, 2.5, 0);
    expect(cut).toMatchObject({ pairing: 'ground', distance: expect.closeTo(0.1, 5), faults: 0, outward: 0.25 });
    // The texel (5, 2) lies 1.5 texels right of the middle and 1.5 above it; a texel is 0.25 m.
    expect(cut?.point[0]).toBeCloseTo(0.375, 5);
    expect(cut?.point[2]).toBeCloseTo(-0.375, 5);
    const heights = (line: number[]) => line.filter((_, i) => i % 2 === 1);
    for (const y of heights(cut?.high ?? [])) expect(y).toBeCloseTo(0.1, 5);
    for (const y of heights(cut?.low ?? [])) expect(y).toBeCloseTo(0, 5);
    for (const y of heights(cut?.cage ?? [])) expect(y).toBeCloseTo(0.25, 5);
    const picked = cut?.rays.find((ray) => ray.picked);
    expect(picked?.from[1]).toBeCloseTo(0.25, 5);
    expect(picked?.hit?.[1]).toBeCloseTo(0.1, 5);
  });

  test('a turn of the plane about the way out leaves heights as they are', async () => {
    const folder = await bake(0.2, { outward: 0.3, inward: 0.1 });
    const heights = async (turn: number) => {
      const cut = await sectionAt(folder, 0, 4.5, 1.5, turn);
      return [...new Set(cut?.high.filter((_, i) => i % 2 === 1).map((y) => y.toFixed(4)))];
    };
    expect(await heights(0)).toEqual(['0.2000']);
    expect(await heights(1.1)).toEqual(['0.2000']);
  });

  test('beside the islands there is nothing, a miss has no distance, off the sheet and without a bake it says so', async () => {
    const folder = await bake(0.1, { outward: 0.25, inward: 0.05 });
    expect(await sectionAt(folder, 0, 0.5, 0.5, 0)).toBeNull();
    expect(await sectionAt(folder, 0, SIDE - 0.5, SIDE - 0.5, 0)).toMatchObject({ distance: null, faults: 1 });
    await expect(sectionAt(folder, 0, SIDE + 1, 1, 0)).rejects.toMatchObject({ status: 400 });
    await expect(sectionAt(folder, 0, Number.NaN, 1, 0)).rejects.toMatchObject({ status: 400 });
    await expect(sectionAt(folder, 3, 1, 1, 0)).rejects.toMatchObject({ status: 404 });
  });
});
