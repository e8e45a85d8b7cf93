import { RayCaster } from '@wembrel/kernels/rays';
import { beforeAll, describe, expect, test } from 'vitest';
import { tangentsReady } from '../../src/mesh/tangents.ts';
import { placesOf } from '../../src/rays/target/casting.ts';
import { rayMesh } from '../../src/rays/target/ray-mesh.ts';
import { sceneObjects } from '../../src/rays/target/scene-objects.ts';
import { readModel } from '../../src/scene/model.ts';
import { finishedMesh, meshDocument, smoothWithinCharts } from '../../src/stand-in/document.ts';
import { isAlike, standInView } from '../../src/stand-in/fidelity.ts';
import { levelsOfDetail } from '../../src/stand-in/levels.ts';
import { isWatertight, type LightMesh, lightMesh, volumeOf } from '../../src/stand-in/light-mesh.ts';
import {
  distanceFor,
  framingDistance,
  outlineError,
  outlinesOf,
  pxPerMetre,
} from '../../src/stand-in/outline-error.ts';
import { hidingBvh, markSeen, withNeighbours } from '../../src/stand-in/seen.ts';
import { simplified, simplifierReady } from '../../src/stand-in/simplify.ts';
import { surfaceDistance } from '../../src/stand-in/surface-distance.ts';
import { unwrapModel } from '../../src/unwrap/unwrap.ts';
import { cube, grid, model, type Shape, sphere } from '../rays/scenes.ts';

beforeAll(async () => {
  await simplifierReady;
  await tangentsReady;
});

const meshOf = (shapes: Parameters<typeof model>[1]) => {
  const made = model('test.glb', shapes);
  return rayMesh([made], sceneObjects([made]));
};

/** How many triangles of each object are seen. */
function seenByObject(shapes: Record<string, Shape>): Record<string, number> {
  const mesh = meshOf(shapes);
  const seen = new Uint8Array(mesh.triangles);
  markSeen(mesh, new RayCaster(hidingBvh(mesh, 1)), [0, mesh.triangles], seen);
  return Object.fromEntries(
    mesh.sources.map(({ object, from, to }) => [object, seen.subarray(from, to).reduce((sum, one) => sum + one, 0)]),
  );
}

describe('what is seen from outside', () => {
  test('a cube in a closed cube is not, in one with an open side it is', () => {
    expect(seenByObject({ outer: cube(1), inner: cube(0.3) })).toEqual({ outer: 12, inner: 0 });
    const open = cube(1);
    const { inner } = seenByObject({ outer: { ...open, indices: open.indices.slice(6) }, inner: cube(0.3) });
    expect(inner).toBeGreaterThan(0);
  });

  test('faces that are drawn from one side alone hide nothing from behind', () => {
    // Turned inside out, the outer cube is not drawn where it is nearest to the eye.
    const turned = cube(1);
    const inside = { ...turned, indices: turned.indices.map((_, i) => turned.indices[i - (i % 3) + 2 - (i % 3)]) };
    expect(seenByObject({ outer: inside, inner: cube(0.3) }).inner).toBe(12);
  });

  test('what touches a seen triangle is kept', () => {
    const mesh = meshOf({ floor: grid(3, 3, (u, v) => ({ p: [u, v, 0] })) });
    const seen = new Uint8Array(mesh.triangles);
    seen[0] = 1;
    const kept = withNeighbours(mesh, placesOf(mesh), seen);
    expect(kept[0]).toBe(1);
    expect(kept.reduce((sum, one) => sum + one, 0)).toBeGreaterThan(1);
    expect(kept[mesh.triangles - 1]).toBe(0);
  });
});

const ball = (radius: number, rows = 48): LightMesh => lightMesh(meshOf({ ball: sphere(radius, rows) }), null, null);

describe('shapes', () => {
  test('places of one surface join across slots and hard edges: a cube of split corners is closed', () => {
    const mesh = lightMesh(meshOf({ a: cube(0.5) }), null, null);
    expect(mesh.positions.length / 3).toBe(8);
    expect(isWatertight(mesh)).toBe(true);
    expect(volumeOf(mesh)).toBeCloseTo(1, 6);
  });

  test('objects that are kept apart do not join, twice the same triangle is once', () => {
    const twice = meshOf({ a: cube(0.5), b: cube(0.5) });
    expect(lightMesh(twice, null, null).indices.length / 3).toBe(12);
    expect(lightMesh(twice, null, [0, 1]).indices.length / 3).toBe(24);
  });

  test('a ball reduced to a tenth keeps its outline within a hundredth of its size', () => {
    const mesh = ball(1);
    const triangles = Math.floor(mesh.indices.length / 30);
    const light = simplified(mesh, { triangles });
    expect(light.indices.length / 3).toBeLessThanOrEqual(triangles);
    const from = outlinesOf(mesh, 512);
    expect(outlineError(from, outlinesOf(light, 512, from)).most).toBeLessThan(0.02);
    expect(surfaceDistance(mesh, light).greatest).toBeLessThan(0.03);
  });
});

