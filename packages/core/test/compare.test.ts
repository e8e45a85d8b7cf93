import { describe, expect, test } from 'vitest';
import { changedCells, onlyCells } from '../src/compare/changed.ts';
import { farView, nearView } from '../src/compare/distances.ts';
import { isWorse, summarise } from '../src/compare/fidelity.ts';
import type { ViewPictures } from '../src/compare/project.ts';
import { renderView } from '../src/compare/rasterise.ts';
import { cellBounds, cellsFor, type DrawScene, drawScene } from '../src/compare/scene.ts';
import { VIEWS, viewFrame } from '../src/compare/views.ts';
import { levelSetBytes, toLevels } from '../src/image/levels.ts';
import { differencePicture, pictureDifference } from '../src/image/metrics.ts';
import { buildModel, numbers, quad } from './build.ts';

const all = (n: number) => new Uint8Array(n * n).fill(255);

test('PSNR of a known error, null for equal pictures, only where something is covered', () => {
  const a = new Uint8Array(32 * 32 * 3).fill(100);
  const b = a.map((v) => v + 5);
  const difference = pictureDifference(a, b, all(32), all(32), 32);
  expect(difference.psnr).toBeCloseTo(10 * Math.log10((255 * 255) / 25), 9);
  expect(pictureDifference(a, a, all(32), all(32), 32)).toEqual({ psnr: null, ssim: 1 });
  const nothing = new Uint8Array(32 * 32);
  expect(pictureDifference(a, b, nothing, nothing, 32)).toEqual({ psnr: null, ssim: 1 });
});

test('SSIM follows its formula on flat pictures and falls with structure', () => {
  const a = new Uint8Array(32 * 32 * 3).fill(100);
  const b = new Uint8Array(32 * 32 * 3).fill(120);
  const c1 = (0.01 * 255) ** 2;
  expect(pictureDifference(a, b, all(32), all(32), 32).ssim).toBeCloseTo(
    (2 * 100 * 120 + c1) / (100 ** 2 + 120 ** 2 + c1),
    9,
  );
  const random = numbers(6);
  const noisy = a.map(() => 60 + random() * 80);
  const other = a.map(() => 60 + random() * 80);
  expect(pictureDifference(noisy, other, all(32), all(32), 32).ssim).toBeLessThan(0.3);
});

describe('the figures of all views', () => {
  const like = (unlit: number | null, lit: number | null, ssim = 1) => ({
    unlit: { psnr: unlit, ssim: 1 },
    lit: { psnr: lit, ssim },
  });
  const same = like(null, null);

  test('the worst of all views is reported, lit or unlit', () => {
    const views = [
      { name: 'a', ...like(null, 50, 0.99), near: same, far: same },
      { name: 'b', ...like(60, 41, 0.995), near: like(null, 39), far: same },
    ];
    const fidelity = summarise(views, 64, 1);
    expect(fidelity).toMatchObject({ psnr: 41, ssim: 0.99, worstView: 'b' });
    expect(fidelity.distances.map(({ distance, psnr, worstView }) => [distance, psnr, worstView])).toEqual([
      [0.4, 39, 'b'],
      [1, 41, 'b'],
      [3, null, 'a'],
    ]);
    expect(summarise([{ name: 'a', ...same, near: same, far: same }], 64, 1)).toMatchObject({ psnr: null, ssim: 1 });
    expect([...differencePicture(Uint8Array.from([10, 200, 0]), Uint8Array.from([10, 190, 255]))]).toEqual([
      128, 88, 255,
    ]);
  });

  test('a result is worse when it is farther from the truth than 40 dB and than its original less 1 dB', () => {
    const seen = { distance: 3, psnr: 33, ssim: 1, worstView: 'a' };
    const worse = (original: number, result: number) => isWorse({ ...seen, truth: { original, result } });
    expect(isWorse(seen)).toBe(false);
    expect([worse(33, 32.1), worse(33, 31.9), worse(45, 40), worse(45, 39.9)]).toEqual([false, true, false, true]);
  });

  test('seen from nearby it is the part that differs most, larger; from afar all of it, smaller', () => {
    const size = 100;
    const picture = (): ViewPictures => ({
      size,
      unlit: new Uint8Array(size * size * 3),
      lit: new Uint8Array(size * size * 3),
      coverage: all(size),
    });
    const [a, b] = [picture(), picture()];
    for (const i of [40 * size + 70, 52 * size + 80]) b.lit[i * 3] = 200;
    b.unlit[5 * size * 3] = 250;
    const view = { eye: VIEWS[0].eye, bounds: [], size };
    const { window, size: near } = nearView(view, a, b);
    expect([near, window?.side]).toEqual([38, 15]);
    const { x, y } = window as { x: number; y: number };
    expect([x <= 70 && x + 15 > 80, y <= 40 && y + 15 > 52]).toEqual([true, true]);
    expect(farView(view)).toMatchObject({ window: { x: 0, y: 0, side: 100 }, size: 33 });
  });
});

