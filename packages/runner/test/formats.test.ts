import { writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Document, NodeIO } from '@gltf-transform/core';
import {
  KHRDracoMeshCompression,
  KHRMaterialsPBRSpecularGlossiness,
  KHRMaterialsVariants,
  KHRTextureBasisu,
} from '@gltf-transform/extensions';
import { ReadingDecisions, SourceOptions } from '@wembrel/core/decisions/reading';
import { InputError } from '@wembrel/core/errors';
import { utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { writePng } from '@wembrel/core/image/png';
import { textureBytes } from '@wembrel/core/image/texture-memory';
import type { Model } from '@wembrel/core/scene/model';
import { buildBracket, buildNoticeBoard, buildStone } from '@wembrel/demo/simple-formats';
import draco from 'draco3dgltf';
import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { FloatType, HalfFloatType } from 'three';
import { describe, expect, test } from 'vitest';
import { runs, seeds } from '../../core/test/sampling.ts';
import { kept } from '../../demo/test/kept.ts';
import { decodeImage } from '../src/pictures/codec.ts';
import { loadTranscoder } from '../src/pictures/odd-formats.ts';
import { pictureTasks } from '../src/pictures/picture-tasks.ts';
import { sideBySide } from '../src/pool/side-by-side.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { readFiles } from '../src/stages/read.ts';
import { surveyPile } from '../src/survey/pile.ts';
import { put, testScope } from './here.ts';

const scope = testScope();

/** A picture whose upper left is red, upper right green, lower left blue, lower right white. */
const CORNERS: [number, number, number, number][] = [
  [255, 0, 0, 255],
  [0, 255, 0, 255],
  [0, 0, 255, 255],
  [255, 255, 255, 128],
];
const four = (side = 8) => {
  const data = new Uint8Array(side * side * 4);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++)
      data.set(CORNERS[(y < side / 2 ? 0 : 2) + (x < side / 2 ? 0 : 1)], (y * side + x) * 4);
  return data;
};
const corners = (r: { width: number; height: number; data: ArrayLike<number> }) =>
  [
    [0, 0],
    [r.width - 1, 0],
    [0, r.height - 1],
    [r.width - 1, r.height - 1],
  ].map(([x, y]) => Array.from({ length: 4 }, (_, k) => r.data[(y * r.width + x) * 4 + k]));

function tga(side: number, options: { packed?: boolean; fromTop?: boolean } = {}): Uint8Array {
  const rgba = four(side);
  const head = new Uint8Array(18);
  head[2] = options.packed ? 10 : 2;
  head[12] = side;
  head[14] = side;
  head[16] = 32;
  head[17] = options.fromTop ? 0x28 : 8;
  const body: number[] = [];
  for (let row = 0; row < side; row++) {
    const y = options.fromTop ? row : side - 1 - row;
    const texel = (x: number) => {
      const i = (y * side + x) * 4;
      return [rgba[i + 2], rgba[i + 1], rgba[i], rgba[i + 3]];
    };
    if (options.packed) for (let x = 0; x < side; x += side / 2) body.push(0x80 | (side / 2 - 1), ...texel(x));
    else for (let x = 0; x < side; x++) body.push(...texel(x));
  }
  return Uint8Array.from([...head, ...body]);
}

async function exr(side: number): Promise<Uint8Array> {
  const { EXRExporter } = await import('three/examples/jsm/exporters/EXRExporter.js');
  const { DataTexture, RGBAFormat } = await import('three');
  const data = Float32Array.from(four(side), (v) => v / 255);
  // The exporter takes rows as graphics interfaces hold them: from the bottom.
  const upsideDown = new Float32Array(data.length);
  for (let y = 0; y < side; y++)
    upsideDown.set(data.subarray(y * side * 4, (y + 1) * side * 4), (side - 1 - y) * side * 4);
  const texture = new DataTexture(upsideDown, side, side, RGBAFormat, FloatType);
  return new EXRExporter().parse(texture, { type: HalfFloatType });
}

/** Encodes quietly: the encoder talks on stdout. */
async function ktx2(side: number, uastc: boolean, mips = false): Promise<Uint8Array> {
  const { log, info, warn } = console;
  Object.assign(console, { log() {}, info() {}, warn() {} });
  try {
    const png = await sharp(four(side), { raw: { width: side, height: side, channels: 4 } })
      .png()
      .toBuffer();
    return await encodeToKTX2(new Uint8Array(png), {
      isUASTC: uastc,
      generateMipmap: mips,
      imageDecoder: async (buffer: Uint8Array) => {
        const { data, info: i } = await sharp(buffer).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
        return { width: i.width, height: i.height, data: new Uint8Array(data) };
      },
    });
  } finally {
    Object.assign(console, { log, info, warn });
  }
}

