import { readdirSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Material } from '@gltf-transform/core';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { writePng } from '@wembrel/core/image/png';
import { xorshift32 } from '@wembrel/core/math/random';
import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { GltfEdit, type GltfJson, signWith } from '@wembrel/demo/awkward/changes';
import { sign } from '@wembrel/demo/broken';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { decide } from '../../core/test/build.ts';
import { sampled } from '../../core/test/sampling.ts';
import { merge } from '../src/merge/merge.ts';
import { collectModels } from '../src/read/collect.ts';
import { loadModel } from '../src/read/load.ts';
import { validateGltf } from '../src/write/validate.ts';
import { fidelityOf, folder, mergeFolder, put, testScope } from './here.ts';
import { uvCoverage } from './uv-coverage.ts';

vi.mock('../src/write/validate.ts', async (original) => {
  const actual = await original<typeof import('../src/write/validate.ts')>();
  return { ...actual, validateGltf: vi.fn(actual.validateGltf) };
});

const PLAN = { size: 64, margin: 4, effort: 0 };

describe('awkward models', () => {
  const scope = testScope();

  const readable = AWKWARD.filter(({ expected }) => expected.kind !== 'refused');
  // Of each model one thing is tested, of all of them everything with `--full`.
  for (const { name, build, expected } of sampled(readable, 3, 0))
    test(`${name} by the plan that is made for it: no more memory without fewer draw calls`, async () => {
      const out = join(folder(), 'out');
      const { files } = await collectModels([await put({ [name]: build() })]);
      const decisions = MergeDecisions.parse({});
      const { report } = await merge({ files, out, decisions, auto: {}, compare: false }, scope);
      const { before, after } = report;
      expect(report.errors, expected.kind).toEqual([]);
      if (after.textureBytes.bc7 > before.textureBytes.bc7) expect(after.drawCalls).toBeLessThan(before.drawCalls);
      expect(after.drawCalls).toBeLessThanOrEqual(before.drawCalls);
      expect(after.triangles).toBe(before.triangles);
    });

  for (const { name, build } of sampled(readable, 3, 1))
    test(`${name} merged whatever it gains, by the plan that is made for it: as good as its original`, async () => {
      const { files } = await collectModels([await put({ [name]: build() })]);
      const decisions = MergeDecisions.parse({ mergeAll: true });
      const { report } = await merge({ files, out: folder(), decisions, auto: {}, picture: 128 }, scope);
      expect(report.errors).toEqual([]);
      expect(report.faults.filter(({ code }) => code === 'looks different')).toEqual([]);
    });

  for (const { name, build, expected, likeness } of [
    ...sampled(readable, 3, 2),
    ...AWKWARD.filter((model) => !readable.includes(model)),
  ])
    test(`${name} beside a sound one: ${expected.kind}`, async () => {
      const out = join(folder(), 'out');
      const { files } = await collectModels([await put({ 'sound.glb': sign().glb(), [name]: build() })]);
      const { report } = await merge(
        { files, out, decisions: decide({ ...PLAN, size: 256, margin: 12 }), picture: 512 },
        scope,
      );
      const said = report.errors.map(({ path, message }) => ({ path, message }));
      const faults = report.faults.filter((fault) => fault.subject === name);
      if (expected.kind === 'refused') {
        expect(said).toEqual([{ path: name, message: expect.stringMatching(expected.says) }]);
        expect(report.written.filter((file) => file.endsWith('.glb'))).toEqual(['sound.glb']);
        return;
      }
      expect(said).toEqual([]);
      expect(fidelityOf(report).psnr ?? Number.POSITIVE_INFINITY).toBeGreaterThan(likeness?.least ?? 38);
      expect(report.after.triangles).toBe(report.before.triangles);
      expect(report.after.drawCalls).toBeLessThanOrEqual(report.before.drawCalls);
      expect(report.written).toContain(name);
      expect(await validateGltf(join(out, name))).toEqual([]);
      if (expected.kind === 'delivered') expect(faults).toEqual([]);
      else expect(faults.map((fault) => fault.message).join('\n')).toMatch(expected.says);
    });
});

