import { describe, expect, test } from 'vitest';
import { padSheet } from '../src/bake/padding.ts';
import { BEYOND } from '../src/bake/triangles.ts';
import { srgbToLinear } from '../src/image/srgb.ts';
import type { PlacedPlot } from '../src/layout/layout.ts';
import { bakeHere, raster } from './bake-here.ts';
import { buildModel, decide, numbers, quad } from './build.ts';

const full = { ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'a' };
const noise = (seed: number) => {
  const random = numbers(seed);
  return raster(64, () => [random() * 256, random() * 256, random() * 256]);
};
const exact = { size: 64, margin: 0, padding: 0 };

describe('same UVs, same size', () => {
  for (const samples of [1, 4] as const)
    test(`the source's bytes come out, ${samples} sample(s)`, async () => {
      const image = noise(3);
      const { maps } = await bakeHere(
        [buildModel([{ name: 'a', baseColor: 'c' }], [full])],
        { c: image },
        decide({ ...exact, samples }),
      );
      let worst = 0;
      for (let i = 0; i < image.data.length; i++) worst = Math.max(worst, Math.abs(maps.baseColor[i] - image.data[i]));
      expect(worst).toBeLessThanOrEqual(1);
      expect(maps.owner.every((o) => o === 1)).toBe(true);
    });
});

test('all channels land where they belong, with factors and strength', async () => {
  const model = buildModel([{ name: 'a', baseColor: 'c', occlusion: { image: 'o', uvSet: 0 } }], [full]);
  const look = model.slots[0].look;
  look.metallicRoughness = { ...(look.baseColor as object), image: 'm' } as never;
  look.roughnessFactor = 0.5;
  look.metallicFactor = 0.25;
  look.occlusionStrength = 0.5;
  look.emissiveFactor = [4, 2, 0];
  look.baseColorFactor = [0.5, 1, 1, 1];
  const vary = (r: number, g: number, b: number) => raster(64, (x) => [r, g, b + (x === 0 ? 1 : 0)]);
  const { maps } = await bakeHere(
    [model],
    { c: vary(255, 200, 100), o: vary(100, 0, 0), m: vary(7, 200, 100) },
    decide(exact),
  );
  const i = 64 * 32 + 32;
  expect([...maps.orm.subarray(i * 3, i * 3 + 3)]).toEqual([178, 100, 25]);
  expect(maps.baseColor[i * 4]).toBe(188);
  expect([...maps.baseColor.subarray(i * 4 + 1, i * 4 + 4)]).toEqual([200, 100, 255]);
  expect(maps.emissiveStrength).toBe(4);
  expect([...(maps.emissive as Uint8Array).subarray(i * 3, i * 3 + 3)]).toEqual([255, 188, 0]);
});

test('colour is averaged as light, data as data', async () => {
  const stripes = raster(64, (x) => (x % 2 ? [255, 255, 255] : [0, 0, 0]));
  const model = buildModel([{ name: 'a', baseColor: 'c', occlusion: { image: 'c', uvSet: 0 } }], [full]);
  const { maps } = await bakeHere([model], { c: stripes }, decide({ ...exact, size: 64 }), (plots) => {
    for (const plot of plots) Object.assign(plot, { scale: 0.25, boxWidth: 16, boxHeight: 16 });
  });
  // A pattern of single texels, four times minified: an even grey, no moiré.
  for (let y = 1; y < 15; y++)
    for (let x = 1; x < 15; x++) {
      const i = y * 64 + x;
      expect(Math.abs(maps.baseColor[i * 4] - 188)).toBeLessThanOrEqual(1);
      expect(Math.abs(maps.orm[i * 3] - 128)).toBeLessThanOrEqual(1);
    }
});

