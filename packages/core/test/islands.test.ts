import { describe, expect, test } from 'vitest';
import { layOut, scaleFactors } from '../src/layout/layout.ts';
import { outlineOf } from '../src/layout/outline.ts';
import { placePoint } from '../src/layout/place.ts';
import { plotsOfMaterial } from '../src/layout/plots.ts';
import { uvIslands } from '../src/mesh/islands.ts';
import { splitOverlaps, trianglesOverlap } from '../src/mesh/overlap.ts';
import { route } from '../src/plan/route.ts';
import { type Model, readModel } from '../src/scene/model.ts';
import { buildModel, decide, imageKeyOfName, type PartSpec, PICTURES, quad, sizesOf } from './build.ts';

const SLOT = [{ name: 'a', baseColor: 'c' }];

function plots(parts: PartSpec[], slots = SLOT as never[], size = 100) {
  const model = buildModel(slots, parts);
  const routing = route([model], decide(), PICTURES);
  return routing.materials.flatMap((material, i) =>
    plotsOfMaterial([model], material, i, sizesOf(size)).map((p, id) => ({ ...p, id })),
  );
}

const at = (u: number, v: number, du = 0.2, dv = 0.2, x = 0): PartSpec => ({
  ...quad(x, 0, 1, 1, u, v, du, dv),
  slot: 'a',
});

test('islands are joined through place and UV, whatever else splits the vertices', () => {
  const q = quad(0, 0, 1, 1, 0, 0, 1, 1);
  const unindexed = q.indices.flatMap((v) => q.positions.slice(v * 3, v * 3 + 3));
  const uvs = q.indices.flatMap((v) => q.uvs.slice(v * 2, v * 2 + 2));
  const indices = Uint32Array.from(q.indices.map((_, i) => i));
  expect(uvIslands(indices, Float32Array.from(unindexed), Float32Array.from(uvs)).count).toBe(1);
  // The same triangles with a cut in UV space are two.
  const cut = Float32Array.from(uvs);
  for (let i = 6; i < 12; i++) cut[i] += 0.001;
  expect(uvIslands(indices, Float32Array.from(unindexed), cut).count).toBe(2);
});

test('overlap needs more than a shared border', () => {
  const a = Float64Array.from([0, 0, 10, 0, 0, 10]);
  expect(trianglesOverlap(a, 0, Float64Array.from([10, 0, 10, 10, 0, 10]), 0, 0.05)).toBe(false);
  expect(trianglesOverlap(a, 0, Float64Array.from([9, 0, 10, 10, 0, 9]), 0, 0.05)).toBe(true);
  expect(trianglesOverlap(a, 0, Float64Array.from([2, 2, 3, 2, 2, 3]), 0, 0.05)).toBe(true);
});

test('islands that sample the same texels stay stacked, also mirrored and a whole tile away', () => {
  const mirrored = { ...at(0.1, 0.1), uvs: quad(0, 0, 1, 1, 0.3, 0.1, -0.2, 0.2).uvs };
  const result = plots([at(0.1, 0.1), mirrored, at(3.1, -2 + 0.1), at(0.6, 0.6)]);
  expect(result.map((p) => p.islands.length).sort()).toEqual([1, 3]);
  const stack = result.find((p) => p.islands.length === 3);
  expect(stack?.islands.map((i) => [i.shiftX, i.shiftY])).toContainEqual([300, -200]);
});

test('partly overlapping islands of one texture move together', () => {
  const result = plots([at(0.1, 0.1), at(0.2, 0.2), at(0.7, 0.7)]);
  expect(result.map((p) => p.islands.length).sort()).toEqual([1, 2]);
});

test('two slots that both use all of 0–1 are no stack', () => {
  const model = buildModel(
    [
      { name: 'a', baseColor: 'c' },
      { name: 'b', baseColor: 'd' },
    ],
    [at(0, 0, 1, 1), { ...at(0, 0, 1, 1), slot: 'b' }],
  );
  const routing = route([model], decide(), PICTURES);
  expect(routing.materials).toHaveLength(2);
  const duplicates = route([model], decide(), { ...PICTURES, key: () => 'the same pixels' });
  expect(duplicates.materials).toHaveLength(1);
});