test('texture memory is what the same picture takes in each format, mip by mip, as an open transcoder counts it', async () => {
  const library = await loadTranscoder();
  const formats = { bc1: 2, bc4: 4, bc5: 5, bc7: 7, astc4x4: 10, rgba8: 13 } as const;
  for (const side of [16, 20, 64]) {
    const file = new library.KTX2File(await ktx2(side, true, true));
    expect(file.startTranscoding()).toBeTruthy();
    const levels = Math.floor(Math.log2(side)) + 1;
    const bytes = textureBytes(side, side);
    for (const [name, format] of Object.entries(formats)) {
      let sum = 0;
      for (let level = 0; level < levels; level++) {
        const size = file.getImageTranscodedSizeInBytes(level, 0, 0, format);
        const out = new Uint8Array(size);
        expect(file.transcodeImage(out, level, 0, 0, format, 0, -1, -1)).toBeTruthy();
        sum += size;
      }
      expect([name, sum]).toEqual([name, bytes[name as keyof typeof formats]]);
    }
    file.close();
    file.delete();
  }
});

describe('pictures', () => {
  test.each([
    ['from the bottom', tga(8)],
    ['from the top', tga(8, { fromTop: true })],
    ['packed in runs', tga(8, { packed: true })],
  ])('TGA %s: right colours, right way up', async (_, bytes) => {
    expect(corners(await decodeImage('m', 'x.tga', bytes))).toEqual(CORNERS);
  });

  test('TIFF in 8 and 16 bit', async () => {
    const raw = sharp(four(), { raw: { width: 8, height: 8, channels: 4 } });
    const eight = await decodeImage(
      'm',
      'x.tif',
      new Uint8Array(await raw.clone().tiff({ compression: 'lzw' }).toBuffer()),
    );
    expect(corners(eight)).toEqual(CORNERS);
    const wide = Uint16Array.from(four(), (v) => v * 257);
    const sixteen = await sharp(wide, { raw: { width: 8, height: 8, channels: 4 } })
      .toColourspace('rgb16')
      .tiff({ compression: 'deflate' })
      .toBuffer();
    const read = await decodeImage('m', 'x.tif', new Uint8Array(sixteen));
    // The writer keeps 16 bit only for what was 16 bit all along.
    expect(read.bits).toBe((await sharp(sixteen).metadata()).depth === 'ushort' ? 16 : 8);
    const full = read.bits === 16 ? 65535 : 255;
    expect(corners(read)[0]).toEqual([full, 0, 0, full]);
  });

  test('EXR: linear values as they are, or brought to sRGB for colours; the right way up', async () => {
    const bytes = await exr(8);
    const stored = await decodeImage('m', 'x.exr', bytes);
    expect(stored.bits).toBe(16);
    expect(corners(stored).map((corner) => corner.map((v) => Math.round(v / 257)))).toEqual(CORNERS);
    const grey = new Uint8Array(bytes);
    expect(corners(await decodeImage('m', 'x.exr', grey, 'colour'))[3][0]).toBe(65535);
  });

  test.each([
    ['ETC1S', false],
    ['UASTC', true],
  ])('KTX2 as %s', async (_, uastc) => {
    const read = await decodeImage('m', 'x.ktx2', await ktx2(16, uastc));
    expect([read.width, read.height]).toEqual([16, 16]);
    corners(read).forEach((corner, i) => {
      for (let k = 0; k < 4; k++) expect(Math.abs(corner[k] - CORNERS[i][k])).toBeLessThanOrEqual(uastc ? 4 : 12);
    });
  });
});

/** Damages a file by a seed: some bytes changed, some files cut off. */
function damaged(good: Uint8Array, seed: number): Uint8Array {
  let s = (seed * 2654435761) | 1;
  const next = (n: number) => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) % n;
  };
  const bytes = Uint8Array.from(good);
  for (let k = 0; k <= next(3); k++) bytes[next(bytes.length)] = next(256);
  return next(3) === 0 ? bytes.slice(0, next(bytes.length)) : bytes;
}