for (const [name, look] of [
  ['opaque', {}],
  ['alpha-blended', { alphaMode: 'BLEND' as const }],
] as const)
  test(`a map that is larger than the others does not blur them: ${name}`, async () => {
    const random = numbers(5);
    const [image, occlusion] = [noise(3), raster(128, () => [random() * 256, 0, 0])];
    const model = buildModel([{ name: 'a', baseColor: 'c', occlusion: { image: 'o', uvSet: 0 }, ...look }], [full]);
    const decisions = decide({ ...exact, samples: 4 });
    const { maps } = await bakeHere([model], { c: image, o: occlusion }, decisions, ([placed]) => {
      Object.assign(placed, { x: 0, y: 0, scale: 64 / Math.max(...placed.shape), boxWidth: 64, boxHeight: 64 });
    });
    const channels = image.data.length / (64 * 64);
    let most = 0;
    for (let i = 0; i < 64 * 64; i++)
      for (let c = 0; c < 3; c++)
        most = Math.max(most, Math.abs(maps.baseColor[i * 4 + c] - image.data[i * channels + c]));
    expect(most).toBeLessThanOrEqual(1);
  });

test('a larger map changes no colour beside the border either, and tiles may be baked in any order', async () => {
  const random = numbers(5);
  const images = { c: noise(3), o: raster(128, () => [random() * 256, 0, 0]) };
  const decisions = decide({ ...exact, size: 256, samples: 4 });
  // A fifth of a texel beyond the border: no sample of those texels lies on the island.
  const offGrid = ([placed]: PlacedPlot[]) => {
    const scale = 64 / Math.max(...placed.shape);
    Object.assign(placed, { x: 20.8, y: 20.8, scale, boxWidth: 64, boxHeight: 64 });
  };
  const bake = async (slot: object, backwards = false) => {
    const model = buildModel([{ name: 'a', baseColor: 'c', ...slot }], [full]);
    const { maps } = await bakeHere([model], images, decisions, offGrid, { backwards });
    return { colour: Buffer.from(maps.baseColor), texels: maps.owner.filter((o) => o > 0).length };
  };
  const occluded = { occlusion: { image: 'o', uvSet: 0 } };
  const [alone, forwards, backwards] = [await bake({}), await bake(occluded), await bake(occluded, true)];
  expect(alone.texels).toBeGreaterThan(64 * 64);
  expect(forwards.colour.equals(alone.colour)).toBe(true);
  expect(backwards.colour.equals(alone.colour)).toBe(true);
});

test('a checker stays a checker: no third colour with nearest filtering', async () => {
  const checker = raster(64, (x, y) => (((x >> 3) + (y >> 3)) % 2 ? [250, 10, 10] : [10, 10, 250]));
  const model = buildModel([{ name: 'a', baseColor: 'c' }], [{ ...full, uvs: quad(0, 0, 1, 1, 0, 0, 0.5, 0.5).uvs }]);
  (model.slots[0].look.baseColor as { nearest: boolean }).nearest = true;
  const { maps } = await bakeHere([model], { c: checker }, decide({ ...exact, size: 128 }), ([placedPlot]) => {
    Object.assign(placedPlot, { scale: 4, boxWidth: 128, boxHeight: 128, x: 0, y: 0 });
  });
  const colours = new Set<string>();
  for (let i = 0; i < 128 * 128; i++)
    if (maps.owner[i]) colours.add([...maps.baseColor.subarray(i * 4, i * 4 + 3)].join());
  expect(colours).toEqual(new Set(['250,10,10', '10,10,250']));
});

test('vertex colours are multiplied in', async () => {
  const half = Array.from({ length: 16 }, (_, i) => (i % 4 === 3 ? 1 : srgbToLinear(128 / 255)));
  const white = raster(64, (x) => [255, 255, x === 0 ? 254 : 255]);
  const { maps } = await bakeHere(
    [buildModel([{ name: 'a', baseColor: 'c' }], [{ ...full, colors: half }])],
    { c: white },
    decide(exact),
  );
  expect(maps.baseColor[(64 * 20 + 20) * 4]).toBe(128);
});

