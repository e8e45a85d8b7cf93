import { binTriangles } from '@wembrel/core/bake/transfer';
import { toLevels } from '@wembrel/core/image/levels';
import { byName, byPoint } from '@wembrel/core/recipes/conditions/by-triangle';
import { eachTexel, idBorders, type Segments, uvBorders } from '@wembrel/core/recipes/inputs/borders';
import { measureDistances } from '@wembrel/core/recipes/inputs/distances';
import { meantId, readIdPicture, resizedIds } from '@wembrel/core/recipes/inputs/id-picture';
import { NO_INPUTS } from '@wembrel/core/recipes/inputs/input-maps';
import { recipeNeeds } from '@wembrel/core/recipes/inputs/needs';
import { limitColours } from '@wembrel/core/recipes/limited-colours';
import { gaussTables } from '@wembrel/core/recipes/looks/break-up';
import { planRecipeMemory } from '@wembrel/core/recipes/memory';
import { prepareLines } from '@wembrel/core/recipes/prepare';
import { paintStock } from '@wembrel/core/recipes/stock/stock';
import { surfaceOfCell } from '@wembrel/core/recipes/surface';
import { buildBvh } from '@wembrel/kernels/bvh';
import { levelCount, levelSetLength } from '@wembrel/kernels/sample';
import { describe, expect, it, test } from 'vitest';
import { colourLine, evaluated, pictureLook, recipeOf, sixSides } from './scenes.ts';

/** A picture of bytes from a function of its texels. */
function raster(width: number, height: number, at: (x: number, y: number) => readonly number[]) {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(at(x, y), (y * width + x) * 4);
  return { width, height, bits: 8 as const, data };
}

const RED = [200, 40, 30, 255] as const;
const BLUE = [30, 60, 180, 255] as const;
const GREEN = [40, 160, 60, 255] as const;
const code = ([r, g, b]: readonly number[]) => r | (g << 8) | (b << 16);

describe('pictures of IDs', () => {
  it('give exact colours back as they are', () => {
    const own = raster(40, 30, (x, y) => (x < 20 ? RED : y < 15 ? BLUE : GREEN));
    const read = readIdPicture(own);
    expect(read.odd).toBe(0);
    expect(new Set(read.colours)).toEqual(new Set([RED, BLUE, GREEN].map(code)));
    for (let i = 0; i < 1200; i++) expect(read.texels[i]).toBe(code([...own.data.subarray(i * 4, i * 4 + 3)]));
  });

  it('gather near colours, and give soft borders to the nearest ID, never to a third', () => {
    // Noise of a few levels, and a border over three texels whose middle looks like neither.
    const read = readIdPicture(
      raster(64, 64, (x, y) => {
        const jitter = ((x * 7 + y * 13) % 5) - 2;
        const t = Math.min(1, Math.max(0, (x - 30) / 4));
        return [0, 1, 2]
          .map((c) => Math.round(RED[c] + (BLUE[c] - RED[c]) * t) + (t === 0 || t === 1 ? jitter : 0))
          .concat(255);
      }),
    );
    expect(read.colours).toHaveLength(2);
    expect(read.odd).toBeGreaterThan(64);
    for (let y = 0; y < 64; y++) {
      const row = read.texels.subarray(y * 64, y * 64 + 64);
      const changes = [...row].filter((id, x) => x > 0 && id !== row[x - 1]).length;
      expect(changes).toBe(1);
      const border = [...row].findIndex((id) => id !== row[0]);
      expect(Math.abs(border - 32)).toBeLessThanOrEqual(2);
    }
  });

  it('are refused where they are photographs', () => {
    const photo = raster(128, 128, (x, y) =>
      [0, 1, 2].map((c) => (Math.imul(x * 128 + y + c * 7919, 0x9e3779b1) >>> 16) & 255).concat(255),
    );
    expect(() => readIdPicture(photo)).toThrow(RangeError);
  });

  it('know an ID by a colour that is near', () => {
    expect(meantId([code(RED), code(BLUE)], code([205, 44, 28]))).toBe(code(RED));
    expect(meantId([code(RED), code(BLUE)], code(GREEN))).toBeNull();
  });

  it('keep their colours at another size', () => {
    const ids = Uint32Array.of(1, 2, 3, 4);
    expect([...resizedIds(ids, [2, 2], [4, 2])]).toEqual([1, 1, 2, 2, 3, 3, 4, 4]);
  });
});