describe('damaged pictures, 2 000 of each kind where all is tested', () => {
  // These decoders are not ours and may hang: they run in worker threads, which are ended when one takes too long.
  test.each([
    ['x.tga', async () => tga(8)],
    ['packed.tga', async () => tga(8, { packed: true })],
    ['x.exr', () => exr(8)],
    ['x.ktx2', () => ktx2(16, false)],
    ['x.png', async () => writePng(four(), 8, 8, 4)],
    [
      'x.tif',
      async () =>
        new Uint8Array(
          await sharp(four(), { raw: { width: 8, height: 8, channels: 4 } })
            .tiff()
            .toBuffer(),
        ),
    ],
  ])(
    '%s: each is read or refused with its name',
    async (name, make) => {
      const good = await make();
      let refused = 0;
      const all = seeds(2000);
      await sideBySide(all.length, 4, async (i) => {
        const seed = all[i];
        try {
          const { raster } = await scope.run(
            pictureTasks.decode,
            { path: 'm', name, bytes: damaged(good, seed), keep: true },
            2,
          );
          expect(raster?.data.length).toBe((raster?.width ?? 0) * (raster?.height ?? 0) * 4);
        } catch (error) {
          if (!(error instanceof InputError)) throw new Error(`seed ${seed}: ${(error as Error).stack}`);
          refused++;
        }
      });
      expect(refused).toBeGreaterThan(runs(2000) / 20);
    },
    120_000,
  );
});

/** A document with one textured square, for the extensions. */
function square(): { document: Document; material: ReturnType<Document['createMaterial']> } {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type: 'VEC2' | 'VEC3' | 'SCALAR', a: Float32Array | Uint16Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(a as never)
      .setBuffer(buffer);
  const material = document.createMaterial('Face');
  const primitive = document
    .createPrimitive()
    .setMaterial(material)
    .setAttribute('POSITION', accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0)))
    .setAttribute('NORMAL', accessor('VEC3', Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1)))
    .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.of(0, 1, 1, 1, 1, 0, 0, 0)))
    .setIndices(accessor('SCALAR', Uint16Array.of(0, 1, 2, 0, 2, 3)));
  document
    .createScene()
    .addChild(document.createNode('face').setMesh(document.createMesh('face').addPrimitive(primitive)));
  return { document, material };
}

const base = (model: Model) => model.slots[0].look;