describe('what is not drawn', () => {
  const scope = testScope();

  /** Delivers an awkward model with everything merged. */
  const delivered = async (name: string) => {
    const { build } = AWKWARD.find((model) => model.name === `${name}.glb`) as (typeof AWKWARD)[number];
    const { files } = await collectModels([await put({ 'a.glb': build() })]);
    const out = join(folder(), 'out');
    const { report } = await merge({ files, out, decisions: decide(PLAN), compare: false }, scope);
    const model = await loadModel({ name: 'a.glb', path: join(out, 'a.glb') });
    const materials = model.parts.map((part) => part.primitive.getMaterial()?.getName());
    return {
      report,
      model,
      materials,
      json: parseGlb('a.glb', await readFile(join(out, 'a.glb'))).json as unknown as GltfJson,
    };
  };

  test('lower levels by extension share the bay and the material of the finest, and are counted nowhere', async () => {
    const { report, json, materials, model } = await delivered('levels-of-detail-by-extension');
    expect(report.before).toMatchObject({ drawCalls: 1, triangles: 2, slots: 1 });
    expect(json.nodes[0].extensions).toEqual({ MSFT_lod: { ids: [1] } });
    expect(json.nodes[0].extras).toEqual({ MSFT_screencoverage: [0.5, 0.01] });
    expect(json.scenes).toMatchObject([{ nodes: [0] }]);
    expect(materials).toEqual(['sheet', 'sheet']);
    const [fine, coarse] = model.parts.map(({ positions, uvs }) =>
      Array.from({ length: positions.length / 3 }, (_, v) => [
        ...positions.subarray(v * 3, v * 3 + 3),
        ...(uvs[0] as Float32Array).subarray(v * 2, v * 2 + 2),
      ]),
    );
    expect(coarse).toHaveLength(3);
    expect(fine).toEqual(expect.arrayContaining(coarse));
    expect(json.images).toHaveLength(1);
  });

  test('levels by name share the bay of the finest, and stay objects where all else is joined', async () => {
    const { report, json, materials } = await delivered('levels-of-detail-by-name');
    expect(report.before.drawCalls).toBe(1);
    expect(json.nodes.map((node) => node.name)).toEqual(['sign_LOD0', 'sign_LOD1', 'sign_LOD2']);
    expect(new Set(materials).size).toBe(1);
  });

  test('what is switched off stays so, on the bay of what it looks like', async () => {
    const { report, json } = await delivered('switched-off');
    expect(report.after).toMatchObject({ drawCalls: 1, triangles: 2 });
    expect(json.nodes.at(-1)).toMatchObject({
      name: 'not today',
      extensions: { KHR_node_visibility: { visible: false } },
    });
  });

  test('a collision shape holds nothing up, and keeps no texture in the file', async () => {
    const { report, materials, model, json } = await delivered('collision-mesh-without-uvs-in-the-same-material');
    expect(report.keptApart).toEqual([]);
    expect(report.after.drawCalls).toBe(1);
    expect(report.faults).toEqual([]);
    expect(materials).toEqual(['sheet', undefined]);
    expect(json.images).toHaveLength(1);
    expect(model.notes.join()).toMatch(/1 collision shape/);
  });
});

describe('a model that cannot be delivered', () => {
  const validator = vi.mocked(validateGltf);
  const actual = validator.getMockImplementation();
  afterEach(() => void validator.mockImplementation(actual as typeof validateGltf));

  /** Lets the results of some models be found invalid. */
  const invalid = (...names: string[]) =>
    validator.mockImplementation(async (path) => {
      const inResult = names.some((name) => path.endsWith(`/${name}`)) && path.includes('.wembrel-');
      return inResult ? [{ code: 'WRONG', text: 'something is wrong (/nodes/0)' }] : [];
    });

  test('is named, and the others are delivered without it', async () => {
    const glb = sign().glb();
    const input = await put({ 'a.glb': glb, 'b.glb': sign({ names: ['Other'] }).glb(), 'c.glb': glb });
    invalid('b.glb');
    const { report, manifest, sources } = await mergeFolder(input, join(folder(), 'out'), PLAN);
    expect(report.errors).toEqual([
      { path: 'b.glb', message: 'the result is not valid glTF: something is wrong (/nodes/0)' },
    ]);
    expect(report.written.filter((file) => file.endsWith('.glb'))).toEqual(['a.glb', 'c.glb']);
    expect(sources).toEqual([0, 2]);
    expect(JSON.stringify(manifest)).not.toContain('Other');
  });

  test('with strict, or where it is the only one, nothing is written', async () => {
    invalid('a.glb');
    const both = await put({ 'a.glb': sign().glb(), 'b.glb': sign().glb() });
    const out = join(folder(), 'out');
    await expect(mergeFolder(both, out, PLAN, 2, { strict: true })).rejects.toThrow(/a\.glb: the result is not valid/);
    await expect(mergeFolder(await put({ 'a.glb': sign().glb() }), out, PLAN)).rejects.toThrow(/not valid/);
    expect(readdirSync(out)).toEqual([]);
  });

  test('what its source already has wrong is said, and it is delivered', async () => {
    const input = await put({ 'a.glb': sign().glb() });
    validator.mockResolvedValue([{ code: 'OLD', text: 'wrong all along' }]);
    const { report } = await mergeFolder(input, join(folder(), 'out'), PLAN);
    expect(report.errors).toEqual([]);
    expect(report.faults).toContainEqual({
      code: 'invalid source',
      subject: 'a.glb',
      message: 'the source is not valid glTF, nor is the result: wrong all along',
    });
  });
});

