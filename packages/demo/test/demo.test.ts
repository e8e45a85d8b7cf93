import { createHash } from 'node:crypto';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { writePng } from '@wembrel/core/image/png';
import { valueNoise } from '@wembrel/core/recipes/noise/periodic';
import fc from 'fast-check';
import { validateBytes } from 'gltf-validator';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { runs } from '../../core/test/sampling.ts';
import { awkwardFiles, brokenFiles, sign } from '../src/broken.ts';
import { buildFurniture, furnitureSlots } from '../src/furniture.ts';
import { box, disc, lathe, layCharts, rectangle } from '../src/geometry.ts';

const hash = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex').slice(0, 16);

describe('our PNG writer', () => {
  test('what it writes, another decoder reads back to the byte, in 8 and 16 bits', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 19 }),
        fc.integer({ min: 1, max: 13 }),
        fc.constantFrom(1 as const, 3 as const, 4 as const),
        fc.boolean(),
        fc.integer(),
        async (width, height, channels, deep, seed) => {
          const n = width * height * channels;
          let s = seed | 1;
          const next = () => {
            s ^= s << 13;
            s ^= s >>> 17;
            s ^= s << 5;
            return s >>> 0;
          };
          const data = deep ? Uint16Array.from({ length: n }, next) : Uint8Array.from({ length: n }, next);
          const image = sharp(writePng(data, width, height, channels), { ignoreIcc: true });
          const { data: back, info } = await image
            .toColourspace(channels === 1 ? (deep ? 'grey16' : 'b-w') : deep ? 'rgb16' : 'srgb')
            .raw({ depth: deep ? 'ushort' : 'uchar' })
            .toBuffer({ resolveWithObject: true });
          expect([info.width, info.height, info.channels]).toEqual([width, height, channels]);
          const values = deep ? new Uint16Array(back.buffer, back.byteOffset, n) : new Uint8Array(back);
          expect([...values]).toEqual([...data]);
        },
      ),
      { numRuns: runs(40) },
    );
  });
});

describe('the furniture', () => {
  const glb = buildFurniture(0.25);

  test('is the same to the byte every time', () => {
    expect(hash(buildFurniture(0.25))).toBe(hash(glb));
  });

  test('is a dozen slots with some forty textures, the glass without one, and valid', async () => {
    const { json } = parseGlb('x', glb);
    const { materials, images } = json as { materials: { name: string }[]; images: unknown[] };
    expect(materials.map((material) => material.name)).toEqual([
      ...furnitureSlots().map((slotPlan) => slotPlan.name),
      'ShelterGlass',
    ]);
    expect(materials).toHaveLength(13);
    expect(images.length).toBeGreaterThan(34);
    const report = await validateBytes(glb);
    expect(report.issues.messages.filter((message) => message.severity === 0)).toEqual([]);
  });

  test('two benches share their meshes', () => {
    const { json } = parseGlb('x', glb);
    const nodes = (json as { nodes: { mesh?: number }[] }).nodes;
    const uses = new Map<number, number>();
    for (const node of nodes) if (node.mesh !== undefined) uses.set(node.mesh, (uses.get(node.mesh) ?? 0) + 1);
    expect([...uses.values()].filter((use) => use === 2)).toHaveLength(2);
  });
});

describe('files to be careful with', () => {
  test('awkward ones can be read and broken ones cannot, as the open validator sees it', async () => {
    for (const [name, bytes] of Object.entries(awkwardFiles())) {
      const report = await validateBytes(bytes);
      // A texture without UVs is an error of the file, but a picture of it can still be drawn.
      if (name !== 'no-uvs.glb') expect(report.issues.numErrors, name).toBe(0);
    }
    for (const name of ['index-out-of-range.glb', 'nan-positions.glb', 'circle-of-nodes.glb']) {
      const report = await validateBytes(brokenFiles()[name]);
      expect(report.issues.numErrors, name).toBeGreaterThan(0);
    }
    await expect(validateBytes(brokenFiles()['truncated.glb'])).resolves.toMatchObject({
      issues: { numErrors: expect.any(Number) },
    });
  });

  test('a sign is what it is asked to be', () => {
    const read = (o: Parameters<typeof sign>[0]) =>
      parseGlb('x', sign(o).glb()).json as {
        materials: { name: string }[];
        meshes: { primitives: { attributes: object }[] }[];
        images?: unknown[];
      };
    expect(read({ names: ['A', 'B'] }).materials.map((material) => material.name)).toEqual(['A', 'B']);
    expect(read({ uvs: false }).meshes[0].primitives[0].attributes).not.toHaveProperty('TEXCOORD_0');
    expect(read({ texture: false }).images ?? []).toEqual([]);
  });
});

describe('charts', () => {
  const area = (p: number[][]) => {
    let sum = 0;
    for (let i = 0; i < p.length; i++) {
      const [ax, ay] = p[i];
      const [bx, by] = p[(i + 1) % p.length];
      sum += ax * by - bx * ay;
    }
    return Math.abs(sum) / 2;
  };

  test('laid into 0–1 they stay inside and do not overlap, and faces keep their outside', () => {
    const groups = [
      box([0, 0, 0], [1, 2, 0.5]),
      [rectangle([3, 0, 0], [1, 0, 0], [0, 1, 0])],
      lathe(
        [6, 0, 0],
        [
          [0.2, 0],
          [0.3, 0.5],
          [0.1, 1],
        ],
        12,
      ),
      [disc([9, 0, 0], 0.5, '+y', 16)],
    ];
    const surfaces = layCharts(groups);
    expect(surfaces).toHaveLength(4);
    let used = 0;
    for (const surface of surfaces) {
      for (const v of surface.uvs) {
        expect(v).toBeGreaterThanOrEqual(-1e-6);
        expect(v).toBeLessThanOrEqual(1 + 1e-6);
      }
      for (let t = 0; t < surface.indices.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((k) => surface.indices[t + k]);
        used += area([a, b, c].map((v) => [surface.uvs[v * 2], surface.uvs[v * 2 + 1]]));
        const at = (v: number) => [0, 1, 2].map((k) => surface.positions[v * 3 + k]);
        const [p, q, r] = [at(a), at(b), at(c)];
        const u = q.map((x, k) => x - p[k]);
        const w = r.map((x, k) => x - p[k]);
        const face = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
        const n = [0, 1, 2].map((k) => surface.normals[a * 3 + k]);
        expect(face[0] * n[0] + face[1] * n[1] + face[2] * n[2]).toBeGreaterThanOrEqual(-1e-9);
      }
    }
    expect(used).toBeGreaterThan(0.2);
    expect(used).toBeLessThanOrEqual(1);
  });
});

test('noise repeats at its period and stays in 0 … 1', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0, max: 8, noNaN: true }),
      fc.double({ min: 0, max: 8, noNaN: true }),
      fc.integer({ min: 1, max: 8 }),
      (x, y, period) => {
        const v = valueNoise(x, y, period, 7);
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThanOrEqual(1);
        expect(valueNoise(x + period, y + 2 * period, period, 7)).toBeCloseTo(v, 6);
      },
    ),
  );
});