describe('glTF with extensions', () => {
  test('Draco geometry comes back within its quantisation, is valid, and is handed on unpacked', async () => {
    const { document } = square();
    document.createExtension(KHRDracoMeshCompression).setRequired(true);
    const io = new NodeIO().registerExtensions([KHRDracoMeshCompression]).registerDependencies({
      'draco3d.encoder': await draco.createEncoderModule(),
      'draco3d.decoder': await draco.createDecoderModule(),
    });
    const bytes = await io.writeBinary(document);
    const at = await put({ 'd.glb': bytes });
    const model = await loadModel({ name: 'd.glb', path: `${at}/d.glb` });
    expect(model.notes.join()).toMatch(/Draco/);
    expect(model.document.getRoot().listExtensionsUsed()).toEqual([]);
    const places = new Set<string>();
    for (const v of model.parts[0].indices)
      places.add([0, 1, 2].map((k) => Math.round(model.parts[0].positions[v * 3 + k])).join());
    expect([...places].sort()).toEqual(['0,0,0', '0,1,0', '1,0,0', '1,1,0']);

    let refused = 0;
    for (let seed = 1; seed <= 300; seed++) {
      const bad = Uint8Array.from(bytes);
      const jsonLength = new DataView(bad.buffer).getUint32(12, true);
      for (let k = 0; k < 3; k++) {
        const s = Math.imul(seed * 7 + k, 2654435761) >>> 0;
        bad[28 + jsonLength + (s % (bad.length - 28 - jsonLength))] = s >>> 24;
      }
      const path = `${at}/bad.glb`;
      await writeFile(path, bad);
      await loadModel({ name: 'bad.glb', path }).catch((error) => {
        if (!(error instanceof InputError)) throw error;
        refused++;
      });
    }
    expect(refused).toBeGreaterThan(0);
  }, 60_000);

  test('KTX2 textures are unpacked to PNG', async () => {
    const { document, material } = square();
    document.createExtension(KHRTextureBasisu).setRequired(true);
    material.setBaseColorTexture(
      document
        .createTexture('face')
        .setImage((await ktx2(16, true)) as Uint8Array<ArrayBuffer>)
        .setMimeType('image/ktx2'),
    );
    const at = await put({ 'k.glb': await new NodeIO().registerExtensions([KHRTextureBasisu]).writeBinary(document) });
    const model = await loadModel({ name: 'k.glb', path: `${at}/k.glb` });
    const [texture] = model.document.getRoot().listTextures();
    expect(texture.getMimeType()).toBe('image/png');
    expect(corners(await decodeImage('m', 'x', texture.getImage() as Uint8Array))[0][0]).toBeGreaterThan(245);
    expect(model.document.getRoot().listExtensionsUsed()).toEqual([]);
  });

  test('specular-glossiness becomes metallic and roughness, and can go on a sheet', async () => {
    const { document, material } = square();
    const g = document.createExtension(KHRMaterialsPBRSpecularGlossiness).createPBRSpecularGlossiness();
    g.setDiffuseFactor([1, 1, 1, 1]).setSpecularFactor([0.04, 0.04, 0.04]).setGlossinessFactor(0.25);
    g.setDiffuseTexture(
      document
        .createTexture('d')
        .setImage(writePng(four(), 8, 8, 4) as Uint8Array<ArrayBuffer>)
        .setMimeType('image/png'),
    );
    material.setExtension('KHR_materials_pbrSpecularGlossiness', g);
    const at = await put({
      's.glb': await new NodeIO().registerExtensions([KHRMaterialsPBRSpecularGlossiness]).writeBinary(document),
    });
    const model = await loadModel({ name: 's.glb', path: `${at}/s.glb` });
    expect(base(model).foreign).toEqual([]);
    const m = model.document.getRoot().listMaterials()[0];
    const colour = await decodeImage('m', 'x', m.getBaseColorTexture()?.getImage() as Uint8Array);
    corners(colour).forEach((corner, i) => {
      for (let k = 0; k < 3; k++) expect(Math.abs(corner[k] - CORNERS[i][k])).toBeLessThanOrEqual(1);
    });
    const mr = await decodeImage('m', 'x', m.getMetallicRoughnessTexture()?.getImage() as Uint8Array);
    expect([mr.data[1], mr.data[2]]).toEqual([Math.round(0.75 * 255), 0]);
  });

  test('variants are read, and say that they keep their slots apart', async () => {
    const { document, material } = square();
    const extension = document.createExtension(KHRMaterialsVariants);
    const list = extension.createMappingList();
    list.addMapping(extension.createMapping().setMaterial(material).addVariant(extension.createVariant('night')));
    document.getRoot().listMeshes()[0].listPrimitives()[0].setExtension('KHR_materials_variants', list);
    const at = await put({
      'v.glb': await new NodeIO().registerExtensions([KHRMaterialsVariants]).writeBinary(document),
    });
    const { files } = await collectModels([`${at}/v.glb`]);
    const { details } = await surveyPile(files, scope);
    expect(details.slots[0].obstacle?.code).toBe('variants');
  });
});

describe('other formats', () => {
  test('the demo board: OBJ with its MTL, texture beside it, two slots', async () => {
    const at = await put(buildNoticeBoard());
    const { files, textures } = await collectModels([at]);
    expect(files).toHaveLength(1);
    const { report, details } = await surveyPile(files, scope, { textures });
    expect(report.totals).toMatchObject({ slots: 2, textures: 1, triangles: 36, failed: 0 });
    expect(details.models[0].format).toBe('obj');
    expect(details.models[0].span).toBeCloseTo(1.9, 2);
    expect(details.loose).toEqual([]);
  });

  test('without its texture it is read, and the survey says what is missing', async () => {
    const board = buildNoticeBoard();
    delete board['notice-face.png'];
    const { files } = await collectModels([await put(board)]);
    const { report } = await surveyPile(files, scope);
    expect(report.errors).toEqual([]);
    expect(report.findings.find((finding) => finding.code === 'missing-texture')?.message).toMatch(/notice-face\.png/);
  });

  test('an MTL with the path of another machine finds the file beside it', async () => {
    const board = buildNoticeBoard();
    board['notice-board.mtl'] = utf8Bytes(
      new TextDecoder().decode(board['notice-board.mtl']).replace('map_Kd ', 'map_Kd D:\\work\\halt\\'),
    );
    const at = await put(board);
    const model = await loadModel({ name: 'notice-board.obj', path: `${at}/notice-board.obj` });
    expect(model.missing).toEqual([]);
    expect(model.slots.some((slot) => slot.look.baseColor)).toBe(true);
  });

  test('unit and axis of a source decide how large it is', async () => {
    const at = await put({ 'bracket.stl': kept(buildBracket), 'stone.ply': kept(buildStone) });
    const { files } = await collectModels([at]);
    const spans = async (reading: ReadingDecisions) => {
      const { details } = await surveyPile(files, scope, { reading });
      return details.models.map((model) => model.span);
    };
    const [byHabit] = await spans(ReadingDecisions.parse({}));
    expect(byHabit).toBeCloseTo(0.08, 6);
    const inches = ReadingDecisions.parse({
      sources: { 'bracket.stl': SourceOptions.parse({ unit: 0.0254, up: 'y' }) },
    });
    expect((await spans(inches))[0]).toBeCloseTo(80 * 0.0254, 4);
  });
});

