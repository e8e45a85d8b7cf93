import type { Document, NodeIO } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureWebP,
  KHRMeshQuantization,
} from '@gltf-transform/extensions';
import { parseGlb, utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { fileFigures } from '@wembrel/core/survey/figures';
import { sign } from '@wembrel/demo/broken';
import { zipSync } from 'fflate';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import sharp from 'sharp';
import { beforeAll, describe, expect, test } from 'vitest';
import { decodeImage } from '../src/pictures/codec.ts';
import type { JobScope } from '../src/pool/job-scope.ts';
import { collectModels } from '../src/read/collect.ts';
import { gltfIo } from '../src/read/gltf-io.ts';
import { imageKey } from '../src/read/image-keys.ts';
import { Images } from '../src/read/images.ts';
import { loadModel } from '../src/read/load.ts';
import { PREVIEW_TRIANGLES, reduceForPreview } from '../src/reduce/reduce.ts';
import { readFiles } from '../src/stages/read.ts';
import { folder, mergeFolder, put, take, testScope } from './here.ts';

let io: NodeIO;
let scope: JobScope;
beforeAll(async () => {
  await MeshoptEncoder.ready;
  io = (await gltfIo()).registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
  scope = testScope();
});

const doc = async (): Promise<Document> => io.readBinary(sign().glb() as Uint8Array<ArrayBuffer>);
const figures = async (bytes: Uint8Array) => {
  const at = await put({ 'a.glb': bytes });
  const model = await loadModel({ path: `${at}/a.glb`, name: 'a.glb' });
  const images = new Images(scope);
  await images.add(model);
  return { model, figures: fileFigures(model, images.facts, imageKey) };
};

describe('the same sign, however it is stored', () => {
  test('as glTF with side files, in a folder or a ZIP', async () => {
    const glbWriter = sign();
    const json = glbWriter.document('sign.bin') as { images: { bufferView?: number; uri?: string }[] };
    const { bin } = parseGlb('x', glbWriter.glb());
    const png = (await doc()).getRoot().listTextures()[0].getImage() as Uint8Array;
    json.images = [{ uri: 'my%20maps/colour.png' }];
    const files = {
      'set/sign.gltf': utf8Bytes(JSON.stringify(json)),
      'set/sign.bin': bin as Uint8Array,
      'set/my maps/colour.png': png,
    };
    const whole = await figures(glbWriter.glb());
    const at = await put(files);
    const loose = await readFiles((await collectModels([at])).files, scope);
    expect(loose.report.errors).toEqual([]);
    const zipped = await put({ 'set.zip': zipSync(files) });
    const unpacked = await collectModels([`${zipped}/set.zip`]);
    const fromZip = await readFiles(unpacked.files, scope);
    await unpacked.close();
    for (const report of [loose.report, fromZip.report]) {
      expect(report.files[0].path).toMatch(/sign\.gltf$/);
      expect(report.totals).toMatchObject({
        drawCalls: whole.figures.drawCalls,
        gpuVertices: whole.figures.gpuVertices,
        textures: 1,
        textureBytes: whole.figures.textureBytes,
      });
    }
  });

  test('quantised and compressed: the same shape within the step of the numbers', async () => {
    const plain = await figures(sign().glb());
    const d = await doc();
    d.createExtension(KHRMeshQuantization).setRequired(true);
    d.createExtension(EXTMeshoptCompression).setRequired(true).setEncoderOptions({
      method: EXTMeshoptCompression.EncoderMethod.QUANTIZE,
    });
    const node = d.getRoot().listNodes()[0];
    const position = node.getMesh()?.listPrimitives()[0].getAttribute('POSITION');
    const values = position?.getArray() as Float32Array;
    const reach = Math.max(...values.map(Math.abs));
    position?.setArray(Int16Array.from(values, (v) => Math.round((v / reach) * 32767))).setNormalized(true);
    node.setScale([reach, reach, reach]);
    const packed = await io.writeBinary(d);
    expect(JSON.stringify(parseGlb('x', packed).json)).toContain('EXT_meshopt_compression');
    const read = await figures(packed);
    expect(read.figures).toMatchObject({ drawCalls: 1, triangles: plain.figures.triangles, positions: 4 });
    const world = (model: typeof read.model) => {
      const { positions, instances } = model.parts[0];
      const matrix = instances[0].world;
      let widest = 0;
      for (let i = 0; i < positions.length; i += 3)
        widest = Math.max(
          widest,
          Math.abs(matrix[0] * positions[i] + matrix[4] * positions[i + 1] + matrix[8] * positions[i + 2] + matrix[12]),
        );
      return widest;
    };
    expect(world(read.model)).toBeCloseTo(world(plain.model), 3);
  });

  test('WebP, JPEG and 16-bit PNG pictures', async () => {
    const d = await doc();
    const texture = d.getRoot().listTextures()[0];
    const png = texture.getImage() as Uint8Array;
    const webp = new Uint8Array(await sharp(png).webp({ lossless: true }).toBuffer());
    const jpeg = new Uint8Array(await sharp(png).removeAlpha().jpeg({ quality: 95 }).toBuffer());
    const values = Uint16Array.from({ length: 64 }, (_, i) => (i % 4 === 3 ? 65535 : i * 1023));
    const deep = new Uint8Array(
      await sharp(values, { raw: { width: 4, height: 4, channels: 4 } })
        .toColourspace('rgb16')
        .png()
        .toBuffer(),
    );
    const [raster, b, c, e] = await Promise.all([png, webp, jpeg, deep].map((x) => decodeImage('x', 'x', x)));
    expect(Buffer.compare(raster.data as Uint8Array, b.data as Uint8Array)).toBe(0);
    let worst = 0;
    for (let i = 0; i < raster.data.length; i++) worst = Math.max(worst, Math.abs(raster.data[i] - c.data[i]));
    expect(worst).toBeLessThan(60);
    expect(e.bits).toBe(16);
    expect([...e.data]).toEqual([...values]);
    d.createExtension(EXTTextureWebP).setRequired(true);
    texture.setImage(webp as Uint8Array<ArrayBuffer>).setMimeType('image/webp');
    const read = await figures(await io.writeBinary(d));
    expect(read.figures).toMatchObject({ textures: 1, drawCalls: 1 });
  });

  test('a picture without alpha, with a palette, in grey, or turned by its metadata keeps its stored texels', async () => {
    const grey = Buffer.from(Array.from({ length: 16 }, (_, i) => i * 16));
    const one = await sharp(grey, { raw: { width: 4, height: 4, channels: 1 } })
      .png()
      .toBuffer();
    const raster = await decodeImage('x', 'x', new Uint8Array(one));
    expect([...raster.data.subarray(0, 8)]).toEqual([0, 0, 0, 255, 16, 16, 16, 255]);
    const rgb = Buffer.from(Array.from({ length: 48 }, (_, i) => (i * 5) % 256));
    const turned = await sharp(rgb, { raw: { width: 4, height: 4, channels: 3 } })
      .withMetadata({ orientation: 6 })
      .png()
      .toBuffer();
    const t = await decodeImage('x', 'x', new Uint8Array(turned));
    expect([...t.data.subarray(0, 8)]).toEqual([0, 5, 10, 255, 15, 20, 25, 255]);
  });

  test('GPU instancing draws its copies in one call and says so', async () => {
    const d = await doc();
    const ext = d.createExtension(EXTMeshGPUInstancing).setRequired(true);
    const places = d
      .createAccessor()
      .setType('VEC3')
      .setArray(new Float32Array(9))
      .setBuffer(d.getRoot().listBuffers()[0]);
    d.getRoot()
      .listNodes()[0]
      .setExtension('EXT_mesh_gpu_instancing', ext.createInstancedMesh().setAttribute('TRANSLATION', places));
    const read = await figures(await io.writeBinary(d));
    expect(read.figures).toMatchObject({ drawCalls: 1, triangles: 6 });
    expect(read.model.notes.join(' ')).toContain('instanc');
  });
});

test('an archive that leads out of its folder, is cut short, or holds no model gets its sentence', async () => {
  const zip = zipSync({ 'sign.glb': sign().glb() });
  const at = await put({
    'out.zip': zipSync({ '../../evil.glb': sign().glb() }),
    'cut.zip': zip.slice(0, 400),
    'none.zip': zipSync({ 'notes.txt': utf8Bytes('hello') }),
    'junk.zip': utf8Bytes('this is no archive'),
  });
  const { files, problems, close } = await collectModels(
    ['out', 'cut', 'none', 'junk'].map((name) => `${at}/${name}.zip`),
  );
  await close();
  expect(files).toEqual([]);
  expect(problems.map((problem) => problem.reason)).toEqual([
    expect.stringMatching(/leads out of the archive/),
    expect.stringMatching(/cut short|cannot be read/),
    expect.stringMatching(/holds no model/),
    expect.stringMatching(/cannot be read/),
  ]);
});

test('skins, morph targets, animations and custom properties are there again in the result', async () => {
  const d = await doc();
  const root = d.getRoot();
  const buffer = root.listBuffers()[0];
  const [node] = root.listNodes();
  const mesh = node.getMesh();
  const primitive = mesh?.listPrimitives()[0];
  const accessor = (type: 'VEC3' | 'VEC4' | 'SCALAR' | 'MAT4', array: Float32Array | Uint8Array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const joint = d.createNode('bone');
  root.listScenes()[0].addChild(joint);
  primitive
    ?.setAttribute('JOINTS_0', accessor('VEC4', new Uint8Array(16)))
    .setAttribute(
      'WEIGHTS_0',
      accessor(
        'VEC4',
        Float32Array.from({ length: 16 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
      ),
    )
    .addTarget(
      d.createPrimitiveTarget('bent').setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          Float32Array.from({ length: 12 }, (_, i) => i / 100),
        ),
      ),
    );
  mesh?.setWeights([0.25]).setExtras({ maker: 'smith' });
  node.setSkin(d.createSkin('bones').addJoint(joint)).setExtras({ line: 7 });
  const sampler = d
    .createAnimationSampler()
    .setInput(accessor('SCALAR', Float32Array.of(0, 1)))
    .setOutput(accessor('VEC3', Float32Array.of(0, 0, 0, 0, 1, 0)));
  d.createAnimation('sway')
    .addSampler(sampler)
    .addChannel(d.createAnimationChannel().setTargetNode(joint).setTargetPath('translation').setSampler(sampler));
  const at = await put({ 'a.glb': await io.writeBinary(d) });
  const out = folder();
  const { report } = await mergeFolder(at, out, { size: 128, margin: 4, join: true });
  expect(report.after.drawCalls).toBe(1);
  const again = await io
    .readBinary((await take(out))['a.glb'] as Uint8Array<ArrayBuffer>)
    .catch(async () => io.read(`${out}/a.glb`));
  const r = again.getRoot();
  const n = r.listNodes().find((x) => x.getMesh());
  expect(n?.getExtras()).toEqual({ line: 7 });
  expect(n?.getMesh()?.getExtras()).toMatchObject({ maker: 'smith' });
  expect(n?.getMesh()?.getWeights()).toEqual([0.25]);
  expect(
    n
      ?.getSkin()
      ?.listJoints()
      .map((j) => j.getName()),
  ).toEqual(['bone']);
  const p = n?.getMesh()?.listPrimitives()[0];
  expect(p?.getAttribute('JOINTS_0')?.getCount()).toBe(p?.getAttribute('POSITION')?.getCount());
  expect(p?.listTargets()[0].getName()).toBe('bent');
  expect([...(p?.listTargets()[0].getAttribute('POSITION')?.getArray() ?? [])].slice(0, 3)).toEqual([
    ...Float32Array.of(0, 0.01, 0.02),
  ]);
  expect(r.listAnimations()[0].listChannels()[0].getTargetNode()?.getName()).toBe('bone');
});

test('a heavy model gets a copy for looking at with at most 100 000 triangles, its slots and parts kept', async () => {
  const side = 420;
  const d = await doc();
  const [primitive] = d.getRoot().listMeshes()[0].listPrimitives();
  const buffer = d.getRoot().listBuffers()[0];
  const n = (side + 1) ** 2;
  const positions = new Float32Array(n * 3);
  const uvs = new Float32Array(n * 2);
  for (let i = 0; i < n; i++) {
    const [x, y] = [i % (side + 1), Math.floor(i / (side + 1))];
    positions.set([x / side, y / side, 0.02 * Math.sin(x * 0.3) * Math.cos(y * 0.2)], i * 3);
    uvs.set([x / side, y / side], i * 2);
  }
  const indices = new Uint32Array(side * side * 6);
  for (let i = 0; i < side * side; i++) {
    const a = Math.floor(i / side) * (side + 1) + (i % side);
    indices.set([a, a + 1, a + side + 2, a, a + side + 2, a + side + 1], i * 6);
  }
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  primitive
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setAttribute('NORMAL', null)
    .setAttribute('TEXCOORD_0', accessor('VEC2', uvs))
    .setIndices(accessor('SCALAR', indices));
  const before = await figures(await io.writeBinary(d));
  expect(before.figures.triangles).toBe(352_800);
  const { document } = before.model;
  await reduceForPreview(document, PREVIEW_TRIANGLES, () => 1);
  const after = await figures(await io.writeBinary(document));
  expect(after.figures.triangles).toBeLessThanOrEqual(PREVIEW_TRIANGLES * 1.1);
  expect(after.figures.triangles).toBeGreaterThan(PREVIEW_TRIANGLES * 0.5);
  expect(after.figures).toMatchObject({ slots: 1, textures: 1, drawCalls: 1 });
  expect(after.model.parts[0].uvs[0]?.length).toBe((after.model.parts[0].positions.length / 3) * 2);
});
