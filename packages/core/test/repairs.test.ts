import { describe, expect, test } from 'vitest';
import { BUDGETS, Budget, overBudget } from '../src/decisions/budget.ts';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { TextureNaming } from '../src/decisions/reading.ts';
import { isUnrepaired, Repairs } from '../src/decisions/repairs.ts';
import { NO_TEXTURE_BYTES } from '../src/image/texture-memory.ts';
import { drawOpaque, flatToFactors, shareMaterials, shareTextures } from '../src/repair/materials.ts';
import { dropFaces, hardenAtUvBorders, makeInstances, weldNormals } from '../src/repair/meshes.ts';
import { type Model, readModel } from '../src/scene/model.ts';
import { assignTextures, plainName } from '../src/survey/assign-textures.ts';
import { csvCell, surveyCsv } from '../src/survey/csv.ts';
import { fileFigures } from '../src/survey/figures.ts';
import { geometryInput, partGeometry } from '../src/survey/part-geometry.ts';
import { buildModel, imageKeyOfName, quad } from './build.ts';

const again = (model: Model) => readModel(model.path, model.document, imageKeyOfName);
const A = { name: 'A', baseColor: 'a' };
const whole = (slot = 'A', x = 0) => ({ ...quad(x, 0, 1, 1, 0, 0, 1, 1), slot });

describe('repairs of meshes', () => {
  test('faces without area and faces that are there twice go, the others stay in their order', () => {
    const model = buildModel([A], [{ ...whole(), indices: [0, 1, 2, 0, 0, 1, 0, 2, 3, 2, 1, 0] }]);
    expect(dropFaces(model.document)).toBe(2);
    expect([...again(model).parts[0].indices]).toEqual([0, 1, 2, 0, 2, 3]);
    expect(dropFaces(model.document)).toBe(0);
  });

  test('welding leaves the surface where it is and makes what the finding counted', () => {
    const r = (0.5 * Math.PI) / 180;
    const q = quad(0, 0, 1, 1, 0, 0, 1, 1);
    const part = {
      positions: [...q.positions, ...q.positions.map((v, i) => (i % 3 === 0 ? v + 1 : v))],
      uvs: [...q.uvs, 1, 1, 2, 1, 2, 0, 1, 0],
      normals: [...q.normals, ...[0, 1, 2, 3].flatMap(() => [Math.sin(r), 0, Math.cos(r)])],
      indices: [0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7],
      slot: 'A',
    };
    const model = buildModel([A], [part]);
    const before = model.parts[0];
    const needless = partGeometry(geometryInput(before)).needless;
    expect(needless).toBe(2);
    expect(weldNormals(model.document)).toBe(needless);
    const after = again(model).parts[0];
    const corner = (part: typeof after, i: number) => [
      ...part.positions.subarray(part.indices[i] * 3, part.indices[i] * 3 + 3),
    ];
    for (let i = 0; i < 12; i++) expect(corner(after, i)).toEqual(corner(before, i));
    expect(partGeometry(geometryInput(after)).needless).toBe(0);
    expect(after.positions.length).toBe(before.positions.length - 6);
  });

  test('hardening at UV borders: smooth inside an island, hard across its border, and tangents go', () => {
    // Two squares that meet at 90°: once sharing their UVs along the fold, once not.
    const fold = (gap: number) => ({
      positions: [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 0, 1, 0, -1, 1, 1, -1, 1, 1, 0],
      normals: Array.from({ length: 8 }, () => [0.6, 0, 0.8]).flat(),
      tangents: Array.from({ length: 8 }, () => [1, 0, 0, 1]).flat(),
      uvs: [0, 1, 0.4, 1, 0.4, 0, 0, 0, 0.4 + gap, 1, 0.8, 1, 0.8, 0, 0.4 + gap, 0],
      indices: [0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7],
      slot: 'A',
    });
    const hardened = (gap: number) => {
      const model = buildModel([A], [fold(gap)]);
      expect(hardenAtUvBorders(model.document, new Set(['A']))).toBe(1);
      return again(model).parts[0];
    };
    const split = hardened(0.1);
    expect([...(split.normals ?? [])].slice(3, 6).map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, 0, 1]);
    expect([...(split.normals ?? [])].slice(12, 15).map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([1, 0, 0]);
    expect(split.tangents).toBeNull();
    const shared = hardened(0);
    expect(shared.normals?.[3]).toBeCloseTo(Math.SQRT1_2, 5);
    expect(shared.normals?.[5]).toBeCloseTo(Math.SQRT1_2, 5);
  });

  test('equal meshes become one with two placings; the draw calls stay, the vertices are stored once', () => {
    const model = buildModel([A], [whole(), { ...whole(), translation: [3, 0, 0] }]);
    const figures = (x: Model) => fileFigures(x, new Map(), imageKeyOfName);
    const before = figures(model);
    expect(makeInstances(model.document)).toBe(1);
    const after = figures(again(model));
    expect([after.drawCalls, after.triangles]).toEqual([before.drawCalls, before.triangles]);
    expect(after.gpuVertices).toBe(before.gpuVertices / 2);
    const other = buildModel([A], [whole(), { ...whole(), uvs: [0, 1, 1, 1, 1, 0, 0, 0.5] }]);
    expect(makeInstances(other.document)).toBe(0);
  });
});

