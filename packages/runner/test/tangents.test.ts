import { join } from 'node:path';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { writePng } from '@wembrel/core/image/png';
import { signWith } from '@wembrel/demo/awkward/changes';
import { expect, test } from 'vitest';
import { merge } from '../src/merge/merge.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { fidelityOf, folder, put, testScope } from './here.ts';

const scope = testScope();

/** Slopes up to 25°, another one for each block of four texels. */
function bumps(side: number): Uint8Array {
  const rgb = new Uint8Array(side * side * 3);
  for (let i = 0; i < side * side; i++) {
    const [x, y] = [Math.floor((i % side) / 4), Math.floor(i / side / 4)];
    const [sx, sy] = [0.4 * Math.sin(x * 1.3 + y), 0.4 * Math.cos(x + y * 0.7)];
    const z = Math.sqrt(1 - sx * sx - sy * sy);
    rgb.set(
      [sx, sy, z].map((v) => Math.round((v * 0.5 + 0.5) * 255)),
      i * 3,
    );
  }
  return writePng(rgb, side, side, 3);
}

/** Two slots of one mesh, the first with a normal map; some of the two with tangents. */
const bumpy = (tangents: number[], mirrored = false) =>
  signWith(
    (edit) => {
      const image =
        edit.json.images.push({ bufferView: edit.view(bumps(64)), mimeType: 'image/png', name: 'bumps' }) - 1;
      const index = edit.json.textures.push({ source: image, sampler: 0 }) - 1;
      edit.json.materials[0].normalTexture = { index };
      for (const i of tangents) {
        const values = Float32Array.from({ length: edit.count * 4 }, (_, k) => [1, 0, 0, 1][k % 4]);
        edit.json.meshes[0].primitives[i].attributes.TANGENT = edit.accessor(values, 'VEC4');
      }
      if (mirrored) edit.node({ name: 'mirrored', mesh: 0, translation: [1.5, 0, 0], scale: [-1, 1, 1] });
    },
    { names: ['Bumpy', 'Plain'] },
  );

async function merged(glb: Uint8Array) {
  const out = join(folder(), 'out');
  const { files } = await collectModels([await put({ 'sign.glb': glb })]);
  const decisions = MergeDecisions.parse({ mergeAll: true });
  const { report } = await merge({ files, out, decisions, auto: {}, picture: 512 }, scope);
  const file = join(out, 'sign.glb');
  expect(await validateGltf(file)).toEqual([]);
  const { parts } = await loadModel({ path: file, name: 'x' });
  return { report, written: parts.map((part) => part.primitive.getAttribute('TANGENT') !== null) };
}

test('tangents are written where the source had some, for all that becomes one with it', async () => {
  const none = await merged(bumpy([]));
  expect(none.written).toEqual([false]);
  expect(fidelityOf(none.report).psnr ?? Number.POSITIVE_INFINITY).toBeGreaterThan(40);
  const one = await merged(bumpy([0]));
  expect(one.written).toEqual([true]);
  expect(one.report.after.drawCalls).toBe(1);
  expect(fidelityOf(one.report).psnr ?? Number.POSITIVE_INFINITY).toBeGreaterThan(40);
});

test('a mirrored copy is lit as in its source, with tangents and without', async () => {
  for (const tangents of [[], [0, 1]]) {
    const { report, written } = await merged(bumpy(tangents, true));
    expect(written).toEqual([tangents.length > 0]);
    expect(fidelityOf(report).psnr ?? Number.POSITIVE_INFINITY).toBeGreaterThan(40);
  }
});
