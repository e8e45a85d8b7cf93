import { SHIPPED_PROFILES } from '@wembrel/core/decisions/profiles';
import { buildFurniture } from '@wembrel/demo/furniture';
import { KHR_DF_TRANSFER_LINEAR, KHR_DF_TRANSFER_SRGB, read as readKtx2 } from 'ktx-parse';
import sharp from 'sharp';
import { beforeAll, describe, expect, test, vi } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import type { MergeResult } from '../src/merge/request.ts';
import { decodeImage, encodeWebp } from '../src/pictures/codec.ts';
import { encodeKtx2, MOST_TEXELS } from '../src/pictures/write-ktx2.ts';
import { encodeTga } from '../src/pictures/write-tga.ts';
import { folder, mergeFolder, put, take } from './here.ts';

const furniture = kept(buildFurniture, 0.25);
const PLAN = {
  name: 'halt',
  size: 512,
  margin: 6,
  keepApart: ['ShelterGlass'],
  profiles: [
    ...SHIPPED_PROFILES.map(({ name }) => name),
    {
      name: 'own',
      title: 'Own',
      normalY: 'up' as const,
      images: [
        {
          name: '{sheet}_масса',
          red: { value: 'metallic' as const, inverted: true },
          green: { constant: 0.25 },
          blue: { value: 'opacity' as const, inverted: false },
          space: 'linear' as const,
          format: 'tga' as const,
          divisor: 1 as const,
          write: 'always' as const,
        },
      ],
    },
  ],
};

/** Interleaved bytes as another library reads a file. */
async function read(bytes: Uint8Array): Promise<{ data: Uint8Array; channels: number }> {
  const { data, info } = await sharp(bytes).raw().toBuffer({ resolveWithObject: true });
  return { data: new Uint8Array(data), channels: info.channels };
}

describe('profiles of the furniture', () => {
  let files: Record<string, Uint8Array>;
  let result: MergeResult;
  beforeAll(async () => {
    const out = folder();
    result = await mergeFolder(await put({ 'stop.glb': furniture }), out, PLAN, 2, { compare: false });
    files = await take(out);
  });

  const channel = async (name: string, c: number) => {
    const { data, channels } = await read(files[name]);
    return Array.from({ length: data.length / channels }, (_, i) => data[i * channels + c]);
  };
  const inverted = (values: number[]) => values.map((v) => 255 - v);

  test('every file is one that the manifest names, and the other way round', () => {
    const named = result.manifest.profiles?.flatMap(({ images }) => images.map(({ file }) => file)) ?? [];
    expect(
      Object.keys(files)
        .filter((name) => name.startsWith('profiles/'))
        .sort(),
    ).toEqual(named.sort());
    expect(named).toEqual(expect.arrayContaining(['profiles/own/halt_масса.tga', 'profiles/small-web/halt_arm.webp']));
    expect(result.report.written).toEqual(expect.arrayContaining(named));
  });

  test('images that glow say how many times as bright they are meant, as the materials do; others say nothing', () => {
    const json = new TextDecoder().decode(files['stop.glb']);
    const [, strength] = /"emissiveStrength":([\d.]+)/.exec(json) ?? [];
    expect(Number(strength)).toBeGreaterThan(1);
    for (const { images } of result.manifest.profiles ?? [])
      for (const { file, emissiveStrength } of images)
        expect([file, emissiveStrength]).toEqual([file, file.includes('emissive') ? Number(strength) : undefined]);
  });

  test('Y down is 1 − green of the normal map of the models, and nothing else', async () => {
    const [up, down] = ['textures/halt_normal.png', 'profiles/y-down-packed/halt_normal.png'];
    expect(await channel(down, 1)).toEqual(inverted(await channel(up, 1)));
    for (const c of [0, 2]) expect(await channel(down, c)).toEqual(await channel(up, c));
    expect(files['profiles/normal-y-down/halt_normal.png']).toEqual(files[down]);
  });

  test('smoothness in alpha is 1 − roughness of the map of the models, metallic is its blue', async () => {
    const own = 'profiles/metallic-smoothness/halt_metallic-smoothness.png';
    expect(await channel(own, 3)).toEqual(inverted(await channel('textures/halt_orm.png', 1)));
    for (const c of [0, 1, 2]) expect(await channel(own, c)).toEqual(await channel('textures/halt_orm.png', 2));
  });

  test('one file a channel: grey, and what the packed map has there', async () => {
    for (const [c, name] of ['occlusion', 'roughness', 'metallic'].entries()) {
      const file = `profiles/one-per-channel/halt_${name}.png`;
      expect((await sharp(files[file]).metadata()).channels).toBe(1);
      expect(await channel(file, 0)).toEqual(await channel('textures/halt_orm.png', c));
    }
  });

  test('an own one, as TGA: a channel inverted, a constant, opacity', async () => {
    const { data } = await decodeImage('own', 'own', files['profiles/own/halt_масса.tga']);
    const metallic = await channel('textures/halt_orm.png', 2);
    expect(metallic.map((_, i) => data[i * 4])).toEqual(inverted(metallic));
    expect(new Set(metallic.map((_, i) => data[i * 4 + 1]))).toEqual(new Set([64]));
  });

  test('what is read back is what was baked, but for what gives up exact values, and that is told', () => {
    const images = result.manifest.profiles?.flatMap((profile) => profile.images) ?? [];
    expect(images.length).toBeGreaterThan(15);
    for (const { file, space, loss } of images)
      if (file.endsWith('.ktx2') || (file.endsWith('.webp') && space === 'srgb')) expect(loss.psnr).toBeGreaterThan(30);
      else expect([file, loss]).toEqual([file, { greatest: loss.greatest.map(() => 0), psnr: null }]);
  });

  test('data maps at half size have half the sides', async () => {
    const { width, height } = await sharp(files['profiles/small-web/halt_arm.webp']).metadata();
    expect([width, height]).toEqual([256, 256]);
  });

  test('one thread writes the same bytes', async () => {
    const out = folder();
    // What takes seconds is left out: it is made by one thread in any case.
    const quick = PLAN.profiles.filter((choice) => choice !== 'phone');
    await mergeFolder(await put({ 'stop.glb': furniture }), out, { ...PLAN, profiles: quick }, 1, { compare: false });
    const again = await take(out);
    const names = Object.keys(again).filter((name) => name !== 'manifest.json');
    expect(names.length).toBeGreaterThan(20);
    for (const name of names) expect([name, Buffer.compare(files[name], again[name])]).toEqual([name, 0]);
  });
});

