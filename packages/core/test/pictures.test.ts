import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { analysePicture, likenessDistance } from '../src/image/analysis.ts';
import { metallicRoughnessMaps, toMetallicRoughness } from '../src/image/metal-rough.ts';
import { comparedPicture, compareLikeness, isNearDuplicate, type PictureSense } from '../src/image/near-duplicate.ts';
import { checkNormals, SURE } from '../src/image/normal-direction.ts';
import type { Raster } from '../src/image/raster.ts';
import { resizeRaster } from '../src/image/resize.ts';
import { usefulSide } from '../src/image/useful-size.ts';
import { numbers } from './build.ts';
import { runs } from './sampling.ts';

type Texel = [number, number, number, number];

function picture(width: number, height: number, at: (x: number, y: number) => Texel): Raster {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) data.set(at(x, y).map(Math.round), (y * width + x) * 4);
  return { width, height, bits: 8, data };
}

const grey = (v: number): Texel => [v, v, v, 255];
const noise = (side: number, seed: number) => {
  const next = numbers(seed);
  return picture(side, side, () => grey(next() * 255));
};

/** Every texel several times: what the smaller picture holds, stored larger. */
const enlarged = (raster: Raster, k: number): Raster =>
  picture(raster.width * k, raster.height * k, (x, y) => {
    const i = (Math.floor(y / k) * raster.width + Math.floor(x / k)) * 4;
    return [...raster.data.subarray(i, i + 4)] as Texel;
  });

describe('useful size', () => {
  test('noise needs all that it has; a plain colour needs nothing', () => {
    expect(usefulSide(noise(128, 3))).toBe(128);
    expect(usefulSide(picture(128, 128, () => grey(77)))).toBe(4);
  });

  test('a ramp is the same at a fraction of its size; one sharp line in it is not', () => {
    const ramp = picture(256, 256, (x) => grey((x / 255) * 200));
    expect(usefulSide(ramp)).toBeLessThanOrEqual(64);
    const line = picture(256, 256, (x, y) => (y === 100 ? grey(255) : grey((x / 255) * 200)));
    // The worst block counts, however well the rest does.
    expect(usefulSide(line)).toBe(256);
  });

  test('16 bit is measured on the same scale', () => {
    const small = picture(64, 64, (x, y) => grey(((x * 13) ^ (y * 7)) & 255));
    const wide: Raster = { ...small, bits: 16, data: Uint16Array.from(small.data, (v) => v * 257) };
    expect(usefulSide(wide)).toBe(usefulSide(small));
  });
});

describe('what a look at the pixels tells', () => {
  test('flat, nearly flat, grey, ranges and alpha', () => {
    expect(analysePicture(picture(8, 8, () => [9, 9, 9, 255]))).toMatchObject({
      flat: true,
      nearlyFlat: true,
      grey: true,
    });
    const nearly = analysePicture(picture(8, 8, (x) => [100 + (x % 3), 50, 50, 255]));
    expect(nearly).toMatchObject({ flat: false, nearlyFlat: true, grey: false });
    expect(analysePicture(picture(8, 8, (x) => [100 + (x % 4), 50, 50, 255])).nearlyFlat).toBe(false);
    const clear = analysePicture(picture(4, 4, (x) => [255, 0, 0, x * 80]));
    expect([clear.min[3], clear.max[3]]).toEqual([0, 240 / 255]);
  });

  test('flat cells are those inside swatches', () => {
    // Four swatches; cells along their borders are flat too, since borders fall between cells.
    const palette = picture(128, 128, (x, y) => grey(40 + 60 * (Math.floor(x / 64) + 2 * Math.floor(y / 64))));
    expect(analysePicture(palette).flatCells.every((v) => v === 1)).toBe(true);
    const { flatCells } = analysePicture(picture(128, 128, (x, y) => grey(x === 5 && y === 9 ? 0 : 200)));
    expect([...flatCells].filter((v) => v === 0)).toHaveLength(1);
    expect(flatCells[4 * 64 + 2]).toBe(0);
  });
});

const likenessOf = (a: Raster, b: Raster, sense: PictureSense) =>
  compareLikeness(comparedPicture(a), comparedPicture(b), sense);