test('with vertex colours only islands that agree in them stay stacked', () => {
  const white = Array.from({ length: 16 }, () => 1);
  const grey = Array.from({ length: 16 }, () => 0.5);
  const result = plots([
    { ...at(0.1, 0.1), colors: white },
    { ...at(0.1, 0.1), colors: white },
    { ...at(0.1, 0.1), colors: grey },
  ]);
  expect(result.map((p) => p.islands.length).sort()).toEqual([1, 2]);
});

test('with a second UV set that differs, overlapping islands are separated', () => {
  const slots = [{ name: 'a', baseColor: 'c', occlusion: { image: 'o', uvSet: 1 } }] as never[];
  const own = (u: number) => ({ ...at(0.1, 0.1), uvs1: quad(0, 0, 1, 1, u, 0, 0.2, 0.2).uvs });
  expect(plots([own(0), own(0)], slots).map((plot) => plot.islands.length)).toEqual([2]);
  expect(plots([own(0), own(0.5)], slots).map((plot) => plot.islands.length)).toEqual([1, 1]);
});

test('a folded island whose halves look different is cut until nothing overlaps', () => {
  // Two quads joined at x = 1, the second folded back over the first in UV space.
  const triangles = Float64Array.from([
    0, 0, 10, 0, 10, 10, 0, 0, 10, 10, 0, 10, 10, 0, 0, 0, 0, 10, 10, 0, 0, 10, 10, 10,
  ]);
  const groups = splitOverlaps(triangles, Uint32Array.from([0, 1, 2, 3]), [
    [1, 2, 3],
    [0, 2],
    [0, 1, 3],
    [0, 2],
  ]);
  for (const group of groups)
    for (const a of group)
      for (const b of group)
        if (a !== b) expect(trianglesOverlap(triangles, a * 6, triangles, b * 6, 0.05)).toBe(false);
  expect(groups.reduce((sum, group) => sum + group.length, 0)).toBe(4);
});

test('a slot of one flat colour takes a swatch, however many faces use it', () => {
  const model = buildModel(SLOT, [at(0, 0, 1, 1), at(0.3, 0.2)]);
  const routing = route([model], decide(), PICTURES);
  const [plot, ...rest] = plotsOfMaterial([model], routing.materials[0], 0, sizesOf(512, 512, true));
  expect([plot.kind, plot.islands.length, rest.length]).toEqual(['swatch', 2, 0]);
});

const SHEETS = decide().sheets;

test('even density gives every island the same px/m', () => {
  const big = { ...quad(0, 0, 2, 2, 0.1, 0.1, 0.2, 0.2), slot: 'a' };
  const small = { ...quad(5, 0, 1, 1, 0.5, 0.5, 0.2, 0.2), slot: 'a' };
  const result = plots([big, small]);
  const [even] = scaleFactors([result], 'even', SHEETS);
  const density = result.map((p, i) => (p.texelArea * even[i].factor ** 2) / p.worldArea);
  expect(density[0]).toBeCloseTo(density[1], 6);
  expect(Math.min(...even.map((sharpness) => sharpness.factor))).toBe(1);
  expect(scaleFactors([result], 'relative', SHEETS)).toEqual([[1, 1].map((factor) => ({ factor, most: 1 }))]);
});

test('a placed plot is a turned, scaled copy: never mirrored, and borders stay on texels at full sharpness', () => {
  const model = buildModel(SLOT, [at(0.1, 0.1, 0.5, 0.25), at(0.7, 0.5)]);
  const models: Model[] = [model];
  const routing = route(models, decide({ size: 64, margin: 2 }), PICTURES);
  const { layout } = layOut(models, routing, decide({ size: 128, margin: 2 }), sizesOf(100));
  expect(layout.sheets[0].scale).toBe(1);
  for (const plot of layout.sheets[0].plots) {
    const [ax, ay] = placePoint(plot, plot.originX, plot.originY);
    const [bx, by] = placePoint(plot, plot.originX + 3, plot.originY);
    const [cx, cy] = placePoint(plot, plot.originX, plot.originY + 3);
    expect((bx - ax) * (cy - ay) - (cx - ax) * (by - ay)).toBeCloseTo(9 * plot.scale * plot.scale, 9);
    expect([ax % 1, ay % 1]).toEqual([0, 0]);
  }
});