test('the twelve views look from twelve sides with square frames', () => {
  expect(new Set(VIEWS.map((v) => v.name)).size).toBe(12);
  for (const { eye } of VIEWS) {
    const f = viewFrame(eye);
    const dot = (a: number[], b: number[]) => a.reduce((sum, v, i) => sum + v * b[i], 0);
    for (const v of [f.right, f.up, f.toward]) expect(dot(v, v)).toBeCloseTo(1, 12);
    expect(dot(f.right, f.up)).toBeCloseTo(0, 12);
    expect(dot(f.right, f.toward)).toBeCloseTo(0, 12);
    expect(dot(f.up, eye) < dot(eye, eye) ** 0.5).toBe(true);
  }
});

describe('the rasteriser', () => {
  const colour = (r: number, g: number, b: number, a = 1) => ({ r, g, b, a });
  function draw(
    quads: {
      z: number;
      color: ReturnType<typeof colour>;
      blend?: boolean;
      flip?: boolean;
      both?: boolean;
      w?: number;
    }[],
    size = 64,
  ) {
    const slots = quads.map((quad, i) => ({
      name: `s${i}`,
      alphaMode: quad.blend ? ('BLEND' as const) : ('OPAQUE' as const),
      doubleSided: quad.both,
    }));
    const parts = quads.map((q, i) => {
      const base = quad(-0.5, -0.5, q.w ?? 1, 1, 0, 0, 1, 1);
      return {
        ...base,
        indices: q.flip ? [0, 2, 1, 0, 3, 2] : base.indices,
        slot: `s${i}`,
        translation: [0, 0, q.z] as [number, number, number],
      };
    });
    const model = buildModel(slots, parts);
    quads.forEach((quad, i) => {
      model.slots[i].look.baseColorFactor = [quad.color.r, quad.color.g, quad.color.b, quad.color.a];
      model.slots[i].look.unlit = true;
    });
    const scene: DrawScene = drawScene([model], size);
    return renderView(scene, new Map(), { eye: [0, 0, 1], bounds: cellBounds(scene), size });
  }
  const middle = (viewPictures: ReturnType<typeof draw>) => [
    ...viewPictures.unlit.subarray((32 * 64 + 32) * 3, (32 * 64 + 32) * 3 + 3),
  ];

  test('covers 94 % of the side with whole coverage inside and none outside', () => {
    const viewPictures = draw([{ z: 0, color: colour(1, 0, 0) }]);
    const covered = viewPictures.coverage.reduce((sum, c) => sum + c / 255, 0);
    // A side is found to a quarter of a pixel.
    expect(Math.abs(Math.sqrt(covered) - 64 * 0.94)).toBeLessThanOrEqual(0.25);
    expect(viewPictures.coverage[0]).toBe(0);
    expect(middle(viewPictures)).toEqual([255, 0, 0]);
  });

  test('the nearer face wins, whatever the order', () => {
    const near = { z: 0.5, color: colour(0, 1, 0) };
    const far = { z: -0.5, color: colour(1, 0, 0) };
    expect(middle(draw([near, far]))).toEqual([0, 255, 0]);
    expect(middle(draw([far, near]))).toEqual([0, 255, 0]);
  });

  test('faces turned away are left out unless double-sided', () => {
    const back = { z: 0, color: colour(1, 0, 0), flip: true };
    expect(draw([back]).coverage.every((c) => c === 0)).toBe(true);
    expect(middle(draw([{ ...back, both: true }]))).toEqual([255, 0, 0]);
  });

  test('alpha-blended faces are laid over what is behind, far ones first', () => {
    const glass = (z: number, c: ReturnType<typeof colour>) => ({ z, color: c, blend: true });
    const viewPictures = draw([
      glass(0.5, colour(0, 0, 1, 0.5)),
      glass(0, colour(0, 1, 0, 0.5)),
      { z: -0.5, color: colour(1, 0, 0) },
    ]);
    // Linear: red 1 → ¼, green ½ → ¼, blue ½.
    expect(middle(viewPictures)).toEqual([137, 137, 188]);
  });

  test('models of a pack stand in cells of their own', () => {
    expect(cellsFor(5, 90).map((cell) => [cell.x, cell.y, cell.side])).toEqual([
      [0, 0, 30],
      [30, 0, 30],
      [60, 0, 30],
      [0, 30, 30],
      [30, 30, 30],
    ]);
  });

  test('a window shows its part of the framing picture, larger', () => {
    const scene = (size: number) => {
      const model = buildModel([{ name: 'a' }], [{ ...quad(-0.5, -0.5, 1, 0.7, 0, 0, 1, 1), slot: 'a' }]);
      model.slots[0].look.unlit = true;
      model.slots[0].look.baseColorFactor = [1, 0, 0, 1];
      return drawScene([model], size);
    };
    const view = { eye: [0.3, 0.2, 1] as [number, number, number], bounds: cellBounds(scene(64)) };
    const large = renderView(scene(128), new Map(), { ...view, size: 128 });
    const part = renderView(scene(64), new Map(), { ...view, size: 64, window: { x: 2, y: 30, side: 32 } });
    const cut = part.unlit.map((_, i) => large.unlit[((60 + Math.floor(i / 192)) * 128 + 4) * 3 + (i % 192)]);
    expect(new Set(cut).size).toBeGreaterThan(2);
    expect(Buffer.from(part.unlit).equals(Buffer.from(cut))).toBe(true);
  });

  test('the truth of a fine pattern is what its samples show, whatever its mips hold', () => {
    const model = buildModel([{ name: 'a', baseColor: 'c' }], [{ ...quad(-0.5, -0.5, 1, 1, 0, 0, 1, 1), slot: 'a' }]);
    model.slots[0].look.unlit = true;
    const scene = drawScene([model], 64);
    // Level 0 is white, the others are black.
    const white = { width: 256, height: 256, bits: 8 as const, data: new Uint8Array(256 * 256 * 4).fill(255) };
    const set = toLevels(white, 'srgb', false, true, new SharedArrayBuffer(levelSetBytes(256, 256, true)));
    set.data.fill(0, set.offsets[1]);
    const textures = new Map([[scene.draws[0].textures.baseColor as string, set]]);
    const view = { eye: [0, 0, 1] as [number, number, number], bounds: cellBounds(scene), size: 64 };
    const middleOf = (truth: boolean) => renderView(scene, textures, view, { truth }).unlit[(32 * 64 + 32) * 3];
    expect([middleOf(false), middleOf(true)]).toEqual([0, 255]);
  });

  test('models that are drawn from the same data are told apart from the others, which get the whole picture', () => {
    const models = (shift: number) =>
      ['a', 'b'].map((name, i) =>
        buildModel([{ name, baseColor: name }], [{ ...quad(i * shift, 0, 1, 1, 0, 0, 1, 1), slot: name }]),
      );
    const [before, after] = [drawScene(models(0), 64), drawScene(models(0.25), 64)];
    expect(changedCells(before, drawScene(models(0), 64))).toEqual([]);
    expect(changedCells(before, after)).toEqual([1]);
    const repainted = drawScene(models(0), 64);
    repainted.draws[0].textures.baseColor = 'another';
    expect(changedCells(before, repainted)).toEqual([0]);
    const only = onlyCells(after, [1], 64);
    expect(only.cells).toEqual([{ x: 0, y: 0, side: 64 }]);
    expect(only.draws).toEqual([{ ...after.draws[1], cell: 0 }]);
  });
});