describe('near-twins', () => {
  const base = picture(128, 128, (x, y) => [90 + 60 * Math.sin(x / 9), 120 + 50 * Math.cos(y / 11), 100, 255]);
  const digit = (raster: Raster) =>
    picture(128, 128, (x, y) => {
      const i = (y * 128 + x) * 4;
      return x > 60 && x < 76 && y > 50 && y < 74
        ? [255, 255, 255, 255]
        : ([...raster.data.subarray(i, i + 4)] as Texel);
    });

  test('a compressed or slightly brighter copy is one; a sign with another digit is none', () => {
    const copy: Raster = { ...base, data: base.data.map((v, i) => (i % 4 < 3 ? Math.min(255, v + 3) : v)) };
    expect(isNearDuplicate(likenessOf(base, copy, 'colour'))).toBe(true);
    const other = likenessOf(base, digit(base), 'colour');
    expect(isNearDuplicate(other)).toBe(false);
    expect(other.worst).toBeGreaterThan(5);
  });

  test('a copy at half the size is one, in either order', () => {
    const small = resizeRaster(base, 64, 64, 'colour');
    expect(isNearDuplicate(likenessOf(base, small, 'colour'))).toBe(true);
    expect(isNearDuplicate(likenessOf(small, base, 'colour'))).toBe(true);
  });

  test('the same picture differs by nothing; the likeness never says more than the full comparison', () => {
    const same = likenessOf(base, base, 'data');
    expect([same.mean, same.worst, same.ssim]).toEqual([0, 0, 1]);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 0, max: 12 }), (seed, by) => {
        const next = numbers(seed);
        const raster = picture(64, 64, () => grey(40 + next() * 160));
        const moved: Raster = {
          ...raster,
          data: raster.data.map((v, i) => (i % 4 < 3 ? v + Math.round((next() - 0.5) * by) : v)),
        };
        const full = likenessOf(raster, moved, 'data');
        const glance = likenessDistance(analysePicture(raster).likeness, analysePicture(moved).likeness, false);
        // In percent of the range; the likeness itself is rounded to whole steps.
        expect(((glance?.mean ?? 0) / 255) * 100).toBeLessThanOrEqual(full.mean + 0.4);
      }),
      { numRuns: runs(40) },
    );
  });

  test('a glance stops where the bounds are passed, and only there', () => {
    const [p, q] = [analysePicture(base).likeness, analysePicture(digit(base)).likeness];
    const d = likenessDistance(p, q, false);
    expect(d?.worst).toBeGreaterThan(80);
    expect(likenessDistance(p, q, false, { mean: 255, worst: (d?.worst ?? 0) - 1 })).toBeNull();
    expect(likenessDistance(p, q, false, { mean: (d?.mean ?? 0) * 0.9, worst: 255 })).toBeNull();
    expect(likenessDistance(p, q, false, { mean: (d?.mean ?? 0) * 1.1, worst: 255 })).toEqual(d);
  });

  test('normals are compared by angle: 3° is too much for the mean', () => {
    const tilted = (degrees: number) => {
      const r = (degrees * Math.PI) / 180;
      return picture(64, 64, () => [127.5 + 127.5 * Math.sin(r), 127.5, 127.5 + 127.5 * Math.cos(r), 255]);
    };
    expect(likenessOf(tilted(0), tilted(3), 'normal').mean).toBeCloseTo(3, 0);
    expect(isNearDuplicate(likenessOf(tilted(0), tilted(1.2), 'normal'))).toBe(true);
    expect(isNearDuplicate(likenessOf(tilted(0), tilted(3), 'normal'))).toBe(false);
  });
});

describe('direction of Y in normal maps', () => {
  const bumps = (up: boolean, seed = 1) => {
    const h = (x: number, y: number) => 3 * Math.sin(x / 5 + seed) * Math.cos(y / 6) + 2 * Math.sin((x + y) / 9);
    return picture(96, 96, (x, y) => {
      const dx = (h(x - 1, y) - h(x + 1, y)) / 2;
      // Rows go down; with Y up the normal leans up where height rises downwards.
      const dy = ((h(x, y + 1) - h(x, y - 1)) / 2) * (up ? 1 : -1);
      const length = Math.hypot(dx, dy, 1);
      return [127.5 + (127.5 * dx) / length, 127.5 + (127.5 * dy) / length, 127.5 + 127.5 / length, 255];
    });
  };

  test('a height field tells it, either way round', () => {
    for (const seed of [1, 2, 3]) {
      expect(checkNormals(bumps(true, seed)).yUp).toBeGreaterThan(SURE);
      expect(checkNormals(bumps(false, seed)).yUp).toBeLessThan(-SURE);
    }
  });

  test('a flat map and mere noise tell nothing', () => {
    expect(checkNormals(picture(64, 64, () => [128, 128, 255, 255])).yUp).toBe(0);
    const next = numbers(5);
    const noisy = picture(96, 96, () => {
      const [a, b] = [(next() - 0.5) * 0.8, (next() - 0.5) * 0.8];
      return [127.5 + 127.5 * a, 127.5 + 127.5 * b, 127.5 + 127.5 * Math.sqrt(1 - a * a - b * b), 255];
    });
    expect(Math.abs(checkNormals(noisy).yUp)).toBeLessThan(SURE);
  });

  test('normals through the sRGB curve show by their middle, colours by their lengths', () => {
    const encoded = checkNormals(picture(32, 32, () => [188, 188, 255, 255]));
    expect(encoded.middle[0]).toBeCloseTo(188, 0);
    expect(checkNormals(noise(32, 9)).crooked).toBeGreaterThan(0.5);
  });
});

