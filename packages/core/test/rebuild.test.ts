import { Document } from '@gltf-transform/core';
import { describe, expect, test } from 'vitest';
import { sheetNeeds } from '../src/bake/sheet-maps.ts';
import { buildManifest } from '../src/handover/manifest.ts';
import { type SheetFiles, SheetMaterials } from '../src/handover/materials.ts';
import { addMissingUvs, applyTargets, tidy } from '../src/handover/rebuild.ts';
import { classSuffix } from '../src/plan/class-names.ts';
import type { MaterialClass } from '../src/plan/route.ts';
import { readModel } from '../src/scene/model.ts';
import { bakeHere, raster } from './bake-here.ts';
import { buildModel, decide, imageKeyOfName, type PartSpec, quad, type SlotSpec } from './build.ts';

const map = (uri: string) => ({ uri, bytes: Uint8Array.of(1) });
const files = (more: Partial<SheetFiles['maps']> = {}): SheetFiles => ({
  name: 'halt',
  maps: { baseColor: map('textures/halt_baseColor.png'), orm: map('textures/halt_orm.png'), ...more },
  emissiveStrength: 1,
  occlusion: false,
  factors: { roughness: 1, metallic: 1, emissive: [1, 1, 1] },
  wraps: false,
});

async function merged(slots: SlotSpec[], parts: PartSpec[], sheet = files()) {
  const model = buildModel(slots, parts);
  const images = Object.fromEntries(['c', 'd', 'n'].map((k) => [k, raster(16, (x, y) => [x * 16, y * 16, 128])]));
  const baked = await bakeHere([model], images, decide({ size: 64, margin: 2 }));
  const material = new SheetMaterials(model.document, new Map([[0, sheet]]), baked.routing.classes);
  applyTargets(model, baked.targets, baked.routing.materials, material);
  return { model, baked, again: readModel('again.glb', model.document, imageKeyOfName) };
}

const one: PartSpec = { ...quad(0, 0, 1, 1, 0.1, 0.1, 0.5, 0.5), slot: 'a' };
const two: PartSpec = { ...quad(2, 0, 1, 1, 0.2, 0.2, 0.5, 0.5), slot: 'b' };

describe('a merged model', () => {
  test('has one slot, new UVs on the sheet and the shape it had', async () => {
    const slots = [
      { name: 'a', baseColor: 'c' },
      { name: 'b', baseColor: 'd' },
    ];
    const { again } = await merged(slots, [one, two]);
    expect(again.slots.map((slot) => slot.name)).toEqual(['halt']);
    for (const [i, part] of again.parts.entries()) {
      const source = buildModel(slots, [one, two]).parts[i];
      const corners = (p: typeof part) => [...p.indices].map((v) => [...p.positions.slice(v * 3, v * 3 + 3)]);
      expect(corners(part)).toEqual(corners(source));
      for (const v of part.uvs[0] ?? []) {
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThanOrEqual(1);
      }
    }
    const look = again.slots[0].look;
    expect(look).toMatchObject({ metallicFactor: 1, roughnessFactor: 1, baseColorFactor: [1, 1, 1, 1] });
    expect(look.occlusion).toBeNull();
  });

  test('loses vertex colours that were baked in, keeps UV sets that nothing read, numbered without gaps', async () => {
    const uvs1 = [0, 0, 1, 0, 1, 1, 0, 1];
    const colors = [1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1];
    const { again } = await merged([{ name: 'a', baseColor: 'c' }], [{ ...one, uvs1, colors }]);
    const [part] = again.parts;
    expect(part.colors).toBeNull();
    expect(part.uvs).toHaveLength(2);
    expect([...(part.uvs[1] ?? [])].sort()).toEqual([...uvs1].sort());
  });

  test('has tangents on the new UVs where its sheet has normals and its source had some, none where not', async () => {
    const flat = await merged([{ name: 'a', baseColor: 'c' }], [one]);
    expect(flat.again.parts[0].tangents).toBeNull();
    const slots = [
      { name: 'a', baseColor: 'c' },
      { name: 'b', baseColor: 'd', normal: 'n' },
    ];
    const maps = files({ normal: map('textures/halt_normal.png') });
    const without = await merged(slots, [one, two], maps);
    expect(without.again.parts.map((part) => part.tangents)).toEqual([null, null]);
    // All that shares a material has some, since it may become one.
    const tangents = [1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1];
    const bumpy = await merged(slots, [one, { ...two, tangents }], maps);
    for (const part of bumpy.again.parts) {
      const t = part.tangents;
      if (!t) throw new Error('no tangents');
      for (let i = 0; i < t.length; i += 4) {
        expect(Math.hypot(t[i], t[i + 1], t[i + 2])).toBeCloseTo(1, 5);
        expect(Math.abs(t[i + 3])).toBe(1);
      }
    }
  });

  test('a part without normals gets flat ones, since its look depends on them', async () => {
    const { again } = await merged([{ name: 'a', baseColor: 'c' }], [{ ...one, normals: undefined }]);
    expect([...(again.parts[0].normals ?? [])]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]);
  });

  test('is described by the manifest: every bay inside its sheet, every slot with its bays', async () => {
    const { model, baked } = await merged(
      [
        { name: 'a', baseColor: 'c' },
        { name: 'b', baseColor: 'd' },
      ],
      [one, two],
    );
    const manifest = buildManifest({
      models: [
        buildModel(
          [
            { name: 'a', baseColor: 'c' },
            { name: 'b', baseColor: 'd' },
          ],
          [one, two],
        ),
      ],
      files: ['x.glb'],
      names: ['x'],
      routing: baked.routing,
      decided: decide({ sheets: 1 }).sheets,
      layout: baked.layout,
      baked: [{ sheet: 0, padding: 2, coverage: 0.123456789, maps: { baseColor: 'textures/halt_baseColor.png' } }],
    });
    expect(model.parts).toHaveLength(2);
    expect(manifest).toMatchObject({ format: 'wembrel-manifest', version: 1, models: [{ file: 'x.glb', name: 'x' }] });
    expect(manifest.sheets[0]).toMatchObject({ size: 64, margin: 2, padding: 2, protectedMip: -1, coverage: 0.123457 });
    expect(manifest.slots.map((slot) => slot.slot)).toEqual(['a', 'b']);
    for (const slot of manifest.slots) expect(slot.bays).toHaveLength(1);
    for (const bay of manifest.sheets[0].bays) {
      expect(bay.px[0] + bay.px[2]).toBeLessThanOrEqual(64);
      expect(bay.uv[2]).toBeCloseTo((bay.px[0] + bay.px[2]) / 64, 9);
    }
  });
});