/** Distances of all texels to some lines, mm. */
function distances(surface: ReturnType<typeof sixSides>, segments: Segments, inside: Uint8Array | null, reach = 5000) {
  const out = new Float32Array(surface.width * surface.height).fill(Number.NaN);
  const lists = binTriangles(surface, surface.width, surface.height);
  const borders = buildBvh(segments.positions, segments.indices, 1);
  measureDistances({ surface, borders, reach, inside, out }, { numbers: lists.keys(), lists });
  return out;
}

describe('distances', () => {
  const surface = sixSides({ side: 96, squares: 2 });

  it('to UV borders are those to the edges of each side', () => {
    const found = distances(surface, uvBorders(surface), null);
    let n = 0;
    eachTexel(surface, (texel, t, p) => {
      const across = [0, 1, 2].filter((k) => Math.abs(p[k]) < 0.999 || !isOut(t, k));
      const edge = Math.min(...across.map((k) => 1 - Math.abs(p[k]))) * 1000;
      expect(Math.abs(found[texel] - edge)).toBeLessThan(1);
      n++;
    });
    expect(n).toBeGreaterThan(3000);
  });

  /** Whether an axis is the one that a triangle's side faces. */
  const isOut = (t: number, k: number) => Math.abs(surface.normals[t * 9 + k]) > 0.9;

  it('to IDs cross UV borders, and are negative inside', () => {
    // Everything above y = 0 is one ID: the border runs around four sides, and not along the edges of the box.
    const ids = new Uint8Array(surface.width * surface.height);
    eachTexel(surface, (texel, _, p) => {
      ids[texel] = Number(p[1] > 0);
    });
    const found = distances(
      surface,
      idBorders(surface, (texel) => ids[texel]),
      ids,
    );
    const texel = 2000 / ((96 / 2 - 8) * 1);
    eachTexel(surface, (i, t, p) => {
      // On the top and bottom the way in space leads through the box.
      const away = isOut(t, 1) ? Math.hypot(1, Math.min(1 - Math.abs(p[0]), 1 - Math.abs(p[2]))) : Math.abs(p[1]);
      expect(Math.abs(Math.abs(found[i]) - away * 1000)).toBeLessThan(texel);
      expect(found[i] < 0).toBe(p[1] > 0);
    });
  });

  it('find IDs that differ across a UV border', () => {
    const ids = new Uint8Array(surface.width * surface.height);
    eachTexel(surface, (texel, t) => {
      ids[texel] = Number(surface.island[t] === 1);
    });
    const found = distances(
      surface,
      idBorders(surface, (texel) => ids[texel]),
      ids,
    );
    eachTexel(surface, (i, t, p) => {
      if (surface.island[t] !== 1) return;
      expect(-found[i]).toBeCloseTo((1 - Math.max(Math.abs(p[1]), Math.abs(p[2]))) * 1000, -1);
    });
  });
});

describe('names and places', () => {
  const surface = sixSides();

  it('names fit by patterns', () => {
    expect([...byName(surface, 'slot', ['end*'])].filter(Boolean)).toHaveLength(4);
    expect([...byName(surface, 'part', ['side 3', 'side 5'])].filter(Boolean)).toHaveLength(4);
    expect([...byName(surface, 'model', ['box'])].filter(Boolean)).toHaveLength(surface.count);
    expect([...byName(surface, 'group', ['*'])].filter(Boolean)).toHaveLength(0);
  });

  it('points choose the island on which they lie', () => {
    expect([...byPoint(surface, [[0.2, 1.05, 0.1]])].flatMap((v, t) => (v ? [surface.island[t]] : []))).toEqual([3, 3]);
  });
});