test('a proof leaves out what takes seconds to write, and nothing else', async () => {
  const out = folder();
  const plan = { ...PLAN, profiles: ['phone', 'normal-y-down'] };
  const { manifest } = await mergeFolder(await put({ 'stop.glb': furniture }), out, plan, 2, {
    compare: false,
    proof: true,
  });
  const files = manifest.profiles?.map(({ images }) => images.map(({ file }) => file));
  expect(files).toEqual([[], ['profiles/normal-y-down/halt_normal.png']]);
});

describe('formats', () => {
  const noise = (count: number) => Uint8Array.from({ length: count }, (_, i) => (i * 7919 + (i >> 3) * 31) & 255);

  test.each([1, 3, 4] as const)('TGA and lossless WebP of %i channels come back as they were', async (channels) => {
    const [width, height] = [37, 11];
    const data = noise(width * height * channels);
    for (const bytes of [
      encodeTga(data, width, height, channels),
      await encodeWebp(data, width, height, channels, true),
    ]) {
      const back = await decodeImage('x', 'x', bytes);
      expect([back.width, back.height]).toEqual([width, height]);
      const texels = Array.from({ length: width * height }, (_, i) => [0, 1, 2].map((c) => back.data[i * 4 + c]));
      expect(texels).toEqual(texels.map((_, i) => [0, 1, 2].map((c) => data[i * channels + (channels === 1 ? 0 : c)])));
      if (channels === 4)
        expect(texels.map((_, i) => back.data[i * 4 + 3])).toEqual(texels.map((_, i) => data[i * 4 + 3]));
    }
  });

  test('KTX2 has all mips inside, the transfer function that is said, and says nothing on standard output', async () => {
    const rgba = Uint8Array.from({ length: 64 * 32 * 4 }, (_, i) => ((i & 3) === 3 ? 255 : (i >> 4) & 255));
    for (const as of ['etc1s', 'uastc'] as const)
      for (const srgb of [false, true]) {
        const said = vi.spyOn(console, 'log');
        const bytes = await encodeKtx2(rgba, 64, 32, { as, srgb, normals: false });
        expect(said).not.toHaveBeenCalled();
        said.mockRestore();
        const file = readKtx2(bytes);
        expect([file.pixelWidth, file.pixelHeight, file.levels.length]).toEqual([64, 32, 7]);
        expect(file.dataFormatDescriptor[0].transferFunction).toBe(
          srgb ? KHR_DF_TRANSFER_SRGB : KHR_DF_TRANSFER_LINEAR,
        );
        const back = await decodeImage('x', 'x', bytes);
        const squares = rgba.reduce((sum, v, i) => sum + (v - back.data[i]) ** 2, 0);
        expect(10 * Math.log10(255 ** 2 / (squares / rgba.length))).toBeGreaterThan(as === 'uastc' ? 40 : 28);
      }
  });

  test('what KTX2 cannot hold is said with what to do', async () => {
    const side = 4096;
    expect(side * side).toBeGreaterThan(MOST_TEXELS);
    const bytes = encodeKtx2(new Uint8Array(0), side, side, { as: 'etc1s', srgb: true, normals: false });
    await expect(bytes).rejects.toThrow(/at most 12 Mpx.*store it at half the side/);
  });
});
