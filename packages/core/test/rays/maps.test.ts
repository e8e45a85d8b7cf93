import fc from 'fast-check';
import { expect, test } from 'vitest';
import { MAP_FORMS, MAP_KINDS } from '../../src/decisions/map-kinds.ts';
import { RaySettings } from '../../src/decisions/ray-decisions.ts';
import { levelSetBytes, toLevels } from '../../src/image/levels.ts';
import { toLab } from '../../src/image/oklab.ts';
import { planRayMemory } from '../../src/rays/cast/ray-memory.ts';
import { cutMesh } from '../../src/rays/cast/section.ts';
import { ditherAt } from '../../src/rays/maps/dither.ts';
import { FAULT } from '../../src/rays/maps/fault-kinds.ts';
import { idColours } from '../../src/rays/maps/id-colours.ts';
import { pairing } from '../../src/rays/pairing/pairings.ts';
import { unit } from '../../src/rays/target/hit-surface.ts';
import { sceneObjects } from '../../src/rays/target/scene-objects.ts';
import { runs } from '../sampling.ts';
import { bake, cube, grid, model, type Shape, sphere, square, texel } from './scenes.ts';

const one = { high: 'high', low: 'low' };
const ref = (name: string) => ({ path: 'a.glb', name });

/** The left and the right half of a square, as two shapes of two materials. */
const halves = (): Record<string, Shape> => ({
  left: { ...grid(1, 1, (u, v) => ({ p: [u - 1, 1 - v * 2, 0], n: [0, 0, 1] })), material: 'oak' },
  right: { ...grid(1, 1, (u, v) => ({ p: [u, 1 - v * 2, 0], n: [0, 0, 1] })), material: 'iron' },
});

test('IDs are exact, whatever the samples; softened they are mixtures of the two that meet', async () => {
  const models = [model('a.glb', { ...halves(), low: square(1) })];
  const p = pairing('both', [ref('left'), ref('right')], [ref('low')]);
  const colours = idColours(['oak', 'iron']);
  const hard = (await bake(models, [p], { maps: ['id'], size: 63, samples: 16 })).maps;
  const seen = new Set<number>();
  for (let x = 0; x < 63; x++) {
    const [r, g, b] = texel(hard, 'id', x, 30);
    seen.add(r | (g << 8) | (b << 16));
  }
  expect([...seen].sort()).toEqual([...colours.values()].sort());
  const soft = (await bake(models, [p], { maps: ['id'], size: 63, samples: 4, id: { soften: 6 } })).maps;
  const [a, z] = [texel(soft, 'id', 2, 30), texel(soft, 'id', 60, 30)];
  expect([a, z]).toEqual([texel(hard, 'id', 2, 30), texel(hard, 'id', 60, 30)]);
  let between = 0;
  for (let x = 0; x < 63; x++) {
    const c = texel(soft, 'id', x, 30);
    // Each channel lies between those of the two.
    c.forEach((v, k) => {
      expect(v).toBeGreaterThanOrEqual(Math.min(a[k], z[k]));
      expect(v).toBeLessThanOrEqual(Math.max(a[k], z[k]));
    });
    if (c.join() !== a.join() && c.join() !== z.join()) between++;
  }
  expect(between).toBeGreaterThanOrEqual(5);
  expect(between).toBeLessThanOrEqual(8);
});

test('holes are misses, unless a map of opacity is baked', async () => {
  const left = { ...grid(1, 1, (u, v) => ({ p: [u - 1, 1 - v * 2, 0], n: [0, 0, 1] })) };
  const models = [model('a.glb', { left, low: square(1) })];
  const p = pairing('half', [ref('left')], [ref('low')]);
  const missed = async (...maps: ('normal' | 'opacity')[]) =>
    (await bake(models, [p], { maps, size: 32, samples: 1 })).maps.faults.filter((bits) => bits & FAULT.missed).length;
  expect(await missed('normal')).toBeGreaterThan(32 * 10);
  expect(await missed('normal', 'opacity')).toBe(0);
});