describe('smaller copies', () => {
  test('black and white average to middle light, not to the middle number', () => {
    const raster = resizeRaster(
      picture(2, 2, (x) => grey(x === 0 ? 0 : 255)),
      1,
      1,
      'colour',
    );
    expect(raster.data[0]).toBe(188);
    expect(
      resizeRaster(
        picture(2, 2, (x) => grey(x === 0 ? 0 : 255)),
        1,
        1,
        'data',
      ).data[0],
    ).toBe(128);
  });

  test('a clear texel gives no colour; normals stay of length 1', () => {
    const leaf = picture(2, 1, (x) => (x === 0 ? [255, 0, 0, 0] : [0, 200, 0, 255]));
    const [r, g, , a] = resizeRaster(leaf, 1, 1, 'colour').data;
    expect(r).toBeLessThan(5);
    expect(g).toBe(200);
    expect(a).toBe(128);
    const data = resizeRaster(
      picture(2, 1, (x) => (x === 0 ? [255, 128, 128, 255] : [128, 255, 128, 255])),
      1,
      1,
      'normal',
    ).data;
    const v = [0, 1, 2].map((k) => data[k] / 127.5 - 1);
    expect(Math.hypot(...v)).toBeCloseTo(1, 1);
  });

  test('an enlarged picture comes back as it was', () => {
    const small = picture(16, 16, (x, y) => [x * 15, y * 15, (x ^ y) * 15, 255]);
    for (const sense of ['colour', 'data'] as const)
      expect([...resizeRaster(enlarged(small, 4), 16, 16, sense).data]).toEqual([...small.data]);
  });
});

describe('specular and glossiness', () => {
  test('a dielectric stays as it is, a metal becomes one', () => {
    const plain = toMetallicRoughness({ diffuse: [0.5, 0.2, 0.1, 1], specular: [0.04, 0.04, 0.04], glossiness: 0.7 });
    expect(plain.metallic).toBeCloseTo(0, 6);
    expect(plain.baseColor[0]).toBeCloseTo(0.5, 6);
    expect(plain.roughness).toBeCloseTo(0.3, 6);
    const gold = toMetallicRoughness({ diffuse: [0, 0, 0, 1], specular: [1, 0.77, 0.34], glossiness: 0.9 });
    expect(gold.metallic).toBeCloseTo(1, 2);
    expect(gold.baseColor[1]).toBeCloseTo(0.77, 2);
  });

  test('what reflects is kept: diffuse and specular colours of the result are those of the source', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 0.9, noNaN: true }),
        fc.double({ min: 0.04, max: 0.9, noNaN: true }),
        (d, s) => {
          const { baseColor, metallic } = toMetallicRoughness({
            diffuse: [d, d, d, 1],
            specular: [s, s, s],
            glossiness: 0.5,
          });
          const specular = 0.04 * (1 - metallic) + baseColor[0] * metallic;
          // Where neither would leave the range, the highlight is exact.
          if (d * (1 - s) < 0.5) expect(specular).toBeCloseTo(s, 1);
        },
      ),
    );
  });

  test('pictures of different sizes are read together, factors are multiplied in', () => {
    const maps = metallicRoughnessMaps(
      picture(4, 4, () => [188, 188, 188, 255]),
      picture(2, 2, () => [56, 56, 56, 128]),
      {
        diffuse: [0.5, 1, 1, 1],
        specular: [1, 1, 1],
        glossiness: 1,
      },
    );
    expect(maps.baseColor.width).toBe(4);
    expect(maps.baseColor.data[0]).toBeLessThan(maps.baseColor.data[1]);
    expect(maps.metallicRoughness.data[1]).toBe(Math.round(255 * (1 - 128 / 255)));
  });
});
