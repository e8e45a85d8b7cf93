import { copyFile, cp, mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildFurniture } from '@wembrel/demo/furniture';
import sharp from 'sharp';
import { beforeAll, describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import type { MergeResult } from '../src/merge/request.ts';
import { trialLoad } from '../src/trial/trial-load.ts';
import { folder, mergeFolder, put } from './here.ts';

const furniture = kept(buildFurniture, 0.25);

let delivered: string;
let merged: MergeResult;
beforeAll(async () => {
  const source = await put({ 'stop.glb': furniture, 'again.glb': furniture });
  delivered = folder();
  merged = await mergeFolder(source, delivered, {
    name: 'halt',
    size: 256,
    margin: 4,
    keepApart: ['ShelterGlass'],
    profiles: ['y-down-packed'],
  });
});

/** The delivery once more, somewhere else. */
async function unpacked(): Promise<string> {
  const out = join(folder(), 'elsewhere');
  await mkdir(out);
  await cp(delivered, out, { recursive: true });
  return out;
}

const textsOf = async (dir: string, validate = true) =>
  (await trialLoad(dir, { validate })).problems.map(({ file, text }) => `${file}: ${text}`);

describe('a delivery is loaded from its folder alone', () => {
  test('its counts are those of the bill, its files those of the manifest, and there are no problems', async () => {
    const trial = await trialLoad(await unpacked());
    const { after } = merged.report;
    expect(trial).toMatchObject({
      drawCalls: after.drawCalls,
      triangles: after.triangles,
      materials: after.slots,
      textures: after.textures,
      gpuBytes: after.textureBytes.rgba8,
      problems: [],
    });
    expect(trial.models).toHaveLength(2);
    // Everything but the manifest itself and the comparison.
    const listed = merged.report.written.filter((name) => name !== 'manifest.json' && name !== 'fidelity.json');
    expect(trial.verified).toEqual({ good: listed.length, of: listed.length });
  });

  test('a texture that is gone, one that is cut short and one that was changed are each named', async () => {
    const dir = await unpacked();
    const maps = Object.values(merged.manifest.sheets[0].maps);
    await rm(join(dir, maps[0]));
    const bytes = await readFile(join(dir, maps[1]));
    await writeFile(join(dir, maps[1]), bytes.subarray(0, bytes.length >> 1));
    const told = await textsOf(dir);
    expect(told).toContain(`${maps[0]}: is in the manifest, but not in the folder`);
    expect(told).toContain(`${maps[1]}: is not the file that the manifest describes: its SHA-256 differs`);
    expect(told.filter((text) => text.includes('names a texture that is not there'))).toHaveLength(2);
    expect(told.some((text) => text.startsWith(`${maps[1]}: the image`))).toBe(true);
  });

  test('a model that is cut short is named, the other is loaded', async () => {
    const dir = await unpacked();
    const bytes = await readFile(join(dir, 'stop.glb'));
    await writeFile(join(dir, 'stop.glb'), bytes.subarray(0, bytes.length - 100));
    const trial = await trialLoad(dir);
    expect(trial.models.map(({ file }) => file)).toEqual(['again.glb']);
    expect(trial.problems[0]).toEqual({ file: 'stop.glb', text: expect.stringMatching(/^cannot be loaded/) });
  });

  test('a model that was moved away from its textures, and names outside of the folder', async () => {
    const dir = await unpacked();
    await mkdir(join(dir, 'models'));
    await rename(join(dir, 'stop.glb'), join(dir, 'models/stop.glb'));
    await writeFile(
      join(dir, 'out.gltf'),
      JSON.stringify({
        asset: { version: '2.0' },
        scenes: [{ nodes: [] }],
        buffers: [{ uri: '../../secret.bin', byteLength: 4 }],
      }),
    );
    const told = await textsOf(dir);
    expect(told.filter((text) => text.startsWith('models/stop.glb: names a texture that is not there')).length).toBe(4);
    expect(told).toContain('out.gltf: names a buffer outside of its folder: ../../secret.bin');
    expect(told).toContain('out.gltf: draws nothing');
  });

  test('a material counts as the same where only its file numbers things otherwise', async () => {
    const at = folder();
    const file = (first: number, name: string) => ({
      asset: { version: '2.0' },
      materials: [{ name, pbrMetallicRoughness: { baseColorTexture: { index: first } } }],
      samplers: first === 1 ? [{ wrapS: 33071 }, { magFilter: 9728 }] : [{ magFilter: 9728 }],
      textures: [
        { source: 0, sampler: 0 },
        { source: 0, sampler: 1 },
      ].slice(0, first + 1),
      images: [{ uri: 'grey.png' }],
      buffers: [{ uri: `data:;base64,${Buffer.alloc(36).toString('base64')}`, byteLength: 36 }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [0, 0, 0] }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
      nodes: [{ mesh: 0 }],
      scenes: [{ nodes: [0] }],
    });
    const grey = { create: { width: 4, height: 4, channels: 3 as const, background: '#777' } };
    await writeFile(join(at, 'grey.png'), await sharp(grey).png().toBuffer());
    await writeFile(join(at, 'a.gltf'), JSON.stringify(file(0, 'Wood')));
    await writeFile(join(at, 'b.gltf'), JSON.stringify(file(1, 'Wood')));
    expect(await textsOf(at, false)).toEqual([]);
    const other = { ...file(1, 'Wood'), samplers: [{}, { magFilter: 9729 }] };
    await writeFile(join(at, 'b.gltf'), JSON.stringify(other));
    expect(await textsOf(at, false)).toEqual([
      'b.gltf: its material "Wood" is not the one of that name in a.gltf; importers that go by names use one for both',
    ]);
  });

  test('a folder without models, and none at all, are refused by name', async () => {
    const empty = folder();
    await copyFile(join(delivered, 'manifest.json'), join(empty, 'manifest.json'));
    await expect(trialLoad(empty)).rejects.toThrow(/no GLB or glTF/);
    await expect(trialLoad(join(empty, 'nowhere'))).rejects.toThrow(/no such folder/);
  });
});
