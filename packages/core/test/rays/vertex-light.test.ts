import { expect, test } from 'vitest';
import { LightDecisions, vertexLightOf, wayToSun } from '../../src/decisions/light-decisions.ts';
import { levelSetBytes, toLevels } from '../../src/image/levels.ts';
import { lightVertices } from '../../src/rays/cast/vertex-light.ts';
import { readModel } from '../../src/scene/model.ts';
import { cube, grid, model, square } from './scenes.ts';

const again = (m: ReturnType<typeof model>) => readModel(m.path, m.document, (texture) => texture.getName());
/** Mean of a part's colours where `where` holds. */
const mean = (m: ReturnType<typeof model>, part: number, where: (x: number, y: number) => boolean, channel = 0) => {
  const { positions: p, colors } = m.parts[part];
  let sum = 0;
  let n = 0;
  for (let v = 0; v < p.length / 3; v++)
    if (where(p[v * 3], p[v * 3 + 1])) {
      sum += (colors as Float32Array)[v * 4 + channel];
      n++;
    }
  return sum / n;
};

test('AO on a floor beside an infinite wall is that of the formula', () => {
  const wall = grid(1, 1, (u, v) => ({ p: [-1, (u * 2 - 1) * 200, 0.5 * (1 - v)], n: [1, 0, 0] }));
  const m = model('a.glb', { floor: square(1, 0, 16), wall });
  lightVertices(m, { ao: { rays: 512, distance: 1e9, strength: 1 }, sun: null });
  const lit = again(m);
  for (const x of [-0.5, 0, 0.5]) {
    const a = x + 1;
    expect(
      Math.abs(mean(lit, 0, (px) => Math.abs(px - x) < 1e-3) - 0.5 * (1 + a / Math.sqrt(a * a + 0.25))),
    ).toBeLessThan(0.02);
  }
});

test('a sun: n · l in the open, the rest of the light in the shade, a soft border, its tint', () => {
  const block = cube(0.3, false, [0, 0, 0.3]);
  const scene = () => model('a.glb', { floor: square(2, 0, 40), block });
  const direction = [1, 0, 1] as const;
  const lit = (softness: number) => {
    const model = scene();
    lightVertices(model, { ao: null, sun: { direction, softness, strength: 0.8, tint: [1, 0.5, 0], rays: 64 } });
    return again(model);
  };
  const hard = lit(0);
  const open = 0.2 + 0.8 * Math.SQRT1_2;
  expect(mean(hard, 0, (x) => x > 1)).toBeCloseTo(open, 3);
  expect(mean(hard, 0, (x) => x > 1, 1)).toBeCloseTo(0.2 + 0.4 * Math.SQRT1_2, 3);
  expect(mean(hard, 0, (x) => x > 1, 2)).toBeCloseTo(0.2, 3);
  // The shadow falls to −x, as long as the block is high.
  const shade = (x: number, y: number) => x < -0.4 && x > -0.75 && Math.abs(y) < 0.15;
  expect(mean(hard, 0, shade)).toBeCloseTo(0.2, 3);
  const values = (m: ReturnType<typeof model>) =>
    new Set([...(m.parts[0].colors as Float32Array)].filter((_, i) => i % 4 === 0).map((v) => Math.round(v * 50)));
  expect(values(lit(12)).size).toBeGreaterThan(values(hard).size + 3);
});

test('light is multiplied over colours that are there, and alpha stays', () => {
  const floor = { ...square(1), colors: [0.5, 1, 1, 0.25, 0.5, 1, 1, 0.25, 0.5, 1, 1, 0.25, 0.5, 1, 1, 0.25] };
  const m = model('a.glb', { floor });
  const report = lightVertices(m, {
    ao: null,
    sun: { direction: [0, 0, 3], softness: 0, strength: 0.5, tint: [1, 1, 1], rays: 4 },
  });
  expect(report).toEqual({ vertices: 4, severalPlaces: 0 });
  expect([...(again(m).parts[0].colors as Float32Array).slice(0, 4)].map((v) => Math.round(v * 1000))).toEqual([
    500, 1000, 1000, 250,
  ]);
});