test('the outline of a quad is its border without the diagonal', () => {
  const [plot] = plots([at(0.1, 0.1)]);
  const path = outlineOf(plot, (x, y) => [x, y]);
  expect(path.match(/M/g)).toHaveLength(1);
  expect(path.match(/[ML]/g)).toHaveLength(4);
  expect(path.endsWith('Z')).toBe(true);
});

describe('parts that are not drawn', () => {
  const model = (spec: { name: string; u: number; size: number; colors?: boolean; uvs?: boolean }[]) => {
    const parts = spec.map(({ u, size, colors, uvs = true }): PartSpec => {
      const part = at(u, 0.1, size, size);
      return { ...part, ...(uvs ? {} : { uvs: undefined }), ...(colors ? { colors: Array(16).fill(u) } : {}) };
    });
    const { document } = buildModel(SLOT, parts);
    document
      .getRoot()
      .listNodes()
      .forEach((node, i) => {
        node.setName(spec[i].name);
      });
    return readModel('test.glb', document, imageKeyOfName);
  };
  const bays = (spec: Parameters<typeof model>[0]) => {
    const models = [model(spec)];
    const routing = route(models, decide(), PICTURES);
    const found = routing.materials.flatMap((material, i) => plotsOfMaterial(models, material, i, sizesOf(100)));
    return found.map((plot) => ({ parts: plot.islands.map((island) => island.part), shape: plot.shape.length / 6 }));
  };

  test('a lower level shares the bay that it lies on, which is that of the finest', () => {
    const levels = [
      { name: 'a_LOD1', u: 0.11, size: 0.19 },
      { name: 'a_LOD0', u: 0.1, size: 0.2 },
    ];
    expect(bays(levels)).toEqual([{ parts: [1, 0], shape: 2 }]);
    // With colours in vertices islands are alike only where all agrees; a level shares its bay all the same.
    expect(bays(levels.map((level) => ({ ...level, colors: true })))).toEqual([{ parts: [1, 0], shape: 2 }]);
    // Two that are drawn don't.
    expect(bays(levels.map(({ u, size }, i) => ({ name: `b${i}`, u, size, colors: true })))).toHaveLength(2);
  });

  test('a level with a place of its own on the texture has a bay of its own; one that repeats it stays off the sheet', () => {
    const fine = { name: 'a_LOD0', u: 0.1, size: 0.2 };
    expect(bays([fine, { name: 'a_LOD1', u: 0.6, size: 0.1 }])).toHaveLength(2);
    expect(bays([fine, { name: 'a_LOD1', u: 0.6, size: 5 }])).toEqual([{ parts: [0], shape: 2 }]);
  });

  test('collision shapes follow what they lie on, or keep their material; they stand in no way', () => {
    const shown = { name: 'sign', u: 0.1, size: 0.2 };
    expect(bays([shown, { name: 'UCX_sign', u: 0.1, size: 0.2 }])).toEqual([{ parts: [0, 1], shape: 2 }]);
    expect(bays([shown, { name: 'UCX_sign', u: 0.6, size: 0.2 }])).toEqual([{ parts: [0], shape: 2 }]);
    expect(bays([shown, { name: 'UCX_sign', u: 0, size: 1, uvs: false }])).toEqual([{ parts: [0], shape: 2 }]);
  });

  test('a slot that only they use is not routed, and follows a drawn one that looks the same', () => {
    const slots = [SLOT[0], { name: 'b', baseColor: 'c' }, { name: 'c', baseColor: 'other' }];
    const specs: PartSpec[] = [at(0.1, 0.1), { ...at(0.1, 0.1), slot: 'b' }, { ...at(0.1, 0.1), slot: 'c' }];
    const { document } = buildModel(slots, specs);
    document
      .getRoot()
      .listNodes()
      .forEach((node, i) => {
        node.setName(`sign_LOD${i}`);
      });
    const models = [readModel('test.glb', document, imageKeyOfName)];
    const routing = route(models, decide(), PICTURES);
    expect(routing.materials.map(({ members }) => members.map(({ slot }) => slot))).toEqual([[0, 1]]);
    expect(routing.keptApart.map(({ name, code }) => [name, code])).toEqual([['c', 'not-drawn']]);
  });
});