describe('output materials', () => {
  const c = (more: Partial<Omit<MaterialClass, 'key'>> = {}): MaterialClass => {
    const k = {
      alphaMode: 'OPAQUE' as const,
      alphaCutoff: 0.5,
      doubleSided: false,
      unlit: false,
      nearest: false,
      mips: true,
      ...more,
    };
    return { ...k, key: JSON.stringify([k.alphaMode, k.alphaCutoff, k.doubleSided, k.unlit]) };
  };

  test('carry their class in the name only when there are several', () => {
    const all = [
      ['OPAQUE', 0, false, false],
      ['MASK', 0.25, true, false],
      ['BLEND', 0, false, true],
    ].map((k) => JSON.stringify(k));
    expect(classSuffix(all[0], [all[0]])).toBe('');
    expect(all.map((k) => classSuffix(k, all))).toEqual(['_opaque', '_tested_25_doubleSided', '_blended_unlit']);
  });

  test('of one sheet share their textures and are made once', () => {
    const d = new Document();
    const classes = [c(), c({ doubleSided: true })];
    const sheetMaterials = new SheetMaterials(
      d,
      new Map([
        [0, { ...files({ emissive: map('textures/halt_emissive.png') }), emissiveStrength: 3, occlusion: true }],
      ]),
      classes,
    );
    const material = sheetMaterials.get(0, classes[0].key);
    expect(sheetMaterials.get(0, classes[0].key)).toBe(material);
    const b = sheetMaterials.get(0, classes[1].key);
    expect(b.getDoubleSided()).toBe(true);
    expect(b.getBaseColorTexture()).toBe(material.getBaseColorTexture());
    expect(material.getOcclusionTexture()).toBe(material.getMetallicRoughnessTexture());
    expect(material.getEmissiveFactor()).toEqual([1, 1, 1]);
    expect(material.getExtension<never>('KHR_materials_emissive_strength')).toMatchObject({});
    expect(d.getRoot().listTextures()).toHaveLength(3);
    expect(material.getBaseColorTextureInfo()?.getWrapS()).toBe(33071);
  });
});

test('what a sheet needs follows from what goes onto it', async () => {
  const { baked } = await merged(
    [
      { name: 'a', baseColor: 'c', alphaMode: 'MASK' },
      { name: 'b', baseColor: 'd', alphaMode: 'MASK' },
    ],
    [one, two],
  );
  expect(sheetNeeds(baked.routing, 0)).toEqual({ normal: false, emissive: false, alpha: true, emissiveStrength: 1 });
});

test('UV sets that a slot needs and a part lacks are added, and only those', () => {
  const d = new Document();
  const buffer = d.createBuffer();
  const position = d.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(buffer);
  const textured = d.createMaterial('t').setBaseColorTexture(d.createTexture('x'));
  textured.getBaseColorTextureInfo()?.setTexCoord(1);
  const plain = d.createMaterial('p');
  const mesh = d.createMesh('sign');
  for (const material of [textured, plain, null])
    mesh.addPrimitive(d.createPrimitive().setAttribute('POSITION', position).setMaterial(material));
  d.createScene().addChild(d.createNode().setMesh(mesh));
  expect(addMissingUvs(d)).toEqual(['sign']);
  expect(mesh.listPrimitives().map((primitive) => primitive.listSemantics())).toEqual([
    ['POSITION', 'TEXCOORD_0', 'TEXCOORD_1'],
    ['POSITION'],
    ['POSITION'],
  ]);
  expect(addMissingUvs(d)).toEqual([]);
});

test('tidying leaves one buffer and nothing that nobody uses', () => {
  const d = new Document();
  const [a, b] = [d.createBuffer('a'), d.createBuffer('b')];
  const position = d.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(b);
  d.createAccessor('lost').setType('SCALAR').setArray(new Float32Array(3)).setBuffer(a);
  d.createMaterial('lost').setBaseColorTexture(d.createTexture('lost'));
  const mesh = d.createMesh().addPrimitive(d.createPrimitive().setAttribute('POSITION', position));
  d.createScene().addChild(d.createNode().setMesh(mesh));
  tidy(d);
  const root = d.getRoot();
  expect(
    [root.listBuffers(), root.listAccessors(), root.listMaterials(), root.listTextures()].map((l) => l.length),
  ).toEqual([1, 1, 0, 0]);
  expect(root.getAsset().generator).toBe('Wembrel');
});