describe('archives', () => {
  const leftovers = () => readdirSync(tmpdir()).filter((name) => name.startsWith('wembrel-zip-'));

  test('hold names that a disk does not take: too long, a file where a folder is, folders called like models', async () => {
    const before = new Set(leftovers());
    const obj = new TextEncoder().encode('v 0 0 0\nv 1 0 0\nv 0 1 0\nmtllib paint.mtl\nusemtl red\nf 1 2 3\n');
    const long = `${'x'.repeat(300)}.obj`;
    const archive = zipSync({
      'a.obj/inner.obj': obj,
      'a.obj': obj,
      [long]: obj,
      'paint.mtl': new TextEncoder().encode('newmtl red\nKd 1 0 0\n'),
    });
    const path = join(folder(), 'names.zip');
    await writeFile(path, archive);
    const { files, problems, close } = await collectModels([path]);
    expect(problems).toEqual([]);
    expect(files.map((file) => file.name.slice(path.length + 1))).toEqual(['a.obj', 'a.obj/inner.obj', long]);
    // Side files are found by their names in the archive.
    const [model, inner] = await Promise.all(files.map((file) => loadModel(file)));
    expect(model.missing).toEqual([]);
    expect(model.slots[0].look.baseColorFactor.slice(0, 3)).toEqual([1, 0, 0]);
    expect(inner.missing).toEqual(['paint.mtl']);
    await close();
    expect(leftovers().filter((name) => !before.has(name))).toEqual([]);
  });
});