test('repeats are baked in: a quad that shows a texture three times holds it three times', async () => {
  const image = noise(8);
  const tiled = { ...full, uvs: quad(0, 0, 1, 1, 0, 0, 3, 1).uvs };
  const { maps, layout } = await bakeHere(
    [buildModel([{ name: 'a', baseColor: 'c' }], [tiled])],
    { c: image },
    decide({ size: 256, margin: 0, padding: 0, rotate: 'none' }),
  );
  const [placedPlot] = layout.sheets[0].plots;
  for (let k = 0; k < 3; k++)
    for (const [x, y] of [
      [5, 9],
      [40, 33],
      [60, 62],
    ]) {
      const i = (placedPlot.y + y) * 256 + placedPlot.x + k * 64 + x;
      expect(maps.baseColor[i * 4]).toBeCloseTo(image.data[(y * 64 + x) * 4], -0.5);
    }
});

/** A bumpy normal map. */
function bumps(size: number) {
  const random = numbers(17);
  const waves = Array.from({ length: 6 }, () => [
    1 + Math.floor(random() * 4),
    1 + Math.floor(random() * 4),
    random() * 6,
  ]);
  return raster(size, (x, y) => {
    let dx = 0;
    let dy = 0;
    for (const [a, b, c] of waves) {
      dx += 0.12 * Math.cos(((a * x + b * y) / size) * 2 * Math.PI + c);
      dy += 0.12 * Math.sin(((b * x - a * y) / size) * 2 * Math.PI + c);
    }
    const length = Math.hypot(dx, dy, 1);
    return [dx, dy, 1].map((v) => Math.round((v / length) * 127.5 + 127.5));
  });
}

/** Share of covered texels whose shading under random lights is within 4/255 of the source's. */
function sameShading(
  source: (x: number, y: number) => number[],
  result: (x: number, y: number) => number[],
  covered: (x: number, y: number) => boolean,
  size: number,
): number {
  const random = numbers(4);
  const lights = Array.from({ length: 5 }, () => {
    const v = [random() - 0.5, random() - 0.5, random() * 0.5 + 0.2];
    const length = Math.hypot(...v);
    return v.map((c) => c / length);
  });
  let good = 0;
  let all = 0;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      if (!covered(x, y)) continue;
      const a = source(x, y);
      const b = result(x, y);
      all++;
      const same = lights.every((light) => {
        const shade = (n: number[]) => Math.max(0, n[0] * light[0] + n[1] * light[1] + n[2] * light[2]) * 255;
        return Math.abs(shade(a) - shade(b)) <= 4;
      });
      if (same) good++;
    }
  return good / all;
}

