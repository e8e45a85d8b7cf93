import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RenderOptions, View } from '@wembrel/core/compare/project';
import { renderView } from '@wembrel/core/compare/rasterise';
import { renderViewReference } from '@wembrel/core/compare/render-reference';
import { cellBounds, channelEncoding, type DrawScene, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { VIEWS } from '@wembrel/core/compare/views';
import { levelSetBytes, toLevels } from '@wembrel/core/image/levels';
import { xorshift32 } from '@wembrel/core/math/random';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { IMAGE_CHANNELS, READERS } from '@wembrel/core/scene/material';
import { usedTextures } from '@wembrel/core/survey/figures';
import { buildFurniture } from '@wembrel/demo/furniture';
import type { LevelSet } from '@wembrel/kernels/sample';
import { levelHome } from '@wembrel/kernels/sampler';
import { beforeAll, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { decodeImage } from '../src/pictures/codec.ts';
import { imageKey } from '../src/read/image-keys.ts';
import { loadModel } from '../src/read/load.ts';

let scene: DrawScene;
const textures = new Map<string, LevelSet>();

beforeAll(async () => {
  await tangentsReady;
  const path = join(await mkdtemp(join(tmpdir(), 'wembrel-view-')), 'furniture.glb');
  await writeFile(path, kept(buildFurniture, 0.125));
  const model = await loadModel({ path, name: 'furniture.glb' });
  // Every kind of material: some alpha-tested, some without light.
  model.slots.forEach(({ look }, i) => {
    if (i % 4 === 1 && look.alphaMode === 'OPAQUE') Object.assign(look, { alphaMode: 'MASK', alphaCutoff: 0.4 });
    if (i % 5 === 2) look.unlit = true;
    if (i % 3 === 0) look.doubleSided = true;
    if (i === 0) look.alphaMode = 'BLEND';
  });
  const stored = new Map(usedTextures(model).map((texture) => [imageKey(texture), texture.getImage() as Uint8Array]));
  const rasters = new Map(
    await Promise.all([...stored].map(async ([key, bytes]) => [key, await decodeImage('x', 'x', bytes)] as const)),
  );
  for (const { look } of model.slots)
    for (const channel of IMAGE_CHANNELS) {
      const raster = rasters.get(look[channel]?.image ?? '');
      if (!raster) continue;
      const { width, height } = raster;
      const bytes = levelSetBytes(width, height, true);
      const home = levelHome(bytes, READERS);
      if (!home) throw new Error('no memory');
      const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
      const set = toLevels(raster, channelEncoding(channel), weighted, true, home.memory.buffer);
      textures.set(textureKey(look[channel]?.image as string, channel, look), { ...set, home });
    }
  scene = drawScene([model], 256);
  const random = xorshift32(7);
  for (const draw of scene.draws.slice(0, 5))
    draw.colors = Float32Array.from({ length: (draw.positions.length / 3) * 4 }, () => random());
});

/** The bytes of both, and that something is to be seen. */
function expectSame(view: View, options: RenderOptions): void {
  const [ours, theirs] = [
    renderView(scene, textures, view, options),
    renderViewReference(scene, textures, view, options),
  ];
  for (const kind of ['unlit', 'lit', 'coverage'] as const)
    expect(Buffer.from(ours[kind]).equals(Buffer.from(theirs[kind])), kind).toBe(true);
  expect(ours.coverage.filter((c) => c > 0).length).toBeGreaterThan(1000);
  expect(Buffer.from(ours.unlit).equals(Buffer.from(ours.lit))).toBe(false);
}

test('the kernel draws the same bytes as its reference, from all sides', () => {
  const bounds = cellBounds(scene);
  for (const { eye } of VIEWS) expectSame({ eye, bounds, size: 256 }, {});
});

test('as well from nearby, in sizes that fill no band, without the grey behind, and sample by sample', () => {
  const bounds = cellBounds(scene);
  const [{ eye }] = VIEWS;
  expectSame({ eye, bounds, size: 97, window: { x: 60, y: 110, side: 41 } }, {});
  expectSame({ eye, bounds, size: 301 }, { overGrey: false });
  expectSame({ eye, bounds, size: 128 }, { truth: true });
});