describe('pictures made of texels', () => {
  const noise = (seed: number, side: number) => {
    const random = xorshift32(seed);
    return writePng(
      Uint8Array.from({ length: side * side * 3 }, () => random() * 256),
      side,
      side,
      3,
    );
  };
  /** A sign with a picture of random texels, read without blending. @param minFilter of its sampler */
  const pixelSign = (seed: number, side: number, minFilter: number) => {
    const png = noise(seed, side);
    return signWith(
      ({ json }) => {
        json.samplers = [{ magFilter: 9728, minFilter, wrapS: 33071, wrapT: 33071 }];
        json.textures[0].sampler = 0;
      },
      { picture: png, names: [`Pixels${seed}`] },
    );
  };

  test('are read without blending again, and every texel is there exactly, at any place of the sheet', async () => {
    const input = await put({
      'a.glb': pixelSign(3, 32, 9986),
      'b.glb': pixelSign(5, 48, 9986),
      'c.glb': pixelSign(9, 20, 9984),
    });
    const out = join(folder(), 'out');
    const { report } = await mergeFolder(input, out, { size: 256, margin: 4, rotate: 'free' });
    expect(report.faults).toEqual([]);
    expect(report.sheets[0].scale).toBe(1);
    for (const name of ['a', 'b', 'c']) {
      const [was, is] = await Promise.all([input, out].map((at) => readGlb(join(at, `${name}.glb`))));
      const info = is.material.getBaseColorTextureInfo();
      expect([info?.getMagFilter(), info?.getMinFilter()]).toEqual([9728, 9986]);
      // The middle of every texel of the source, looked up through the surface, shows the same bytes.
      const covered = await uvCoverage(join(input, `${name}.glb`), [was.width, was.height]);
      expect(covered.filter(Boolean).length).toBeGreaterThan(covered.length / 2);
      for (let v = 0; v < was.height; v++)
        for (let u = 0; u < was.width; u++)
          if (covered[v * was.width + u]) expect(is.at(was.place(u, v)), `${name} ${u} ${v}`).toEqual(was.texel(u, v));
    }
  });

  test('a sheet that is made for them grows beyond the memory of its sources rather than resample them', async () => {
    const edit = new GltfEdit(sign({ names: ['Front', 'Back', 'Foot'] }).glb());
    edit.json.samplers = [{ magFilter: 9728, minFilter: 9728 }];
    edit.json.materials.forEach((material, i) => {
      const source = edit.json.images.push({ bufferView: edit.view(noise(i + 1, 400)), mimeType: 'image/png' }) - 1;
      const index = edit.json.textures.push({ source, sampler: 0 }) - 1;
      material.pbrMetallicRoughness = { baseColorTexture: { index } };
    });
    const { files } = await collectModels([await put({ 'a.glb': edit.glb() })]);
    const scope = testScope();
    const decisions = MergeDecisions.parse({});
    const { report } = await merge({ files, out: folder(), decisions, auto: {}, compare: false }, scope);
    await scope.close();
    expect(report.faults).toEqual([]);
    expect(report.sheets.map(({ width, height, scale }) => [width, height, scale])).toEqual([[1024, 1024, 1]]);
    expect(report.after.drawCalls).toBeLessThan(report.before.drawCalls);
    expect(report.after.textureBytes.bc7).toBeGreaterThan(report.before.textureBytes.bc7);
  });

  test('share no material with what is blended, and are named where a sheet is too small for them', async () => {
    const input = await put({
      'a.glb': pixelSign(3, 64, 9728),
      'b.glb': sign().glb(),
      'c.glb': pixelSign(4, 64, 9728),
    });
    const out = join(folder(), 'out');
    const { report } = await mergeFolder(input, out, { size: 64, margin: 4, effort: 0 });
    expect(report.faults.map((fault) => fault.code)).toContain('resampled texels');
    const names = await Promise.all(
      ['a', 'b', 'c'].map(async (name) => (await readGlb(join(out, `${name}.glb`))).material.getName()),
    );
    expect(names[0]).toBe(names[2]);
    expect(names[0]).not.toBe(names[1]);
  });
});

/** The one part of a written sign: where texels of its picture lie on the surface, and what is shown at a place. */
async function readGlb(path: string) {
  const model = await loadModel({ name: path, path });
  const [part] = model.parts;
  const material = part.primitive.getMaterial() as Material;
  const picture = await sharp(material.getBaseColorTexture()?.getImage() as Uint8Array)
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const { width, height } = picture.info;
  const uv = part.uvs[0] as Float32Array;
  const corner = (v: number) => ({
    uv: [uv[v * 2], uv[v * 2 + 1]],
    at: [...part.positions.subarray(v * 3, v * 3 + 2)],
  });
  const corners = [...new Set(part.indices)].map(corner);
  /** Solves for the affine map that takes three corners' `from` to their `to`. */
  const affine =
    (from: 'uv' | 'at', to: 'uv' | 'at') =>
    (p: readonly number[]): [number, number] => {
      const [a, b, c] = corners;
      const [bx, by, cx, cy] = [
        b[from][0] - a[from][0],
        b[from][1] - a[from][1],
        c[from][0] - a[from][0],
        c[from][1] - a[from][1],
      ];
      const [px, py] = [p[0] - a[from][0], p[1] - a[from][1]];
      const det = bx * cy - by * cx;
      const [s, t] = [(px * cy - py * cx) / det, (bx * py - by * px) / det];
      return [0, 1].map((k) => a[to][k] + s * (b[to][k] - a[to][k]) + t * (c[to][k] - a[to][k])) as [number, number];
    };
  const texel = (u: number, v: number) => [...picture.data.subarray((v * width + u) * 3, (v * width + u) * 3 + 3)];
  return {
    material,
    width,
    height,
    texel,
    place: (u: number, v: number) => affine('uv', 'at')([(u + 0.5) / width, (v + 0.5) / height]),
    at: (place: readonly number[]) => {
      const [u, v] = affine('at', 'uv')(place);
      return texel(Math.floor(u * width), Math.floor(v * height));
    },
  };
}