describe('outlines', () => {
  test('two balls: their radii differ by what is measured, to a px', () => {
    const from = outlinesOf(ball(1), 512);
    const error = outlineError(from, outlinesOf(ball(0.95), 512, from));
    expect(Math.abs(error.median - 0.05)).toBeLessThan(from.px);
    expect(Math.abs(error.greatest - 0.05)).toBeLessThan(1.5 * from.px);
    expect(outlineError(from, from)).toMatchObject({ median: 0, most: 0, greatest: 0 });
  });

  test('a metre from a metre away fills 1080 px by the cotangent of 30° over 2', () => {
    expect(pxPerMetre(1)).toBeCloseTo(540 * Math.sqrt(3), 9);
    expect(pxPerMetre(framingDistance(2.5)) * 2.5).toBeCloseTo(1080, 9);
    expect(pxPerMetre(distanceFor(0.01, 1)) * 0.01).toBeCloseTo(1, 9);
  });

  test('what is missing altogether is as far off as the picture is wide', () => {
    const from = outlinesOf(ball(1), 128);
    const nothing = outlinesOf({ positions: new Float32Array(9), indices: Uint32Array.of(0, 1, 2) }, 128, from);
    expect(outlineError(from, nothing).greatest).toBeCloseTo(128 * from.px, 9);
  });
});

describe('levels of detail', () => {
  const first = () => {
    const document = meshDocument('ball', ball(1, 20));
    const plain = readModel('ball.glb', document, () => '');
    unwrapModel(plain, {
      method: 'charts',
      axis: 'y',
      stretch: 1.1,
      spread: 1.4,
      cutAngle: 180,
      size: 256,
      margin: 2,
      effort: 0,
      seed: 1,
      set: 0,
      together: true,
      slots: [],
    });
    smoothWithinCharts(document);
    return finishedMesh(readModel('ball.glb', document, () => '').parts[0]);
  };

  test('every vertex of every level is one of the first, with its UV, normal and tangent; errors and distances rise', () => {
    const mesh = first();
    const rowOf = (m: typeof mesh, v: number) =>
      [
        m.positions.subarray(v * 3, v * 3 + 3),
        m.normals.subarray(v * 3, v * 3 + 3),
        m.tangents.subarray(v * 4, v * 4 + 4),
        m.uvs.subarray(v * 2, v * 2 + 2),
      ]
        .map((a) => a.join())
        .join(' ');
    const known = new Set(Array.from({ length: mesh.positions.length / 3 }, (_, v) => rowOf(mesh, v)));
    const levels = levelsOfDetail(mesh, [0.5, 0.2, 0.19, 0.1]);
    // A level that saves next to nothing against the one before is none.
    expect(levels.length).toBe(4);
    const strange = levels.flatMap(({ mesh: one }) =>
      Array.from({ length: one.positions.length / 3 }, (_, v) => rowOf(one, v)).filter((row) => !known.has(row)),
    );
    expect(strange).toEqual([]);
    levels.slice(1).forEach((level, i) => {
      expect(level.triangles).toBeLessThan(levels[i].triangles);
      expect(level.error).toBeGreaterThanOrEqual(levels[i].error);
      expect(pxPerMetre(level.distance) * level.error).toBeCloseTo(1, 6);
    });
  });

  test('normals lie along the surface of a ball', () => {
    const { positions, normals } = first();
    const cosines = Array.from({ length: positions.length / 3 }, (_, v) =>
      [0, 1, 2].reduce((sum, k) => sum + positions[v * 3 + k] * normals[v * 3 + k], 0),
    );
    expect(Math.min(...cosines)).toBeGreaterThan(0.95);
  });
});

describe('fidelity within outlines', () => {
  const SIDE = 40;
  /** A square of a grey from `left` on, over mid grey. */
  const picture = (left: number, grey: number) => {
    const coverage = new Uint8Array(SIDE * SIDE);
    const bytes = new Uint8Array(SIDE * SIDE * 3).fill(128);
    for (let y = 10; y < 30; y++)
      for (let x = left; x < left + 20; x++) {
        coverage[y * SIDE + x] = 255;
        bytes.fill(grey, (y * SIDE + x) * 3, (y * SIDE + x) * 3 + 3);
      }
    return { size: SIDE, unlit: bytes, lit: bytes, coverage };
  };

  const view = (source: ReturnType<typeof picture>, result: ReturnType<typeof picture>, truth = source) =>
    standInView('front', { truth, source, result });

  test('a shift of one px leaves outline and inside as they are, one of three does not', () => {
    expect(view(picture(10, 200), picture(11, 200))).toMatchObject({ outline: 1, base: null, lit: null });
    expect(view(picture(10, 200), picture(13, 200)).outline).toBeLessThan(0.8);
  });

  test('a difference of 51 steps all over is 20 log 5 dB, and no likeness unless the source is as far from the truth', () => {
    const off = view(picture(10, 200), picture(10, 149));
    expect(off.base).toBeCloseTo(20 * Math.log10(5), 9);
    expect(isAlike(off)).toBe(false);
    expect(isAlike(view(picture(10, 149), picture(10, 149), picture(10, 200)))).toBe(true);
    expect(isAlike(view(picture(10, 200), picture(10, 199)))).toBe(true);
  });
});