test('ID colours: one name one colour, whatever else there is, and none twice', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.string({ maxLength: 12 }), { minLength: 1, maxLength: 80 }), (names) => {
      const colours = idColours(names);
      expect(new Set(colours.values()).size).toBe(names.length);
      expect(idColours([...names].reverse())).toEqual(colours);
    }),
    { numRuns: runs(30) },
  );
  expect(idColours(['oak']).get('oak')).toBe(idColours(['oak', 'iron', 'brass']).get('oak'));
});

test('ID colours of a dozen names are told apart at a glance', () => {
  const lab = (code: number) => toLab([(code & 255) / 255, ((code >> 8) & 255) / 255, (code >> 16) / 255]);
  fc.assert(
    fc.property(fc.uniqueArray(fc.string({ maxLength: 12 }), { minLength: 2, maxLength: 12 }), (names) => {
      const colours = [...idColours(names).values()].map(lab);
      colours.forEach((a, i) => {
        for (const b of colours.slice(0, i)) expect(Math.hypot(...a.map((v, k) => v - b[k]))).toBeGreaterThan(0.1);
      });
    }),
    // Colours that sRGB does not reach come out nearer to each other than they are meant.
    { numRuns: runs(200), examples: [[['"zP', '9', ';', '8', '#', ':', '<', '=', '>', '83', '?', ' 4?_/YY']]] },
  );
});

test('vertex colours, base colour and its texture, metallic and roughness come across', async () => {
  const high = { ...square(1.1), colors: [1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1, 1, 1, 1, 1] };
  const models = [model('a.glb', { high, low: square(1) })];
  const { look } = models[0].slots[0];
  look.baseColorFactor = [0.5, 1, 1, 1];
  look.roughnessFactor = 0.25;
  look.metallicFactor = 1;
  look.baseColor = { image: 'x', uvSet: 0, transform: [1, 0, 0, 1, 0, 0], wrapS: 10497, wrapT: 10497, nearest: true };
  const raster = { width: 1, height: 1, bits: 8 as const, data: Uint8Array.of(255, 255, 0, 255) };
  const set = toLevels(raster, 'srgb', false, false, new ArrayBuffer(16));
  const { maps } = await bake(
    models,
    [one],
    { maps: ['color', 'vertex-color', 'metallic', 'roughness'], size: 44, samples: 1 },
    undefined,
    [{ baseColor: set }, {}],
  );
  const [r, g, b] = texel(maps, 'vertex-color', 22, 22);
  const [cr, cg, cb] = texel(maps, 'color', 22, 22);
  // Blue is taken away by the texture, red is halved in linear light.
  expect(cb).toBe(0);
  expect(cg).toBe(g);
  const linear = (v: number) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4);
  expect(linear(cr)).toBeCloseTo(linear(r) / 2, 2);
  expect(b).toBeGreaterThan(0);
  expect(texel(maps, 'metallic', 5, 5)).toEqual([255]);
  expect(texel(maps, 'roughness', 5, 5)).toEqual([64]);
});