test('what an alpha-tested material cuts away casts no shadow, neither of the sun nor of AO', () => {
  // A card over the middle of the floor, whose left half is clear.
  const card = grid(1, 1, (u, v) => ({ p: [u * 2 - 1, 1 - v * 2, 0.5], n: [0, 0, 1] }));
  const rgba = Uint8Array.from({ length: 4 * 4 * 4 }, (_, i) => (i % 4 === 3 && Math.floor(i / 4) % 4 < 2 ? 0 : 255));
  const raster = { width: 4, height: 4, channels: 4 as const, bits: 8 as const, data: rgba };
  const levels = toLevels(raster, 'srgb', true, false, new ArrayBuffer(levelSetBytes(4, 4, false)));
  const lit = (alphaMode: 'MASK' | 'OPAQUE', ao: boolean) => {
    const m = model('a.glb', { floor: square(2, 0, 40), card });
    const slot = m.slots.find((slot) => slot.name === 'card');
    const use = { image: 'x', uvSet: 0, transform: [1, 0, 0, 1, 0, 0], wrapS: 33071, wrapT: 33071, nearest: true };
    Object.assign(slot?.look ?? {}, { alphaMode, alphaCutoff: 0.5, baseColor: use });
    const sun = { direction: [0, 0, 1] as const, softness: 0, strength: 1, tint: [1, 1, 1] as const, rays: 1 };
    const light = ao ? { ao: { rays: 64, distance: 1, strength: 1 }, sun: null } : { ao: null, sun };
    lightVertices(m, light, { pictures: new Map([['x', levels]]) });
    return again(m);
  };
  const left = (x: number, y: number) => x > -0.9 && x < -0.1 && Math.abs(y) < 0.9;
  const right = (x: number, y: number) => x > 0.1 && x < 0.9 && Math.abs(y) < 0.9;
  const sunny = lit('MASK', false);
  expect(mean(sunny, 0, left)).toBeCloseTo(1, 4);
  expect(mean(sunny, 0, right)).toBeCloseTo(0, 4);
  expect(mean(lit('OPAQUE', false), 0, left)).toBeCloseTo(0, 4);
  const [tested, whole] = [lit('MASK', true), lit('OPAQUE', true)];
  expect(mean(tested, 0, left)).toBeGreaterThan(mean(whole, 0, left) + 0.2);
  expect(mean(tested, 0, right)).toBeLessThan(mean(tested, 0, left) - 0.2);
});

test('a stop in the middle of a part leaves its colours as they were', () => {
  const m = model('a.glb', { floor: square(1, 0, 60) });
  let asked = 0;
  const light = { ao: { rays: 4, distance: 1, strength: 1 }, sun: null };
  expect(() =>
    lightVertices(m, light, {
      progress: () => {
        if (++asked > 2) throw new Error('stopped');
      },
    }),
  ).toThrow('stopped');
  expect(again(m).parts[0].colors).toBeNull();
});

test('decisions: the way to the sun, no light when all is off', () => {
  const d = LightDecisions.parse({ sun: { azimuth: 90, height: 30, tint: '#ff8000' } });
  const light = vertexLightOf(d);
  expect(light?.sun?.direction.map((v) => Number(v.toFixed(6)))).toEqual([0.866025, 0.5, 0]);
  expect(light?.sun?.tint.map((v) => Number(v.toFixed(3)))).toEqual([1, 0.216, 0]);
  expect(wayToSun(0, 0).map((v) => v + 0)).toEqual([0, 0, 1]);
  expect(vertexLightOf(LightDecisions.parse({ ao: { strength: 0 }, sun: { strength: 0 } }))).toBeNull();
  expect(vertexLightOf(LightDecisions.parse({ ao: { strength: 0 } }))?.ao).toBeNull();
});