describe('normals of islands that were turned or mirrored', () => {
  const size = 64;
  const decode = (data: ArrayLike<number>, i: number) => {
    const v = [0, 1, 2].map((c) => data[i + c] / 127.5 - 1);
    const length = Math.hypot(...v);
    return v.map((c) => c / length);
  };
  const cases = ([0, 1, 2, 3] as const).flatMap((turns) =>
    [false, true].flatMap((mirrored) => [false, true].map((flipped) => ({ turns, mirrored, flipped }))),
  );
  for (const { turns, mirrored, flipped } of cases) {
    const how = `${mirrored ? ', mirrored UVs' : ''}${flipped ? ', flipped on the sheet' : ''}`;
    test(`shade the same after ${turns} quarter turns${how}; copied ones do not`, async () => {
      const map = bumps(size);
      const uvs = mirrored ? quad(0, 0, 1, 1, 1, 0, -1, 1).uvs : full.uvs;
      const model = buildModel([{ name: 'a', baseColor: 'c', normal: 'n' }], [{ ...full, uvs }]);
      const { maps, targets } = await bakeHere([model], { c: noise(1), n: map }, decide(exact), ([placedPlot]) => {
        placedPlot.turns = turns;
        if (flipped) placedPlot.flip = size;
      });
      const tangents = targets[0].tangents as Float32Array;
      const uv = targets[0].uv;
      // The quad is flat, so its frames are constant: T, B = N × T · w, N = +Z.
      const [tx, ty, , tw] = tangents;
      const frame = (n: number[]) => [tx * n[0] - ty * tw * n[1], ty * n[0] + tx * tw * n[1], n[2]];
      // Surface position of a texel: invert new UV → position from two edges.
      const rows = [0, 1, 2].map((i) => [uv[i * 2] * size, uv[i * 2 + 1] * size]);
      const at = [0, 1, 2]
        .map((i) => targets[0].sourceVertex[i] * 3)
        .map((v) => model.parts[0].positions.slice(v, v + 2));
      const det =
        (rows[1][0] - rows[0][0]) * (rows[2][1] - rows[0][1]) - (rows[2][0] - rows[0][0]) * (rows[1][1] - rows[0][1]);
      const position = (x: number, y: number) => {
        const b = ((x - rows[0][0]) * (rows[2][1] - rows[0][1]) - (rows[2][0] - rows[0][0]) * (y - rows[0][1])) / det;
        const c = ((rows[1][0] - rows[0][0]) * (y - rows[0][1]) - (x - rows[0][0]) * (rows[1][1] - rows[0][1])) / det;
        return [0, 1].map((k) => at[0][k] + b * (at[1][k] - at[0][k]) + c * (at[2][k] - at[0][k]));
      };
      // What the source shows there: its texel, in its own frame (u runs along ∓X when mirrored, v down).
      const truth = (x: number, y: number) => {
        const [px, py] = position(x + 0.5, y + 0.5);
        const su = mirrored ? 1 - px : px;
        const sx = Math.min(size - 1, Math.max(0, Math.floor(su * size)));
        const sy = Math.min(size - 1, Math.max(0, Math.floor((1 - py) * size)));
        const n = decode(map.data, (sy * size + sx) * 4);
        return [mirrored ? -n[0] : n[0], n[1], n[2]];
      };
      const covered = (x: number, y: number) => maps.owner[y * size + x] > 0;
      const normal = maps.normal as Uint8Array;
      const share = sameShading(truth, (x, y) => frame(decode(normal, (y * size + x) * 3)), covered, size);
      expect(share).toBeGreaterThanOrEqual(0.999);
      if (turns === 0 && !flipped) return;
      const copied = (x: number, y: number) => {
        const [px, py] = position(x + 0.5, y + 0.5);
        const sx = Math.floor((mirrored ? 1 - px : px) * size);
        const sy = Math.floor((1 - py) * size);
        return frame(decode(map.data, (sy * size + sx) * 4));
      };
      expect(sameShading(truth, copied, covered, size)).toBeLessThan(0.9);
    });
  }
});