describe('loose textures', () => {
  /** A square without textures, as OBJ. */
  const OBJ =
    'mtllib a.mtl\nusemtl Wall\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n';
  const plain = (r: number, g: number, b: number, side = 4) =>
    writePng(
      Uint8Array.from({ length: side * side * 3 }, (_, i) => [r, g, b][i % 3]),
      side,
      side,
      3,
    );
  const read = async (files: Record<string, Uint8Array>, reading: Partial<ReadingDecisions> = {}) => {
    const at = await put({ 'a.obj': utf8Bytes(OBJ), 'a.mtl': utf8Bytes('newmtl Wall\nKd 1 1 1\n'), ...files });
    const found = await collectModels([at]);
    return readFiles(found.files, scope, { textures: found.textures, reading: ReadingDecisions.parse(reading) });
  };
  const texel = async (
    model: Model,
    get: 'getMetallicRoughnessTexture' | 'getNormalTexture' | 'getBaseColorTexture',
  ) => {
    const bytes = model.document.getRoot().listMaterials()[0][get]()?.getImage();
    return bytes ? [...(await decodeImage('m', 'x', bytes)).data.subarray(0, 4)] : null;
  };

  test('roughness, metallic and AO of three pictures become one, each in its channel', async () => {
    const out = await read({
      'Wall_roughness.png': plain(50, 50, 50),
      'Wall_metallic.png': plain(200, 200, 200, 8),
      'Wall_AO.png': plain(120, 120, 120),
      'Wall_BaseColor.png': plain(10, 20, 30),
    });
    expect(out.loose.every((looseTexture) => looseTexture.reason === null)).toBe(true);
    const { model } = out.models[0];
    expect(await texel(model, 'getMetallicRoughnessTexture')).toEqual([120, 50, 200, 255]);
    expect(await texel(model, 'getBaseColorTexture')).toEqual([10, 20, 30, 255]);
    const { look } = model.slots[0];
    expect([look.metallicFactor, look.roughnessFactor]).toEqual([1, 1]);
    expect(look.occlusion?.image).toBe(look.metallicRoughness?.image);
  });

  test('gloss is turned round, a normal map with Y down as well, a TGA becomes PNG', async () => {
    const out = await read(
      { 'Wall_gloss.png': plain(55, 55, 55), 'Wall_normal.png': plain(128, 200, 230), 'Wall_albedo.tga': tga(8) },
      { sources: { 'Wall_normal.png': SourceOptions.parse({ normalY: 'down' }) } },
    );
    const { model } = out.models[0];
    expect((await texel(model, 'getMetallicRoughnessTexture'))?.[1]).toBe(200);
    expect(await texel(model, 'getNormalTexture')).toEqual([128, 55, 230, 255]);
    expect((await texel(model, 'getBaseColorTexture'))?.slice(0, 3)).toEqual([255, 0, 0]);
  });

  test('a packed picture that already fits is taken as it is, byte for byte', async () => {
    const orm = plain(100, 150, 200);
    const out = await read({ 'a_Wall_ORM.png': orm });
    const texture = out.models[0].model.document.getRoot().listMaterials()[0].getMetallicRoughnessTexture();
    expect([...(texture?.getImage() ?? [])]).toEqual([...orm]);
  });

  test('what has a map already keeps it, and the rest is said', async () => {
    const out = await read({
      'a.mtl': utf8Bytes('newmtl Wall\nKd 1 1 1\nmap_Kd own.png\n'),
      'own.png': plain(1, 2, 3),
      'Wall_BaseColor.png': plain(9, 9, 9),
      'somewhere.png': plain(9, 9, 9),
    });
    expect(dirname(out.loose[0].path)).toBe('.');
    expect(Object.fromEntries(out.loose.map((looseTexture) => [looseTexture.path, looseTexture.reason]))).toEqual({
      'Wall_BaseColor.png': '"Wall" has that map already',
      'somewhere.png': 'its name ends like no map',
    });
    expect((await texel(out.models[0].model, 'getBaseColorTexture'))?.[0]).toBe(1);
  });
});