test("the high-poly's own normal map is added to its shape, in the frame of its UVs", async () => {
  // The high-poly's UVs are turned by a quarter against the low-poly's.
  const high = grid(
    1,
    1,
    (u, v) => ({ p: [(u * 2 - 1) * 1.1, (1 - v * 2) * 1.1, 0], n: [0, 0, 1] }),
    (u, v) => [v, 1 - u],
  );
  const m = model('a.glb', { high, low: square(1) });
  m.slots[0].look.normal = {
    image: 'n',
    uvSet: 0,
    transform: [1, 0, 0, 1, 0, 0],
    wrapS: 10497,
    wrapT: 10497,
    nearest: false,
  };
  const raster = { width: 1, height: 1, bits: 16 as const, data: Uint16Array.of(52428, 32768, 52428, 65535) };
  const set = toLevels(raster, 'normal', false, false, new ArrayBuffer(16));
  const { maps } = await bake([m], [one], { maps: ['normal'], size: 16, samples: 1, bits: 16 }, undefined, [
    { normal: set },
    {},
  ]);
  const n = texel(maps, 'normal', 8, 8).map((v) => (v / 65535) * 2 - 1);
  // +U of the high-poly runs the way of −V … of the sheet: down in space is where its tangent leads.
  const l = Math.sqrt(0.72);
  expect(n[0]).toBeCloseTo(0, 2);
  expect(n[1]).toBeCloseTo(-0.6 / l, 2);
  expect(n[2]).toBeCloseTo(0.6 / l, 2);
});

test('Y down is Y up with green turned over; 8 and 16 bit tell the same', async () => {
  const high = grid(1, 1, (u, v) => ({ p: [(u * 2 - 1) * 2, (1 - v * 2) * 2, (1 - v * 2) * 0.4] }));
  const models = [model('a.glb', { high, low: square(1) })];
  const of = async (more: object) =>
    (await bake(models, [one], { maps: ['normal'], size: 32, samples: 1, ...more })).maps;
  const up = texel(await of({ bits: 16 }), 'normal', 9, 9);
  const down = texel(await of({ bits: 16, normalY: 'down' }), 'normal', 9, 9);
  expect(Math.abs(up[1] + down[1] - 65535)).toBeLessThanOrEqual(1);
  expect([up[0], up[2]]).toEqual([down[0], down[2]]);
  const eight = await of({});
  let sum = 0;
  for (let i = 0; i < 1024; i++) {
    const g = texel(eight, 'normal', i % 32, Math.floor(i / 32))[1];
    expect(Math.abs(g - up[1] / 257)).toBeLessThanOrEqual(1.5);
    sum += g / 1024;
  }
  // Dithered, the mean says more than 8 bits can.
  expect(sum).toBeCloseTo(up[1] / 257, 1);
});

test('the dither has no bias, stays within a step, and neighbours differ', () => {
  let sum = 0;
  let step = 0;
  for (let y = 0; y < 64; y++)
    for (let x = 0; x < 64; x++) {
      const v = ditherAt(x, y, 0);
      expect(Math.abs(v)).toBeLessThan(1);
      sum += v / 4096;
      step += Math.abs(v - ditherAt(x + 1, y, 0)) / 4096;
    }
  expect(Math.abs(sum)).toBeLessThan(1e-3);
  // White noise of this distribution has 0.47; blue noise has more.
  expect(step).toBeGreaterThan(0.52);
});

test('a bolt on a plate: seen from outside, or passed over for the nearest', async () => {
  const bolt = cube(0.2, false, [0, 0, 0.35]);
  const models = [model('a.glb', { plate: square(1.1), bolt, low: square(1) })];
  const p = pairing('p', [ref('plate'), ref('bolt')], [ref('low')]);
  const of = async (more: object) =>
    texel(
      (await bake(models, [p], { maps: ['height'], size: 32, samples: 1, ...more }, { outward: 1, inward: 0.5 })).maps,
      'height',
      16,
      16,
    )[0];
  expect(await of({})).toBeCloseTo(0.55, 5);
  expect(await of({ hit: 'nearest' })).toBeCloseTo(0, 5);
});

test('back faces count only when asked for', async () => {
  const shape = square(1.1);
  const turned = { ...shape, indices: shape.indices.map((_, i) => shape.indices[i - (i % 3) + ((3 - (i % 3)) % 3)]) };
  const models = [model('a.glb', { high: turned, low: square(1) })];
  const reach = { outward: 0.1, inward: 0.1 };
  expect((await bake(models, [one], { maps: ['ao'], size: 16 }, reach)).maps.hit.every((h) => h === 0)).toBe(true);
  const seen = (await bake(models, [one], { maps: ['normal'], size: 16, backFaces: true }, reach)).maps;
  expect(seen.hit.every((h) => h === 1)).toBe(true);
  // Seen from behind, they look at who sees them.
  expect(texel(seen, 'normal', 8, 8)[2]).toBe(255);
});