describe('repairs of materials', () => {
  test('twins become one texture and one material; what differs stays', () => {
    const model = buildModel(
      [A, { name: 'B', baseColor: 'a2' }, { name: 'C', baseColor: 'c' }],
      [whole('A'), whole('B', 2), whole('C', 4)],
    );
    const pixels = (name: string) => (name === 'a2' ? 'a' : name);
    expect(shareTextures(model.document, (texture) => pixels(texture.getName()))).toBe(1);
    expect(shareMaterials(model.document, imageKeyOfName)).toBe(1);
    expect(again(model).slots.map((slot) => slot.name)).toEqual(['A', 'C']);
    expect(new Set(again(model).parts.map((part) => part.slot)).size).toBe(2);
  });

  test('a flat colour becomes a factor in linear light; a crooked flat normal map stays', () => {
    const model = buildModel([{ ...A, normal: 'n' }], [whole()]);
    const root = model.document.getRoot();
    const texture = (name: string) => root.listTextures().find((texture) => texture.getName() === name) as never;
    expect(flatToFactors(model.document, texture('a'), [188 / 255, 1, 0, 1])).toBe(1);
    expect(flatToFactors(model.document, texture('n'), [0.7, 0.5, 0.9, 1])).toBe(0);
    expect(flatToFactors(model.document, texture('n'), [128 / 255, 128 / 255, 1, 1])).toBe(1);
    const { look } = again(model).slots[0];
    expect(look.baseColorFactor[0]).toBeCloseTo(0.5029, 3);
    expect([look.baseColorFactor[1], look.baseColorFactor[2], look.baseColor, look.normal]).toEqual([1, 0, null, null]);
  });

  test('only the named slots are drawn opaque', () => {
    const model = buildModel(
      [
        { ...A, alphaMode: 'BLEND' },
        { name: 'B', baseColor: 'b', alphaMode: 'BLEND' },
      ],
      [whole('A'), whole('B', 2)],
    );
    expect(drawOpaque(model.document, new Set(['B']))).toBe(1);
    expect(again(model).slots.map((slot) => slot.look.alphaMode)).toEqual(['BLEND', 'OPAQUE']);
  });

  test('decisions without repairs change nothing', () => {
    expect(isUnrepaired(Repairs.parse({}))).toBe(true);
    expect(isUnrepaired(Repairs.parse({ shareDuplicates: true }))).toBe(false);
    expect(MergeDecisions.parse({}).repairs).toEqual(Repairs.parse({}));
  });
});

describe('loose textures', () => {
  const naming = TextureNaming.parse({});
  const slots = [
    { model: 'kiosk', slot: 'Panels', siblings: 2 },
    { model: 'kiosk', slot: 'Plinth', siblings: 2 },
    { model: 'bench', slot: 'Wood', siblings: 1 },
  ];
  const by = (files: string[]) => assignTextures(files, slots, naming);

  test('slot, model and slot, or model alone where it has one slot; case and separators do not matter', () => {
    const { assignments, unmatched } = by([
      'Panels_BaseColor',
      'kiosk.plinth-NORMAL',
      'Bench Roughness',
      'kiosk_normal',
    ]);
    expect(assignments.map((assignment) => [assignment.file, assignment.slots, assignment.holds])).toEqual([
      [0, [0], { all: 'baseColor' }],
      [1, [1], { all: 'normal' }],
      [2, [2], { all: 'roughness' }],
    ]);
    expect(unmatched).toEqual([{ file: 3, reason: 'no slot or model is called "kiosk"' }]);
  });

  test('packed channels are taken apart; the second file for a map is refused, gloss being roughness', () => {
    const { assignments, unmatched } = by(['Panels_ORM', 'Panels_gloss', 'Panels_Smoothness', 'readme']);
    expect(assignments[0].holds).toEqual({ r: 'occlusion', g: 'roughness', b: 'metallic', a: null });
    expect(unmatched.map((u) => u.reason)).toEqual([
      '"Panels_ORM" is already taken for that map',
      '"Panels_ORM" is already taken for that map',
      'its name ends like no map',
    ]);
  });

  test('own patterns and endings win', () => {
    const own = TextureNaming.parse({ patterns: ['T_{slot}_{map}'], endings: { baseColor: ['D'] }, packed: [] });
    expect(assignTextures(['T_Wood_D', 'Wood_D'], slots, own).assignments.map((assignment) => assignment.file)).toEqual(
      [0],
    );
    expect(() => TextureNaming.parse({ patterns: ['{slot}'] })).toThrow(/\{map\}/);
    expect(plainName('  A.b - C__d ')).toBe('a_b_c_d');
  });
});

describe('budgets', () => {
  test('only what is limited and over is told, and by how much; density counts the other way', () => {
    const b = Budget.parse({ drawCalls: 100, textureBytes: 1000, density: 512 });
    expect(overBudget(b, { drawCalls: 125, textureBytes: 1000, triangles: 1e9, density: 256 })).toEqual({
      drawCalls: 1.25,
      density: 2,
    });
    expect(overBudget(b, { density: null })).toEqual({});
    for (const [device, start] of Object.entries(BUDGETS)) expect(Budget.parse(start).device).toBe(device);
  });
});

describe('CSV', () => {
  test('quotes what needs it, and no cell becomes a formula', () => {
    expect(['a,b', 'say "x"', '=1+1', '-3', 'plain'].map(csvCell)).toEqual([
      '"a,b"',
      '"say ""x"""',
      "'=1+1",
      "'-3",
      'plain',
    ]);
    const row = { path: 'a.glb', ok: true, drawCalls: 3, slots: 2, textures: 1, triangles: 9, gpuVertices: 7 };
    const lines = surveyCsv([{ ...row, textureBytes: { ...NO_TEXTURE_BYTES, bc7: 16 } }]).split('\r\n');
    expect(lines[1]).toBe('a.glb,3,2,1,16,0,9,7,');
    expect(lines).toHaveLength(3);
  });
});
