import { describe, expect, test } from 'vitest';
import { renderView } from '../src/compare/rasterise.ts';
import { cellBounds, cellsFor, type DrawScene, drawScene } from '../src/compare/scene.ts';
import { VIEWS, viewFrame } from '../src/compare/views.ts';
import { differencePicture, pictureDifference, summarise } from '../src/image/metrics.ts';
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

test('the worst of all views is reported, lit or unlit', () => {
  const view = (name: string, unlit: number | null, lit: number | null, ssim: number) => ({
    name,
    unlit: { psnr: unlit, ssim: 1 },
    lit: { psnr: lit, ssim },
  });
  expect(summarise([view('a', null, 50, 0.99), view('b', 60, 41, 0.995)], 64)).toMatchObject({
    psnr: 41,
    ssim: 0.99,
    worstView: 'b',
  });
  expect(summarise([view('a', null, null, 1)], 64)).toMatchObject({ psnr: null, ssim: 1 });
  expect([...differencePicture(Uint8Array.from([10, 200, 0]), Uint8Array.from([10, 190, 255]))]).toEqual([
    128, 88, 255,
  ]);
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
    return renderView(scene, new Map(), [0, 0, 1], cellBounds(scene), size);
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
});