test('a bake that needs more memory than there is, is refused with the numbers before it begins', () => {
  const m = model('a.glb', { high: sphere(1, 64), low: cube(1) });
  const p = pairing('ball', [ref('high')], [ref('low')]);
  const plan = (available: number, size = 1024) =>
    planRayMemory([m], sceneObjects([m]), {
      pairings: [p],
      settings: RaySettings.parse({ maps: ['normal'], size }),
      side: size,
      slots: 2,
      available,
    });
  const need = plan(1e12);
  // Normal, and 16 bytes a texel of what else is kept.
  expect(need.maps).toBe(1024 * 1024 * (3 + 16));
  expect(need.total).toBe(need.meshes + need.hierarchies + need.maps);
  expect(plan(need.total)).toEqual(need);
  expect(() => plan(need.total - 1)).toThrow(/^ball: the bake needs 0\.0 GiB .* bake fewer pairings or smaller maps$/);
  expect(plan(1e12, 8192).total).toBeGreaterThan(1024 ** 3);
});

test('opacity: what is missed is clear, and is not filled', async () => {
  const models = [model('a.glb', { ...halves(), low: square(1) })];
  const p = pairing('p', [ref('left')], [ref('low')]);
  const { maps } = await bake(models, [p], { maps: ['opacity', 'color'], size: 32, samples: 4 });
  expect(texel(maps, 'opacity', 8, 16)).toEqual([255]);
  expect(texel(maps, 'opacity', 24, 16)).toEqual([0]);
  expect(texel(maps, 'color', 24, 16)).toEqual([255, 255, 255]);
});

test('a cage decides where rays start; one that is no copy is refused', async () => {
  const low = cube(1);
  const bigger = { ...low, positions: low.positions.map((v) => v * 1.5) };
  const models = [model('a.glb', { high: sphere(1.2, 64), low, cage: bigger, other: square(1) })];
  const p = { ...pairing('p', [ref('high')], [ref('low')]), cage: ref('cage') };
  const { maps, jobs } = await bake(models, [p], { maps: ['height'], size: 64, samples: 1 });
  // Without the cage's reach the sphere, which stands out of the middle of each side by 0.2, would be cut there.
  expect(jobs[0].target.cage).toBe(true);
  expect(Math.max(...maps.distance.filter((d) => !Number.isNaN(d)))).toBeCloseTo(0.2, 2);
  await expect(bake(models, [{ ...p, cage: ref('other') }], { maps: ['height'], size: 64 })).rejects.toThrow(
    'the cage "other" has 2 triangles, the low-poly has 12',
  );
});

test('a denser copy as casting surface: rays follow its normals, frames stay those of the low-poly', async () => {
  const models = [model('a.glb', { high: sphere(1.02, 96), low: sphere(1, 6), dense: sphere(1, 48) })];
  const spread = async (surface: { path: string; name: string } | null) => {
    const p = { ...pairing('p', [ref('high')], [ref('low')]), surface };
    const { maps } = await bake(models, [p], { maps: ['object-normal'], size: 64, samples: 1, bits: 16 });
    // How far the normal is from that of the sphere at the texel's own longitude and latitude.
    let worst = 0;
    for (let y = 12; y < 52; y++)
      for (let x = 0; x < 64; x++) {
        const [t, f] = [(Math.PI * (y + 0.5)) / 64, (2 * Math.PI * (x + 0.5)) / 64];
        const truth = [Math.sin(t) * Math.cos(f), Math.cos(t), -Math.sin(t) * Math.sin(f)];
        const n = texel(maps, 'object-normal', x, y).map((v) => (v / 65535) * 2 - 1);
        unit(n);
        worst = Math.max(worst, 1 - (n[0] * truth[0] + n[1] * truth[1] + n[2] * truth[2]));
      }
    return (Math.acos(1 - worst) * 180) / Math.PI;
  };
  const coarse = await spread(null);
  const dense = await spread(ref('dense'));
  expect(dense).toBeLessThan(0.5);
  expect(coarse).toBeGreaterThan(4 * dense);
});