describe('padding', () => {
  const bake = async (padding: number) => {
    const parts = [0, 1].map((i) => ({ ...quad(i * 2, 0, 1, 1, i * 0.5, i * 0.5, 0.3, 0.3), slot: 'a' }));
    const { maps } = await bakeHere(
      [buildModel([{ name: 'a', baseColor: 'c' }], parts)],
      { c: noise(5) },
      decide({ size: 128, margin: 24 }),
    );
    padSheet(maps, padding);
    return maps;
  };
  test('a bigger padding changes no texel inside an island, and beyond it is background', async () => {
    const [none, some, more] = [await bake(0), await bake(5), await bake(11)];
    const size = 128;
    for (let i = 0; i < size * size; i++) {
      const texel = (sheetMaps: typeof none) => [...sheetMaps.baseColor.subarray(i * 4, i * 4 + 4)];
      if (none.owner[i]) {
        expect(texel(more)).toEqual(texel(none));
        continue;
      }
      let d = Infinity;
      for (let y = -12; y <= 12; y++)
        for (let x = -12; x <= 12; x++) {
          const px = (i % size) + x;
          const py = Math.floor(i / size) + y;
          if (px >= 0 && py >= 0 && px < size && py < size && none.owner[py * size + px])
            d = Math.min(d, Math.hypot(x, y));
        }
      if (d > 5) expect(texel(some)).toEqual(texel(none));
      if (d > 11) expect(texel(more)).toEqual(texel(none));
      if (d <= 5) expect(texel(some)).toEqual(texel(more));
    }
  });

  /** Worst share of a neighbour's colour inside islands at mip k: two half planes with a gap, at every alignment. */
  function bleed(gap: number, k: number): number {
    const size = 128;
    let worst = 0;
    for (let offset = 0; offset < 2 ** k; offset++) {
      const left = 48 + offset;
      const owner = new Uint32Array(size * size);
      const baseColor = new Uint8Array(size * size * 4);
      for (let i = 0; i < size * size; i++) {
        const x = i % size;
        owner[i] = x < left ? 1 : x >= left + gap ? 2 : 0;
        if (owner[i] === 2) baseColor[i * 4] = 255;
      }
      const none = new Uint8Array(size * size * 3);
      padSheet(
        { width: size, height: size, owner, baseColor, orm: none, normal: null, emissive: null, emissiveStrength: 1 },
        gap,
      );
      // Rows are alike: mips of one row.
      let row = Array.from({ length: size }, (_, x) => baseColor[x * 4] / 255);
      for (let l = 0; l < k; l++)
        row = Array.from({ length: row.length / 2 }, (_, x) => (row[x * 2] + row[x * 2 + 1]) / 2);
      const read = (x: number) => {
        const p = x / 2 ** k - 0.5;
        const a = Math.floor(p);
        return row[a] * (1 - (p - a)) + row[a + 1] * (p - a);
      };
      for (let s = 0; s <= 20; s++) {
        worst = Math.max(worst, read(left - s / 20), 1 - read(left + gap + s / 20));
      }
    }
    return worst;
  }

  test('the protected mip is clean and the next one is not', () => {
    for (const [gap, k] of [
      [3, 0],
      [6, 1],
      [12, 2],
      [24, 3],
    ]) {
      expect(bleed(gap, k)).toBe(0);
      expect(bleed(gap, k + 1)).toBeGreaterThan(0.05);
    }
  });

  test('without padding the border bleeds at once', async () => {
    const size = 32;
    const owner = new Uint32Array(size * size);
    const baseColor = new Uint8Array(size * size * 4);
    for (let i = 0; i < size * size; i++)
      if (i % size < 16) {
        owner[i] = 1;
        baseColor[i * 4] = 255;
      }
    const maps = {
      width: size,
      height: size,
      owner,
      baseColor,
      orm: new Uint8Array(size * size * 3),
      normal: null,
      emissive: null,
      emissiveStrength: 1,
    };
    const edge = () => (baseColor[15 * 4] + baseColor[16 * 4]) / 2;
    expect(edge()).toBe(127.5);
    padSheet(maps, 4);
    expect(edge()).toBe(255);
  });
});

test('border texels take the nearest point of the island, never an extrapolation', async () => {
  // A steep ramp: extrapolating beyond the triangle would leave the range that the island shows.
  const ramp = raster(64, (x) => [x * 4, 0, 0]);
  const tri = {
    positions: [0, 0, 0, 1, 0, 0, 0, 1, 0],
    normals: [0, 0, 1, 0, 0, 1, 0, 0, 1],
    uvs: [0.25, 0.75, 0.75, 0.7, 0.3, 0.25],
    slot: 'a',
  };
  const { maps } = await bakeHere(
    [buildModel([{ name: 'a', baseColor: 'c' }], [tri])],
    { c: ramp },
    decide({ ...exact, size: 64 }),
  );
  let [low, high] = [255, 0];
  for (let i = 0; i < 64 * 64; i++)
    if (maps.owner[i]) {
      low = Math.min(low, maps.baseColor[i * 4]);
      high = Math.max(high, maps.baseColor[i * 4]);
    }
  // The island spans u 0.25 … 0.75, which is x 16 … 48: between texel centres 15 and 48.
  expect(low).toBeGreaterThanOrEqual(15 * 4);
  expect(high).toBeLessThanOrEqual(48 * 4);
});