describe('what a recipe asks for', () => {
  it('is what its lines that are on read, those of shared conditions too', () => {
    const recipe = recipeOf(
      [
        colourLine('a', '#ff0000', { use: 'edges' }),
        colourLine('b', '#00ff00', {
          any: [{ of: 'id', colours: ['#c8281e'], soft: 4 }, { not: { of: 'ao', to: 0.5 } }],
        }),
        { ...colourLine('c', '#0000ff', { of: 'thickness', to: 0.5 }), off: true },
      ],
      { conditions: { edges: { of: 'convex', from: 0.2 } } },
    );
    const needs = recipeNeeds(recipe);
    expect(needs.maps).toEqual(['convex', 'ao']);
    expect(needs.bakedIds).toBe(true);
    expect(needs.distances.map(({ to, reach }) => [to, reach])).toEqual([['colours', 4]]);
  });

  it('that a model lacks is said line by line, and the rest is done', () => {
    const surface = sixSides();
    const recipe = recipeOf([
      colourLine('gone', '#ff0000', { of: 'slot', names: ['handle'] }),
      colourLine('masked', '#ff0000', { of: 'mask', picture: 'dirt.png' }),
      { name: 'lost', what: { look: { from: 'slot', slot: 'nowhere' } } },
      colourLine('there', '#00ff00', { of: 'slot', names: ['body'] }),
    ]);
    const missing = new Map([['dirt.png', 'there is no such picture']]);
    const looks = {
      0: pictureLook(stockSet(), 1),
      1: pictureLook(stockSet(), 1),
      2: 'no slot is called "nowhere"',
      3: pictureLook(stockSet(), 1),
    };
    const { lines, problems } = prepareLines(recipe, surface, looks, NO_INPUTS, missing);
    expect(lines).toEqual([0, 3]);
    expect(problems.map(({ line, message }) => `${line}: ${message}`)).toEqual([
      'gone: no slot is called "handle"; there are ends, body',
      'masked: dirt.png: there is no such picture',
      'lost: no slot is called "nowhere"',
    ]);
  });

  it('of a cell is refused where it needs a surface', () => {
    const recipe = recipeOf([
      colourLine('a', '#ff0000', {
        all: [
          { of: 'noise', size: 10 },
          { of: 'convex', from: 0.2 },
        ],
      }),
    ]);
    const { lines, problems } = prepareLines(
      recipe,
      surfaceOfCell('c', [8, 8], [1, 1]),
      { 0: pictureLook(stockSet(), 1) },
      NO_INPUTS,
      new Map(),
    );
    expect(lines).toEqual([]);
    expect(problems[0].message).toContain('a cell has no convex');
  });

  it('of a cell is said where a look that is turned would not wrap', () => {
    const laid = (turn: number) => {
      const recipe = recipeOf([{ name: 'a', what: { look: { from: 'files', names: 'x' }, lay: { by: 'box', turn } } }]);
      const looks = { 0: pictureLook(stockSet(), 1) };
      return prepareLines(recipe, surfaceOfCell('c', [8, 8], [1, 1]), looks, NO_INPUTS, new Map()).problems;
    };
    expect(laid(90)).toEqual([]);
    expect(laid(30)).toMatchObject([
      { line: 'a', leftOut: false, message: expect.stringMatching(/30°.*opposite edge/) },
    ]);
  });
});

function stockSet(look: Parameters<typeof paintStock>[0] = 'asphalt', side = 32) {
  const { color } = paintStock(look, side);
  return toLevels(
    color,
    'srgb',
    true,
    true,
    new SharedArrayBuffer(levelSetLength(side, side, levelCount(side, side)) * 4),
  );
}