test('the cut through a sphere is a circle', () => {
  const m = model('a.glb', { s: sphere(1, 64) });
  const [part] = m.parts;
  const lines = cutMesh(part, { origin: [0, 0.3, 0], along: [1, 0, 0], up: [0, 0, 1] }, 2);
  expect(lines.length).toBeGreaterThan(100);
  for (let i = 0; i < lines.length; i += 2)
    expect(Math.abs(Math.hypot(lines[i], lines[i + 1]) - Math.sqrt(1 - 0.09))).toBeLessThan(2e-3);
  expect(cutMesh(part, { origin: [0, 1.5, 0], along: [1, 0, 0], up: [0, 0, 1] }, 2)).toHaveLength(0);
});

test('all kinds at once, on a body without UVs on the high-poly: every map is there and says something', async () => {
  const high = { ...sphere(1.05, 24), uvs: null };
  const models = [model('a.glb', { high, low: sphere(1, 12) })];
  expect(sceneObjects(models)).toHaveLength(2);
  const { maps } = await bake(models, [one], { maps: [...MAP_KINDS], size: 24, samples: 4, ao: { rays: 16 } });
  expect(maps.maps.map((map) => map.kind)).toEqual([...MAP_KINDS]);
  for (const map of maps.maps) {
    expect(map.data).toHaveLength(24 * 24 * MAP_FORMS[map.kind].channels);
    expect(map.data.every((v) => Number.isFinite(v))).toBe(true);
  }
});

test('a low-poly without UVs, and a body that is gone, are refused in a sentence', async () => {
  const models = [model('a.glb', { high: sphere(1, 8), low: { ...cube(1), uvs: null } })];
  await expect(bake(models, [one], { maps: ['ao'], size: 16 })).rejects.toThrow(
    'a.glb: "low" has no UV set 0 to bake onto; unwrap it first',
  );
  await expect(bake(models, [pairing('p', [ref('gone')], [ref('high')])], { maps: ['ao'], size: 16 })).rejects.toThrow(
    'a.glb: "gone", which the pairing "p" names, was not found',
  );
});

test('the brush changes reaches and direction within its radius, most in its middle, and nothing beyond', async () => {
  // A plate half a metre above the low-poly: out of reach but where the brush has been.
  const models = [model('a.glb', { high: square(1, 0.5), low: square(1) })];
  const p = pairing('plate', [ref('high')], [ref('low')]);
  const reaches = { outward: 0.2, inward: 0.1 };
  const settings = { maps: ['height' as const], size: 64, samples: 1 as const, padding: 0 };
  const stamp = { at: [0.5, 0.5, 0] as [number, number, number], radius: 0.4, outward: 5, inward: 1, straight: 0 };
  const before = await bake(models, [p], settings, reaches);
  expect(before.maps.hit.some((h) => h === 1)).toBe(false);
  const { maps } = await bake(models, [{ ...p, localReaches: [stamp] }], settings, reaches);
  for (let y = 0; y < 64; y++)
    for (let x = 0; x < 64; x++) {
      const [px, py] = [(x + 0.5) / 32 - 1, 1 - (y + 0.5) / 32];
      const s = ((px - 0.5) ** 2 + (py - 0.5) ** 2) / 0.16;
      // 0.2 · (1 + 4 (1 − s)²) reaches half a metre.
      const reached = s < 1 && 0.2 * (1 + 4 * (1 - s) ** 2) >= 0.5;
      expect(maps.hit[y * 64 + x], `${x}, ${y}`).toBe(reached ? 1 : 0);
    }
  // Directions: the smoothed normals of a cube lean; brushed straight, rays go along the face's normal and meet what lies right below.
  const cubes = [model('b.glb', { high: cube(0.9), low: cube(1, true) })];
  const of = (name: string) => ({ path: 'b.glb', name });
  const q = pairing('cube', [of('high')], [of('low')]);
  const wide = { at: [0, 0, 1] as [number, number, number], radius: 1e3, outward: 1, inward: 1, straight: 1 };
  const map = { maps: ['height' as const], size: 48, samples: 1 as const, padding: 0 };
  const leaning = (await bake(cubes, [q], map, { outward: 0.05, inward: 0.5 })).maps;
  const straight = (await bake(cubes, [{ ...q, localReaches: [wide] }], map, { outward: 0.05, inward: 0.5 })).maps;
  const apart = (rayMaps: typeof leaning) =>
    [...rayMaps.distance].filter((d, i) => rayMaps.hit[i] && Math.abs(d + 0.1) > 1e-4).length;
  expect(apart(leaning)).toBeGreaterThan(300);
  expect(apart(straight)).toBe(0);
});

