import { describe, expect, test } from 'vitest';
import { uvIslands } from '../src/mesh/islands.ts';
import { normalsByAngle } from '../src/repair/normals.ts';
import { weldUvs } from '../src/repair/uvs.ts';
import { readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName } from './build.ts';

const again = (model: ReturnType<typeof buildModel>) => readModel(model.path, model.document, imageKeyOfName).parts[0];

describe('UVs that an export tore', () => {
  /** Two squares that share an edge, their UVs apart there by a gap. */
  const torn = (gap: number) =>
    buildModel(
      [{ name: 'A' }],
      [
        {
          positions: [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 0, 2, 0, 0, 2, 1, 0, 1, 1, 0],
          uvs: [0, 1, 0.4, 1, 0.4, 0, 0, 0, 0.4 + gap, 1, 0.8, 1, 0.8, 0, 0.4 + gap, 0],
          indices: [0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7],
          slot: 'A',
        },
      ],
    );
  const islands = (model: ReturnType<typeof buildModel>) => {
    const part = again(model);
    return uvIslands(part.indices, part.positions, part.uvs[0] as Float32Array).count;
  };

  test('a hair apart they become one island, first come first kept; what is meant stays two', () => {
    const model = torn(0.0004);
    expect(islands(model)).toBe(2);
    expect(weldUvs(model.document, 0.0005)).toBe(2);
    expect(islands(model)).toBe(1);
    expect((again(model).uvs[0] as Float32Array)[8]).toBe(Math.fround(0.4));
    expect(weldUvs(model.document, 0.0005)).toBe(0);
    const meant = torn(0.001);
    expect(weldUvs(meant.document, 0.0005)).toBe(0);
    expect(islands(meant)).toBe(2);
  });
});

describe('normals by angle', () => {
  /** Two squares of unlike width that meet at a bend of so many degrees, one vertex row in common. */
  const bent = (degrees: number, width: number) => {
    const a = (degrees * Math.PI) / 180;
    const [x, z] = [1 + width * Math.cos(a), -width * Math.sin(a)];
    return buildModel(
      [{ name: 'A' }],
      [
        {
          positions: [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, x, 0, z, x, 1, z],
          normals: Array.from({ length: 6 }, () => [0, 1, 0]).flat(),
          indices: [0, 1, 2, 0, 2, 3, 1, 4, 5, 1, 5, 2],
          slot: 'A',
        },
      ],
    );
  };
  const normalAt = (model: ReturnType<typeof buildModel>, corner: number) => {
    const part = again(model);
    const v = part.indices[corner] * 3;
    return [...(part.normals as Float32Array).subarray(v, v + 3)];
  };

  test('a bend within the angle is smooth, leaning to the larger face; beyond it is hard and splits its vertices', () => {
    const smooth = bent(40, 0.5);
    expect(normalsByAngle(smooth.document, new Map([['A', 45]]))).toBe(1);
    expect(again(smooth).positions.length / 3).toBe(6);
    // Corner 1 lies on the fold. One triangle of 1/2 and two of 1/4 m², the far one turned by 40°.
    const a = (40 * Math.PI) / 180;
    const sum = [0.25 * 2 * Math.sin(a), 0.5 + 0.25 * 2 * Math.cos(a)];
    const length = Math.hypot(...sum);
    expect(normalAt(smooth, 1)).toEqual([expect.closeTo(sum[0] / length, 6), 0, expect.closeTo(sum[1] / length, 6)]);
    const hard = bent(60, 0.5);
    normalsByAngle(hard.document, new Map([['A', 45]]));
    expect(again(hard).positions.length / 3).toBe(8);
    expect(normalAt(hard, 1)).toEqual([0, 0, 1]);
    const b = (60 * Math.PI) / 180;
    expect(normalAt(hard, 6)).toEqual([expect.closeTo(Math.sin(b), 6), 0, expect.closeTo(Math.cos(b), 6)]);
  });

  test('slots that are not named stay as they are', () => {
    const model = bent(30, 1);
    expect(normalsByAngle(model.document, new Map([['B', 45]]))).toBe(0);
    expect(normalAt(model, 0)).toEqual([0, 1, 0]);
  });
});