test('memory is planned before, and refused with its numbers', () => {
  const needs = recipeNeeds(
    recipeOf([
      colourLine('a', '#ff0000', {
        all: [
          { of: 'ao', to: 1 },
          { of: 'uv-border', to: 5 },
        ],
      }),
    ]),
  );
  const small = planRecipeMemory('a.glb', { side: 512, triangles: 1000, needs }, 1e9);
  expect(planRecipeMemory('a.glb', { side: 1024, triangles: 1000, needs }, 1e9)).toBeGreaterThan(small * 3.8);
  // 4096² with three maps stays below 1 GB, as the reference wants it.
  expect(planRecipeMemory('a.glb', { side: 4096, triangles: 100_000, needs }, 24e9)).toBeLessThan(1e9);
  expect(() => planRecipeMemory('a.glb', { side: 8192, triangles: 1000, needs }, 1e9)).toThrow(
    /needs 1\.4 GiB at 8192 px.* has 0\.9/,
  );
});

describe('repetition that is broken up', () => {
  it.each(['asphalt', 'zinc', 'grime'] as const)('keeps mean and variance of %s within 2 %%', (name) => {
    const set = stockSet(name, 64);
    const gauss = [gaussTables(set)];
    const look = { ...pictureLook(set, 0.1), gauss };
    const surface = surfaceOfCell('cell', [640, 640], [1, 1]);
    const lay = (breakUp: unknown) =>
      recipeOf([
        { name: 'a', what: { look: { from: 'files', names: 'x' }, lay: { by: 'box', metres: 0.1, breakUp } } },
      ]);
    const plain = statistics(evaluated({ recipe: lay(null), surface, looks: { 0: look } }).baseColor);
    const broken = statistics(evaluated({ recipe: lay({}), surface, looks: { 0: look } }).baseColor);
    for (let c = 0; c < 3; c++) {
      expect(Math.abs(broken.mean[c] / plain.mean[c] - 1)).toBeLessThan(0.02);
      expect(Math.abs(broken.deviation[c] / plain.deviation[c] - 1)).toBeLessThan(0.02);
    }
    expect(broken.same).toBeLessThan(plain.same / 2);
  });
});

/** Mean and standard deviation of each channel, and how alike neighbouring repeats are: share of texels that are the same 64 px to the right. */
function statistics(rgba: Uint8Array) {
  const mean = [0, 0, 0];
  const squares = [0, 0, 0];
  let same = 0;
  const n = rgba.length / 4;
  for (let i = 0; i < n; i++) {
    for (let c = 0; c < 3; c++) {
      mean[c] += rgba[i * 4 + c] / n;
      squares[c] += rgba[i * 4 + c] ** 2 / n;
    }
    const j = (i + 64) % n;
    same += Number(Math.abs(rgba[i * 4] - rgba[j * 4]) <= 2) / n;
  }
  return { mean, same, deviation: mean.map((m, c) => Math.sqrt(squares[c] - m * m)) };
}

describe('a limited number of colours', () => {
  it('holds no more, each texel the nearest or a neighbour of it', () => {
    const { color } = paintStock('moss', 64);
    const before = Uint8Array.from(color.data);
    for (const [count, dithered] of [
      [4, false],
      [4, true],
      [16, false],
    ] as const) {
      const rgba = Uint8Array.from(before);
      const palette = limitColours(rgba, 64, count, dithered);
      const used = new Set(Array.from({ length: 4096 }, (_, i) => code([...rgba.subarray(i * 4, i * 4 + 3)])));
      expect(palette).toHaveLength(count);
      expect(used.size).toBeLessThanOrEqual(count);
      for (const one of used) expect(palette.map(code)).toContain(one);
    }
  });

  it('keeps a picture of so few colours as it is', () => {
    const own = raster(16, 16, (x) => (x < 8 ? RED : BLUE));
    const rgba = Uint8Array.from(own.data);
    limitColours(rgba, 16, 2, false);
    expect(rgba).toEqual(Uint8Array.from(own.data));
  });
});