test('rays go through what an alpha-tested material cuts away, to what lies behind or to nothing', async () => {
  // A card whose left half is clear, before a wall at half its width.
  const card = square(1, 0.2);
  const wall = grid(1, 1, (u, v) => ({ p: [u * 0.5 - 1, 1 - v * 2, 0.1], n: [0, 0, 1] }));
  const models = [model('a.glb', { card, wall, low: square(1) })];
  const look = models[0].slots.find((slot) => slot.name === 'card');
  if (!look) throw new Error('no card');
  Object.assign(look.look, { alphaMode: 'MASK', alphaCutoff: 0.5 });
  const p = pairing('leaf', [ref('card'), ref('wall')], [ref('low')]);
  const rgba = Uint8Array.from({ length: 4 * 4 * 4 }, (_, i) => (i % 4 === 3 && Math.floor(i / 4) % 4 < 2 ? 0 : 255));
  const raster = { width: 4, height: 4, channels: 4 as const, bits: 8 as const, data: rgba };
  const levels = toLevels(raster, 'srgb', true, false, new ArrayBuffer(levelSetBytes(4, 4, false)));
  Object.assign(look.look, {
    baseColor: {
      image: 'x',
      uvSet: 0,
      transform: [1, 0, 0, 1, 0, 0],
      wrapS: 33071,
      wrapT: 33071,
      nearest: true,
    },
  });
  const settings = {
    maps: ['height' as const, 'opacity' as const, 'ao' as const],
    size: 64,
    samples: 1 as const,
    padding: 0,
  };
  const { maps, faults } = await bake(models, [p], settings, { outward: 0.5, inward: 0.5 }, [
    { baseColor: levels },
    {},
  ]);
  const heightAt = (x: number) => (maps.hit[32 * 64 + x] ? Number(maps.distance[32 * 64 + x].toFixed(4)) : null);
  // The wall behind the clear quarter, nothing behind the next, the card in the right half.
  expect([heightAt(8), heightAt(24), heightAt(48)]).toEqual([0.1, null, 0.2]);
  expect(faults.filter((fault) => fault.kind === 'missed')).toEqual([]);
  // Light comes in through what is cut away: the wall is not as dark as below a whole card.
  Object.assign(look.look, { alphaMode: 'OPAQUE' });
  const solid = await bake(models, [p], { ...settings, hit: 'nearest' as const }, { outward: 0.5, inward: 0.5 }, [
    { baseColor: levels },
    {},
  ]);
  expect(texel(maps, 'ao', 4, 32)[0]).toBeGreaterThan(texel(solid.maps, 'ao', 4, 32)[0] + 20);
});