test('blending along the border of a copied island reads the texels that it reads in the source', async () => {
  const image = noise(5);
  // Texels 16.4 … 48.2 and 8.4 … 32.2 of the picture: the borders lie inside of texels.
  const [u, v, du, dv] = [16.4, 8.4, 31.8, 23.8].map((texels) => texels / 64);
  const model = buildModel([{ name: 'a', baseColor: 'c' }], [{ ...quad(0, 0, 1, 1, u, v, du, dv), slot: 'a' }]);
  const onTexels = ([placed]: PlacedPlot[]) => {
    Object.assign(placed, { x: 20 + placed.originX - 16, y: 40 + placed.originY - 8, scale: 1 });
  };
  const { maps } = await bakeHere([model], { c: image }, decide({ ...exact, size: 128 }), onTexels);
  let beside = 0;
  let most = 0;
  for (let y = 7; y <= 32; y++)
    for (let x = 15; x <= 48; x++) {
      const i = (y + 32) * 128 + x + 4;
      const off = [0, 1, 2].map((c) => Math.abs(maps.baseColor[i * 4 + c] - image.data[(y * 64 + x) * 4 + c]));
      most = Math.max(most, ...off);
      if (maps.owner[i] >= BEYOND) beside++;
    }
  expect(most).toBeLessThanOrEqual(1);
  expect(beside).toBeGreaterThan(0);
});

test('with the kernel and without it the bytes are the same: turned, minified, with normals and with alpha', async () => {
  for (const alphaMode of ['OPAQUE', 'BLEND'] as const) {
    const model = buildModel(
      [{ name: 'a', baseColor: 'c', normal: 'n', occlusion: { image: 'm', uvSet: 0 } }],
      [{ ...full, uvs: quad(0, 0, 1, 1, -0.3, 0.2, 2.4, 1.7).uvs }],
    );
    Object.assign(model.slots[0].look, { alphaMode, emissiveFactor: [0.5, 1, 2] });
    const random = numbers(5);
    const images = {
      c: raster(64, () => [random() * 256, random() * 256, random() * 256, random() < 0.3 ? 0 : random() * 256]),
      n: raster(64, () => [random() * 256, random() * 256, 200]),
      m: noise(9),
    };
    const turn = ([p]: { scale: number }[]) => {
      Object.assign(p, { scale: 0.4, angle: 0.3, x: 20, y: 20 });
    };
    const [one, other] = await Promise.all(
      [true, false].map((kernel) =>
        bakeHere([model], images, decide({ ...exact, size: 128, maxRepeats: 8 }), turn, { kernel }),
      ),
    );
    expect(one.maps.owner.filter((o) => o > 0).length).toBeGreaterThan(500);
    expect(one.maps).toEqual(other.maps);
  }
});

test('one picture for colour and light, where vertex colours tint the colour alone', async () => {
  const part = { ...full, uvs: quad(0, 0, 1, 1, 0, 0, 2, 2).uvs, colors: Array(4).fill([0.5, 1, 1, 1]).flat() };
  const model = buildModel([{ name: 'a', baseColor: 'c' }], [part]);
  const { look } = model.slots[0];
  Object.assign(look, { emissive: look.baseColor, emissiveFactor: [1, 1, 1] });
  const { maps } = await bakeHere([model], { c: noise(4) }, decide({ ...exact, size: 64, maxRepeats: 8 }));
  const i = 64 * 30 + 30;
  const linear = (v: number) => srgbToLinear(v / 255);
  const glow = [...(maps.emissive as Uint8Array).subarray(i * 3, i * 3 + 3)].map(linear);
  const colour = [...maps.baseColor.subarray(i * 4, i * 4 + 3)].map(linear);
  expect(glow[0]).toBeGreaterThan(0.05);
  expect(colour[0] / glow[0]).toBeCloseTo(0.5, 1);
  expect(colour[1] / glow[1]).toBeCloseTo(1, 1);
});
