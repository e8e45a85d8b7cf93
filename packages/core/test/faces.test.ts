import { KHRTextureTransform } from '@gltf-transform/extensions';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FaceDecisions, type FaceEdit, facesInForce, facesRead } from '../src/decisions/face-decisions.ts';
import { faceText, parseFaceText } from '../src/decisions/face-list.ts';
import { applyFaceEdits } from '../src/faces/apply-faces.ts';
import { groupFaces, partsForGroups } from '../src/faces/group-faces.ts';
import type { FaceSurroundings } from '../src/faces/slot-table.ts';
import { swatchesOf, withRamp } from '../src/faces/take-swatches.ts';
import { bytesOfHex, hexOf } from '../src/image/hex.ts';
import { toLab } from '../src/image/oklab.ts';
import { linearOf } from '../src/image/srgb.ts';
import { layoutCoordinates } from '../src/mesh/coordinates.ts';
import { paintedFaces } from '../src/palette/faces.ts';
import type { TextureUse } from '../src/scene/material.ts';
import { type Model, type Part, readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName, numbers, type PartSpec, quad } from './build.ts';
import { shapeDistance } from './gap.ts';
import { runs } from './sampling.ts';

const AROUND: FaceSurroundings = { elsewhere: () => null, picture: () => [256, 64] };

/** A grid of quads over (u, v) in whole numbers, facing where the right hand says. */
function grid(w: number, h: number, at: (u: number, v: number) => [number, number, number], slot = 'Wall'): PartSpec {
  const positions: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  for (let v = 0; v <= h; v++)
    for (let u = 0; u <= w; u++) {
      positions.push(...at(u, v));
      uvs.push(u / w, 1 - v / h);
    }
  for (let v = 0; v < h; v++)
    for (let u = 0; u < w; u++) {
      const i = v * (w + 1) + u;
      indices.push(i, i + 1, i + w + 2, i, i + w + 2, i + w + 1);
    }
  return { positions, uvs, indices, slot };
}

const again = (model: Model) => readModel(model.path, model.document, imageKeyOfName);

function decisions(edits: Partial<FaceEdit>[], groups: object[] = [{ id: 'g', name: 'All', hue: 0, slots: ['Wall'] }]) {
  return FaceDecisions.parse({ groups, edits: edits.map((edit, i) => ({ id: `e${i}`, groups: ['g'], ...edit })) });
}

function changed(model: Model, edits: Partial<FaceEdit>[], groups?: object[], around = AROUND) {
  const changes = applyFaceEdits(model, decisions(edits, groups), around);
  return { model: again(model), ...changes };
}

/** Place and UV of each corner, as text, in order. */
const cornersOf = (part: Part, set = 0) =>
  Array.from(part.indices, (v) => ({
    at: [...part.positions.subarray(v * 3, v * 3 + 3)],
    uv: part.uvs[set] ? [part.uvs[set][2 * v], part.uvs[set][2 * v + 1]] : null,
  }));

describe('faces as text', () => {
  test('any faces come back', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(500), { maxLength: 200 }), (list) => {
        const faces = Uint32Array.from(list).sort();
        expect(parseFaceText(faceText(faces))).toEqual(faces);
      }),
    );
    expect(faceText([0, 1, 2, 5, 7, 8])).toBe('0-2,5,7-8');
  });
  test.each(['a', '3-1', '1,,x', '-1', '0-99999999999'])('"%s" is refused', (text) => {
    expect(() => parseFaceText(text)).toThrow();
  });
});

describe('face groups', () => {
  const model = () =>
    buildModel(
      [{ name: 'Wall' }, { name: 'Roof' }],
      [
        { ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'Wall' },
        { ...quad(2, 0, 1, 1, 0, 0, 1, 1), slot: 'Roof' },
        { ...quad(4, 0, 1, 1, 0, 0, 1, 1), slot: 'Wall' },
      ],
    );
  test('named faces come first, then parts and slots in the order of the groups', () => {
    const d = decisions(
      [],
      [
        { id: 'a', name: 'A', hue: 0, slots: ['Wall'] },
        { id: 'b', name: 'B', hue: 0, faces: { 'test.glb': { 0: '1' } } },
        { id: 'c', name: 'C', hue: 0, parts: ['part 2', 'part 1'] },
      ],
    );
    const { ofPart, missing } = groupFaces(partsForGroups(model()), d.groups);
    expect(ofPart.map((p) => [...p])).toEqual([
      [0, 1],
      [2, 2],
      [0, 0],
    ]);
    expect(missing).toEqual([]);
  });
  test('faces and parts that are not there are told', () => {
    const d = decisions([], [{ id: 'a', name: 'A', hue: 0, faces: { 'test.glb': { 0: '0-5', 9: '0' } } }]);
    const { missing } = groupFaces(partsForGroups(model()), d.groups);
    expect(missing).toEqual([
      '"A" names 4 faces that "part 0" in test.glb does not have',
      '"A" names part 9 of test.glb, which has 3 parts',
    ]);
  });
  test.each([
    [{ groups: [{ id: 'a', name: 'A', hue: 0 }], edits: [{ id: 'x', kind: 'slot', groups: ['b'], slot: 'S' }] }, /"b"/],
    [
      {
        groups: [
          { id: 'a', name: 'A', hue: 0 },
          { id: 'b', name: 'a', hue: 0 },
        ],
      },
      /called/,
    ],
    [{ groups: [{ id: 'a', name: 'A', hue: 0, faces: { m: { 0: '5-1' } } }] }, /ranges/],
    [
      {
        groups: [{ id: 'a', name: 'A', hue: 0 }],
        edits: [{ id: 'x', kind: 'strip', groups: ['a'], top: 0.5, bottom: 0.5 }],
      },
      /lower edge/,
    ],
    [
      {
        groups: [{ id: 'a', name: 'A', hue: 0 }],
        edits: [{ id: 'x', kind: 'cells', groups: ['a'], mix: [{ slot: 'S' }], edge: { slot: 'E', to: 'a' } }],
      },
      /is changed itself/,
    ],
  ])('decisions that cannot be are refused', (decisions, message) => {
    const r = FaceDecisions.safeParse(decisions);
    expect(r.error?.issues.map((i) => i.message).join('; ')).toMatch(message);
  });
  test('names, notes and groups after the last one in use change nothing', () => {
    const d = decisions(
      [{ kind: 'slot', slot: 'X' } as Partial<FaceEdit>],
      [
        { id: 'g', name: 'Walls', hue: 10, note: 'north side', slots: ['Wall'] },
        { id: 'h', name: 'Later', hue: 0, slots: ['Roof'] },
      ],
    );
    const other = { ...d, groups: [{ ...d.groups[0], name: 'W', note: '', hue: 3 }] };
    expect(facesRead(d)).toEqual(facesRead(other));
    expect(facesInForce({ ...d, edits: [{ ...d.edits[0], off: true }] })).toEqual({
      groups: [],
      edits: [],
      coming: [],
    });
  });
});

describe('slots from groups', () => {
  test('faces of two primitives of a mesh become one primitive; nothing else changes; origins say where they were', () => {
    const spec = buildModel(
      [{ name: 'Wall', baseColor: 'a' }, { name: 'Roof' }],
      [
        { ...grid(3, 1, (u, v) => [u, v, 0]), slot: 'Wall' },
        { ...grid(2, 1, (u, v) => [u + 3, v, 0]), slot: 'Roof' },
      ],
    );
    const [first, second] = spec.document.getRoot().listMeshes();
    const moved = second.listPrimitives()[0];
    second.removePrimitive(moved);
    first.addPrimitive(moved);
    const before = again(spec);
    const places = before.parts.map((part) => cornersOf(part));
    const { model, origins } = changed(
      before,
      [{ kind: 'slot', slot: 'Door' } as Partial<FaceEdit>],
      [{ id: 'g', name: 'Door', hue: 0, faces: { 'test.glb': { 0: '4-5', 1: '0-1' } } }],
    );
    expect(model.parts.map((part) => [model.slots[part.slot].name, part.indices.length / 3])).toEqual([
      ['Wall', 4],
      ['Door', 4],
      ['Roof', 2],
    ]);
    expect(origins).toEqual([
      [{ part: 0, faces: '0-3' }],
      [
        { part: 0, faces: '4-5' },
        { part: 1, faces: '0-1' },
      ],
      [{ part: 1, faces: '2-3' }],
    ]);
    model.parts.forEach((part, i) => {
      const from = (origins?.[i] ?? []).flatMap((o) =>
        [...parseFaceText(o.faces)].flatMap((f) => [0, 1, 2].map((k) => places[o.part][f * 3 + k])),
      );
      expect(cornersOf(part)).toEqual(from);
    });
    // A copy of the look that the first faces had.
    expect(model.slots.find((slot) => slot.name === 'Door')?.look.baseColor?.image).toBe('a');
  });
  test('a slot of another model is taken as it is there; one that loses its last face goes', () => {
    const there = buildModel([{ name: 'Brick', baseColor: 'brick' }], []);
    const here = buildModel([{ name: 'Wall', baseColor: 'a' }], [{ ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'Wall' }]);
    const material = here.document.createMaterial('Brick').setBaseColorTexture(here.document.createTexture('brick'));
    expect(there.slots[0].name).toBe('Brick');
    const { model } = changed(here, [{ kind: 'slot', slot: 'Brick' } as Partial<FaceEdit>], undefined, {
      ...AROUND,
      elsewhere: (name) => (name === 'Brick' ? material : null),
    });
    expect(model.slots.map((slot) => slot.name)).toEqual(['Brick']);
    expect(
      model.document
        .getRoot()
        .listTextures()
        .map((texture) => texture.getName()),
    ).toEqual(['brick']);
  });
  test('painted faces get exactly that colour', () => {
    const here = buildModel([{ name: 'Wall', baseColor: 'a' }], [{ ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'Wall' }]);
    const { model } = changed(here, [
      { kind: 'swatch', slot: 'Enamel', colour: '#0f7c8a', metallic: 1 } as Partial<FaceEdit>,
    ]);
    const material = model.slots[0].material;
    const srgb = (material?.getBaseColorFactor() ?? []).slice(0, 3).map((v) => {
      return Math.round(255 * (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055));
    });
    expect([model.slots[0].name, srgb, material?.getMetallicFactor()]).toEqual(['Enamel', [0x0f, 0x7c, 0x8a], 1]);
  });
  test('a strip names pieces that are thin, and those that run across their neighbours', () => {
    // A row of quads along x, in two parts with a bend between them; the second is higher than it is long, so that its long side runs across.
    const row = (high: number, long: number): Model =>
      buildModel(
        [{ name: 'Wall' }],
        [grid(2, 1, (u, v) => (u < 2 ? [u * 4, v * high, 0] : [4 + long * 0.77, v * high, long * 0.64]))],
      );
    const strip = (model: Model, more: object = {}) =>
      changed(model, [{ kind: 'strip', slot: 'Wall', bend: 30, straight: false, ...more } as Partial<FaceEdit>])
        .reports[0].faults;
    expect(strip(row(1, 3))).toEqual([]);
    expect(strip(row(1, 0.3))).toEqual(['2 pieces run across their neighbours (turned by 45° or more)']);
    // 256 × 64 px: a strip of 0.05 of the height has 3.2 texels.
    expect(strip(row(1, 3), { bottom: 0.05 })).toEqual(['2 pieces show less than 4 texels of the strip']);
    expect(strip(row(1, 3), { bottom: 0.07 })).toEqual([]);
  });
  test('a gradient runs from below to above, evenly, whatever way the faces were mapped', () => {
    const here = buildModel([{ name: 'Wall' }], [grid(2, 8, (u, v) => [u, v * 0.5, 0])]);
    const { model, reports } = changed(here, [
      { kind: 'swatch', slot: 'Post', colour: '#202020', upper: '#e0c040' } as Partial<FaceEdit>,
    ]);
    expect(reports[0]).toMatchObject({ said: 'painted from #202020 to #e0c040', faults: [] });
    const texture = model.slots[0].material?.getBaseColorTexture();
    const [width, height] = texture?.getSize() ?? [0, 0];
    // The factor leaves the picture as it is.
    expect(model.slots[0].material?.getBaseColorFactor()).toEqual([1, 1, 1, 1]);
    for (const { at, uv } of cornersOf(model.parts[0])) {
      const [u, v] = uv as [number, number];
      expect(u * width).toBeCloseTo(2, 5);
      expect(v * height).toBeCloseTo(0.5 + (1 - at[1] / 4) * (height - 1), 4);
    }
  });
  test('no two slots get one name: what is painted is called on, unless what had the name is gone', () => {
    const two = () =>
      buildModel(
        [{ name: 'Wall' }, { name: 'Roof' }],
        [
          { ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'Wall' },
          { ...quad(2, 0, 1, 1, 0, 0, 1, 1), slot: 'Roof' },
        ],
      );
    const paint = (slot: string, colour: string) => ({ kind: 'swatch', slot, colour }) as Partial<FaceEdit>;
    const names = (model: Model) => model.parts.map((part) => model.slots[part.slot].name);
    const clash = changed(two(), [paint('Roof', '#ff0000')]);
    expect(names(clash.model)).toEqual(['Roof 2', 'Roof']);
    expect(clash.reports[0].faults).toEqual(['there is another slot "Roof"; this one is called "Roof 2"']);
    const own = changed(two(), [paint('Wall', '#ff0000')]);
    expect(names(own.model)).toEqual(['Wall', 'Roof']);
    expect(own.reports[0].faults).toEqual([]);
    // The same paint twice is one slot, another one of that name is not.
    const groups = ['Wall', 'Roof'].map((slot, i) => ({ id: `g${i}`, name: slot, hue: 0, slots: [slot] }));
    const both = (colour: string) =>
      changed(
        two(),
        [
          { ...paint('Enamel', '#ff0000'), groups: ['g0'] },
          { ...paint('Enamel', colour), groups: ['g1'] },
        ],
        groups,
      );
    expect(both('#ff0000').model.slots).toHaveLength(1);
    expect(names(both('#00ff00').model)).toEqual(['Enamel', 'Enamel 2']);
  });
  test('morph targets and vertex colours stay with their vertices', () => {
    const spec = grid(2, 1, (u, v) => [u, v, 0]);
    spec.colors = Array.from({ length: 24 }, (_, i) => ((i * 7) % 11) / 11);
    const here = buildModel([{ name: 'Wall' }], [spec]);
    const primitive = here.parts[0].primitive;
    const lifted = Float32Array.from(here.parts[0].positions, (v, i) =>
      i % 3 === 2 ? here.parts[0].positions[i - 2] : 0 * v,
    );
    primitive.addTarget(
      here.document
        .createPrimitiveTarget('lift')
        .setAttribute('POSITION', here.document.createAccessor().setType('VEC3').setArray(lifted)),
    );
    const before = again(here);
    const colour = new Map(
      before.parts[0].positions.length
        ? [...before.parts[0].indices].map((v) => [
            before.parts[0].positions.subarray(v * 3, v * 3 + 3).join(),
            before.parts[0].colors?.subarray(v * 4, v * 4 + 4).join(),
          ])
        : [],
    );
    const { model } = changed(
      before,
      [{ kind: 'slot', slot: 'B' } as Partial<FaceEdit>],
      [{ id: 'g', name: 'G', hue: 0, faces: { 'test.glb': { 0: '2-3' } } }],
    );
    expect(model.parts).toHaveLength(2);
    for (const part of model.parts) {
      const target = part.primitive.listTargets()[0].getAttribute('POSITION')?.getArray() as Float32Array;
      for (const v of part.indices) {
        expect(part.colors?.subarray(v * 4, v * 4 + 4).join()).toBe(
          colour.get(part.positions.subarray(v * 3, v * 3 + 3).join()),
        );
        expect(target[v * 3 + 2]).toBe(part.positions[v * 3]);
      }
    }
  });
});

describe('the colours that faces show', () => {
  /** Linear vertex colours of a byte. */
  const lin = (v: number) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4);
  /** Quads side by side, each of one sRGB colour; null: from black to white. */
  const coloured = (colours: ([number, number, number] | null)[]): PartSpec => {
    const out: PartSpec = { positions: [], colors: [], indices: [], slot: 'Wall' };
    colours.forEach((colour, i) => {
      out.indices?.push(...[0, 1, 2, 0, 2, 3].map((k) => 4 * i + k));
      out.positions.push(2 * i, 0, 0, 2 * i + 1, 0, 0, 2 * i + 1, 1, 0, 2 * i, 1, 0);
      for (let k = 0; k < 4; k++) out.colors?.push(...(colour ?? [k * 80, k * 80, k * 80]).map(lin), 1);
    });
    return out;
  };
  const painted = (model: Model) =>
    paintedFaces(model, () => undefined).flatMap((paintedFaces) => paintedFaces.faces.flatMap((face) => face ?? []));

  test('each face takes the nearest; one that shows several stays; replacing a colour replaces it on all of them', () => {
    const model = buildModel([{ name: 'Wall' }], [coloured([[200, 30, 30], [190, 36, 30], [20, 40, 220], null])]);
    const swatches = [
      { slot: 'Red', from: '#c81e1e', colour: '#00ff00' },
      { slot: 'Blue', from: '#1428dc', colour: '#1428dc' },
      { slot: 'Unused', from: '#ffffff', colour: '#ffffff' },
    ];
    const { model: after, reports } = changed(model, [{ kind: 'swatches', swatches } as Partial<FaceEdit>]);
    expect(after.parts.map((part) => [after.slots[part.slot].name, part.indices.length / 3])).toEqual([
      ['Red', 4],
      ['Blue', 2],
      ['Wall', 2],
    ]);
    expect(after.slots.map((slot) => slot.name).sort()).toEqual(['Blue', 'Red', 'Wall']);
    expect(reports[0].said).toMatch(/^6 faces on 3 colours, off by ΔE [1-9]\.\d at most$/);
    expect(reports[0].faults).toEqual(['2 faces show more than one colour and stay as before']);
  });
  test('what is gathered from faces leaves every one on its own colour, to the byte', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255)), { minLength: 1, maxLength: 6 }), (list) => {
        const model = buildModel([{ name: 'Wall' }], [coloured(list)]);
        const paints = painted(model);
        const { swatches, maxError } = swatchesOf(paints, 16, 'Paint');
        const byUse = swatchesOf(paints, 16, 'Paint', 'use').swatches.map((swatch) => swatch.colour);
        expect([...byUse].sort()).toEqual(swatches.map((swatch) => swatch.colour).sort());
        const areaOf = (hex: string) =>
          paints.reduce((sum, paint) => sum + (hexOf(paint.colour) === hex ? paint.area : 0), 0);
        expect(byUse.map(areaOf)).toEqual(byUse.map(areaOf).sort((a, b) => b - a));
        expect(maxError).toBe(0);
        expect(new Set(swatches.map((swatch) => swatch.colour)).size).toBe(
          new Set(paints.map((paint) => paint.colour.join())).size,
        );
        const { model: after, origins } = changed(model, [{ kind: 'swatches', swatches } as Partial<FaceEdit>]);
        after.parts.forEach((part, i) => {
          const hex = swatches.find((swatch) => swatch.slot === after.slots[part.slot].name)?.colour ?? '';
          const rgb = bytesOfHex(hex);
          // They would tint the plain colour.
          expect(part.colors).toBeNull();
          for (const o of origins?.[i] ?? [])
            for (const f of parseFaceText(o.faces)) expect(list[Math.floor(f / 2)]).toEqual(rgb);
        });
      }),
      { numRuns: runs(30) },
    );
  });
});

describe('ramps of swatches', () => {
  const swatch = (slot: string, from: string, colour = from) => ({
    slot,
    from,
    colour,
    roughness: 0.5,
    metallic: 0,
    emissive: '#000000',
  });
  const light = (hex: string) => toLab(bytesOfHex(hex).map((v) => v / 255) as never)[0];
  test('steps from dark to light around a swatch that stays; a new colour shades alike; nothing twice', () => {
    const list = [swatch('A', '#336699', '#993333'), swatch('B', '#dddddd')];
    const out = withRamp(list, 0, 5);
    expect(out.map((s) => s.slot)).toEqual(['A −2', 'A −1', 'A', 'A +1', 'A +2', 'B']);
    expect([out[2], out[5]]).toEqual(list);
    for (const key of ['from', 'colour'] as const) {
      const ls = out.slice(0, 5).map((s) => light(s[key]));
      expect(ls).toEqual([...ls].sort((a, b) => a - b));
      expect(new Set(out.slice(0, 5).map((s) => s[key])).size).toBe(5);
    }
    expect(withRamp(out, 2, 5)).toEqual(out);
  });
  test('faces take the step that they show', () => {
    const [low, , , , high] = withRamp([swatch('A', '#5577aa')], 0, 5);
    const parts = [low, high].map((s, i) => ({ ...quad(i * 2, 0, 1, 1, 0, 0, 1, 1), slot: s.slot }));
    const colour = linearOf;
    const model = buildModel(
      [low, high].map((s) => ({ name: s.slot })),
      parts,
    );
    for (const [i, material] of model.document.getRoot().listMaterials().entries())
      material
        .setBaseColorFactor([...colour([low, high][i].from), 1] as never)
        .setMetallicFactor(0)
        .setRoughnessFactor(0.5);
    const groups = [{ id: 'g', name: 'All', hue: 0, slots: [low.slot, high.slot] }];
    const edit = {
      kind: 'swatches',
      swatches: withRamp([swatch('New', '#5577aa', '#aa5555')], 0, 5),
    } as Partial<FaceEdit>;
    const { model: after, reports } = changed(again(model), [edit], groups);
    expect(after.slots.map((slot) => slot.name).sort()).toEqual(['New +2', 'New −2']);
    expect(reports[0].faults).toEqual([]);
  });
});

describe('mapping onto a strip', () => {
  /** A bar along x, four long sides and two ends, sharp edges. */
  const bar = (length: number, side: number): PartSpec => {
    const out: PartSpec = { positions: [], uvs: [], indices: [], slot: 'Wall' };
    const face = (o: number[], u: number[], v: number[]) => {
      const at = out.positions.length / 3;
      for (const [a, b] of [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ])
        out.positions.push(...[0, 1, 2].map((k) => o[k] + a * u[k] + b * v[k]));
      out.uvs?.push(0, 0, 0, 0, 0, 0, 0, 0);
      out.indices?.push(at, at + 1, at + 2, at, at + 2, at + 3);
    };
    const [l, s] = [length, side];
    face([0, 0, s], [l, 0, 0], [0, s, 0]);
    face([l, 0, 0], [-l, 0, 0], [0, s, 0]);
    face([0, s, s], [l, 0, 0], [0, 0, -s]);
    face([0, 0, 0], [l, 0, 0], [0, 0, s]);
    return out;
  };
  test('every long side takes the whole height, in proportion; the upper edge is above', () => {
    const model = changed(buildModel([{ name: 'Wall' }], [bar(8, 0.05)]), [
      { kind: 'strip', top: 0.25, bottom: 0.5 } as Partial<FaceEdit>,
    ]);
    const [part] = model.model.parts;
    const corners = cornersOf(part);
    // 16 of 64 texels are 0.05 m high, so 8 m are 2 560 texels of 256: ten repeats.
    for (let f = 0; f < 8; f++) {
      const three = corners.slice(f * 3, f * 3 + 3);
      const us = three.map((c) => c.uv?.[0] as number);
      const vs = three.map((c) => c.uv?.[1] as number);
      expect([Math.min(...us), Math.max(...us), Math.min(...vs), Math.max(...vs)]).toEqual(
        [0, 10, 0.25, 0.5].map((v) => expect.closeTo(v, 5)),
      );
    }
    for (const corner of corners.slice(0, 12)) expect(corner.uv?.[1]).toBeCloseTo(corner.at[1] > 0.01 ? 0.25 : 0.5, 5);
    expect(model.reports[0]).toMatchObject({ faces: 8, said: '4 pieces, 4 straightened; 0.05 m wide', faults: [] });
  });
  test('a strip as high as the pieces are wide is told where metres a repeat say it; with it nothing is stretched', () => {
    const laid = (more: object) =>
      changed(buildModel([{ name: 'Wall' }], [bar(8, 0.05)]), [
        { kind: 'strip', top: 0.25, fit: 'metres', amount: 2, ...more } as Partial<FaceEdit>,
      ]);
    // 2 m are 256 texels, so 0.05 m are 6.4 of the 64 that the picture is high.
    const { bottom } = laid({ bottom: 1 }).reports[0];
    expect(bottom).toBeCloseTo(0.25 + 6.4 / 64, 6);
    const [part] = laid({ bottom }).model.parts;
    const corners = cornersOf(part).slice(0, 6);
    const texels = (i: number, j: number) =>
      Math.hypot(
        ((corners[i].uv?.[0] ?? 0) - (corners[j].uv?.[0] ?? 0)) * 256,
        ((corners[i].uv?.[1] ?? 0) - (corners[j].uv?.[1] ?? 0)) * 64,
      );
    const metres = (i: number, j: number) => Math.hypot(...[0, 1, 2].map((k) => corners[i].at[k] - corners[j].at[k]));
    for (const [i, j] of [
      [0, 1],
      [1, 2],
      [0, 2],
    ])
      expect(texels(i, j) / metres(i, j)).toBeCloseTo(128, 3);
    expect(laid({ bottom: 1, fit: 'proportion' }).reports[0].bottom).toBeUndefined();
  });
  test('faces are laid on a slot that is to come, in the proportion that its picture will have', () => {
    const model = buildModel([{ name: 'Wall' }], [bar(8, 0.05)]);
    const decisions = FaceDecisions.parse({
      groups: [{ id: 'g', name: 'All', hue: 0, slots: ['Wall'] }],
      edits: [{ id: 'e', kind: 'strip', groups: ['g'], slot: 'Kerb', top: 0.25, bottom: 0.5 }],
      coming: [
        { slot: 'Kerb', colour: '#ff0000', width: 512, height: 64 },
        { slot: 'Never', width: 1, height: 1 },
      ],
    });
    expect(facesInForce(decisions).coming.map((c) => c.slot)).toEqual(['Kerb']);
    const { reports } = applyFaceEdits(model, decisions, AROUND);
    expect(reports[0].failed).toBe(false);
    const read = again(model);
    expect(read.slots.map((slot) => [slot.name, slot.look.baseColorFactor, slot.look.metallicFactor])).toEqual([
      ['Kerb', [1, 0, 0, 1], 0],
    ]);
    // 16 texels are 0.05 m, 8 m are 2 560 texels: five repeats of 512.
    const us = cornersOf(read.parts[0]).map((c) => c.uv?.[0] as number);
    expect(Math.max(...us) - Math.min(...us)).toBeCloseTo(5, 5);
    // A slot of that name in another model goes before it.
    const other = buildModel([{ name: 'Wall' }], [bar(8, 0.05)]);
    const elsewhere = (name: string) => other.document.createMaterial(name).setBaseColorFactor([0, 1, 0, 1]);
    applyFaceEdits(other, decisions, { ...AROUND, elsewhere });
    expect(again(other).slots.map((slot) => [slot.name, slot.look.baseColorFactor])).toEqual([['Kerb', [0, 1, 0, 1]]]);
  });
  test('around a corner the strip goes on: lengths along it are those of the surface', () => {
    // A frame of mitred quads: 3 m along x, then 2 m down along z, 0.2 m wide.
    const inner = [
      [0, 0],
      [3, 0],
      [3, 2],
    ];
    const outer = [
      [0, -0.2],
      [3.2, -0.2],
      [3.2, 2],
    ];
    const spec = grid(2, 1, (u, v) => [(v ? outer : inner)[u][0], 0, (v ? outer : inner)[u][1]]);
    const { model } = changed(buildModel([{ name: 'Wall' }], [spec]), [
      { kind: 'strip', fit: 'metres', amount: 1 } as Partial<FaceEdit>,
    ]);
    const us = cornersOf(model.parts[0]).map((c) => c.uv?.[0] as number);
    // Inner and outer lengths in the mean: 3.1 and 2.1 m.
    expect([...new Set(us.map((u) => u.toFixed(3)))].sort()).toEqual(['0.000', '3.100', '5.200']);
  });
  test('mirrored ends: both ends show the same texels, and nothing jumps in between', () => {
    const spec = grid(4, 1, (u, v) => [u, v * 0.5, 0]);
    const { model, reports } = changed(buildModel([{ name: 'Wall' }], [spec]), [
      { kind: 'strip', ends: 'mirrored', fit: 'metres', amount: 2 } as Partial<FaceEdit>,
    ]);
    for (const c of cornersOf(model.parts[0])) expect(c.uv?.[0]).toBeCloseTo(Math.min(c.at[0], 4 - c.at[0]) / 2, 5);
    expect(reports[0].faults).toEqual([]);
    const odd = changed(buildModel([{ name: 'Wall' }], [grid(1, 1, (u, v) => [u, v * 0.5, 0])]), [
      { kind: 'strip', ends: 'mirrored' } as Partial<FaceEdit>,
    ]);
    expect(odd.reports[0].faults[0]).toMatch(/cannot end mirrored/);
  });
  test('any bent row of quads: rows keep their height exactly, nothing is turned over', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 99 }), (n, seed) => {
        const r = numbers(seed);
        const turns = Array.from({ length: n + 1 }, () => (r() - 0.5) * 0.5);
        const path: [number, number][] = [[0, 0]];
        let angle = 0;
        for (let i = 0; i < n; i++) {
          angle += turns[i];
          path.push([path[i][0] + Math.cos(angle), path[i][1] + Math.sin(angle)]);
        }
        const spec = grid(n, 1, (u, v) => [path[u][0], v * 0.4, -path[u][1]]);
        const { model } = changed(buildModel([{ name: 'Wall' }], [spec]), [
          { kind: 'strip', bend: 180, fit: 'metres', amount: 1 } as Partial<FaceEdit>,
        ]);
        for (const c of cornersOf(model.parts[0])) {
          expect(c.uv?.[1]).toBeCloseTo(c.at[1] > 0.2 ? 0 : 1, 5);
        }
        const us = cornersOf(model.parts[0]).map((c) => c.uv?.[0] as number);
        expect(Math.max(...us) - Math.min(...us)).toBeCloseTo(n, 4);
      }),
      { numRuns: runs(25) },
    );
  });
});

describe('cells', () => {
  const floor = (n: number) => grid(n, n, (u, v) => [u, 0, -v]);
  test('every quad shows its whole texture, shares come out to the face, and the seed decides', () => {
    const mix = [
      { slot: 'Slab', share: 9 },
      { slot: 'Cracked', share: 1 },
    ];
    const run = (seed: number) =>
      changed(buildModel([{ name: 'Wall' }, { name: 'Slab' }, { name: 'Cracked' }], [floor(10)]), [
        { kind: 'cells', mix, turns: 'quarter', seed } as Partial<FaceEdit>,
      ]);
    const { model, reports } = run(4);
    const faces = new Map(model.parts.map((part) => [model.slots[part.slot].name, part.indices.length / 3]));
    expect(faces).toEqual(
      new Map([
        ['Slab', 180],
        ['Cracked', 20],
      ]),
    );
    expect(reports[0].said).toBe('100 quads, 0 single triangles: Slab 90, Cracked 10');
    for (const part of model.parts) {
      const corners = cornersOf(part);
      for (let q = 0; q < corners.length; q += 6) {
        const uvs = new Set(corners.slice(q, q + 6).map((x) => x.uv?.join()));
        expect(uvs).toEqual(new Set(['0,0', '1,0', '0,1', '1,1']));
      }
    }
    const text = (model: Model) => JSON.stringify(model.parts.map((part) => cornersOf(part)));
    expect(text(run(4).model)).toBe(text(model));
    expect(text(run(5).model)).not.toBe(text(model));
  });
  test('a transition lies with its lower edge where another group, or nothing, begins; elsewhere is the mix', () => {
    const n = 4;
    // Columns of quads from the left; the last one is the other group.
    const faces = (columns: number[]) =>
      Array.from({ length: n * n * 2 }, (_, f) => f).filter((f) => columns.includes(Math.floor(f / 2) % n));
    const groups = (columns: number[]) => [
      { id: 'g', name: 'Paving', hue: 0, faces: { m: { 0: faceText(faces(columns)) } } },
      { id: 'b', name: 'Gravel', hue: 0, slots: ['Wall'] },
    ];
    const run = (to: string | null, columns = [0, 1, 2]) => {
      const model = buildModel([{ name: 'Wall' }, { name: 'Slab' }, { name: 'Edge' }], [floor(n)]);
      model.path = 'm';
      const edit = { kind: 'cells', mix: [{ slot: 'Slab', share: 1 }], turns: 'quarter', edge: { slot: 'Edge', to } };
      return changed(model, [edit as Partial<FaceEdit>], groups(columns));
    };
    const edgeCorners = (model: Model) =>
      model.parts.filter((part) => model.slots[part.slot].name === 'Edge').flatMap((part) => cornersOf(part));
    const at = run('b');
    expect(at.reports[0].said).toBe('12 quads, 0 single triangles: Slab 8, Edge 4');
    for (const corner of edgeCorners(at.model)) {
      expect(corner.at[0]).toBeGreaterThanOrEqual(2);
      expect(corner.uv?.[1]).toBe(corner.at[0] === 3 ? 1 : 0);
    }
    // All four columns: the surface ends all around.
    const open = run(null, [0, 1, 2, 3]);
    expect(open.reports[0].said).toBe('16 quads, 0 single triangles: Slab 4, Edge 12');
    const corners = edgeCorners(open.model);
    for (let q = 0; q < corners.length; q += 6) {
      const low = corners.slice(q, q + 6).filter((corner) => corner.uv?.[1] === 1);
      const line = [0, 2].some((k) => [0, n, -n].some((v) => low.every((c) => Math.abs(c.at[k] - v) < 1e-6)));
      expect(line).toBe(true);
    }
    // A floor that borders on the other group alone, and is called with the end of the surface: three sides of it.
    expect(run(null).reports[0].said).toBe('12 quads, 0 single triangles: Slab 4, Edge 8');
  });
  test('without UVs floors look along −z, walls stand upright; turned nowhere unless asked for', () => {
    const wall = grid(2, 2, (u, v) => [u, v, 0]);
    for (const [spec, up] of [
      [floor(2), (at: number[]) => -at[2]],
      [wall, (at: number[]) => at[1]],
    ] as const) {
      const { uvs: _, ...bare } = spec;
      const { model } = changed(buildModel([{ name: 'Wall' }], [bare]), [
        { kind: 'cells', mix: [{ slot: 'Wall', share: 1 }] } as Partial<FaceEdit>,
      ]);
      const corners = cornersOf(model.parts[0]);
      for (let q = 0; q < corners.length; q += 6) {
        const low = [0, 1].map((k) => Math.min(...corners.slice(q, q + 6).map((x) => (k === 0 ? x.at[0] : up(x.at)))));
        for (const x of corners.slice(q, q + 6)) expect(x.uv).toEqual([x.at[0] - low[0], 1 - (up(x.at) - low[1])]);
      }
    }
  });
  test('in proportion: a face twice as wide as its texture asks takes half the height', () => {
    const spec = grid(1, 1, (u, v) => [u * 8, v, 0]);
    const { model } = changed(buildModel([{ name: 'Wall' }], [spec]), [
      { kind: 'cells', mix: [{ slot: 'Wall', share: 1 }], fit: 'proportion' } as Partial<FaceEdit>,
    ]);
    const vs = cornersOf(model.parts[0]).map((c) => c.uv?.[1] as number);
    expect([Math.min(...vs), Math.max(...vs)]).toEqual([0.25, 0.75]);
  });
});

describe('textures that are laid otherwise', () => {
  /** A slot whose texture is moved, turned and scaled, and reads the second UV set. */
  const laidOtherwise = (model: Model) => {
    const [material] = model.document.getRoot().listMaterials();
    const transform = model.document
      .createExtension(KHRTextureTransform)
      .createTransform()
      .setOffset([0.3, -0.2])
      .setRotation(0.7)
      .setScale([2, -0.5]);
    material.getBaseColorTextureInfo()?.setTexCoord(1).setExtension('KHR_texture_transform', transform);
    return again(model);
  };
  const spec = () => ({ ...grid(4, 3, (u, v) => [u, 0.02 * u * u, -v]), uvs1: grid(4, 3, () => [0, 0, 0]).uvs });
  const build = () => buildModel([{ name: 'Wall', baseColor: 'w' }], [spec()]);
  const shown = ({ model }: { model: Model }) => {
    const [part] = model.parts;
    const use = model.slots[part.slot].look.baseColor as TextureUse;
    const xy = layoutCoordinates(part, use, [1, 1]);
    return Array.from(part.indices, (v) => [xy[2 * v], xy[2 * v + 1]]);
  };
  test.each([
    { kind: 'strip', top: 0.25, bottom: 0.5, straight: true },
    { kind: 'cells', mix: [{ slot: 'Wall', share: 1 }], turns: 'quarter', seed: 3 },
    { kind: 'project', set: 1, repeat: 0.7 },
  ])('$kind: faces show the same as where UVs are places on the texture', (edit) => {
    const plain = changed(build(), [{ ...edit, set: 0 } as Partial<FaceEdit>]);
    const other = changed(laidOtherwise(build()), [edit as Partial<FaceEdit>]);
    expect(other.reports).toEqual(plain.reports);
    const [a, b] = [shown(plain), shown(other)];
    expect(a).toHaveLength(72);
    expect(b).toEqual(a.map((p) => p.map((v) => expect.closeTo(v, 5))));
    // The first set is none of its business.
    expect(cornersOf(other.model.parts[0])).toEqual(cornersOf(laidOtherwise(build()).parts[0]));
  });
  test('maps of one set that are laid in different ways are refused by name, and the faces stay', () => {
    const model = build();
    const { document } = model;
    const [material] = document.getRoot().listMaterials();
    material.setNormalTexture(material.getBaseColorTexture());
    const twice = document.createExtension(KHRTextureTransform).createTransform().setScale([2, 2]);
    material.getNormalTextureInfo()?.setExtension('KHR_texture_transform', twice);
    const before = cornersOf(again(model).parts[0]);
    const { model: after, reports } = changed(again(model), [
      { kind: 'strip', top: 0, bottom: 0.5 } as Partial<FaceEdit>,
    ]);
    expect(reports[0]).toMatchObject({ failed: true, faults: ['"Wall" has maps that are laid in different ways'] });
    expect(cornersOf(after.parts[0])).toEqual(before);
    // Of a set that they do not read it is no matter.
    const { reports: second } = changed(again(model), [{ kind: 'project', set: 1 } as Partial<FaceEdit>]);
    expect(second[0]).toMatchObject({ failed: false, faults: [] });
  });
});

describe('UVs by hand', () => {
  test('move, turn, scale: exact about the middle of each island', () => {
    const model = buildModel([{ name: 'Wall' }], [{ ...quad(0, 0, 1, 1, 0.25, 0.25, 0.5, 0.25), slot: 'Wall' }]);
    const { model: after } = changed(model, [{ kind: 'move', turn: 90, u: 1, scaleU: 2 } as Partial<FaceEdit>]);
    const uvs = cornersOf(after.parts[0]).map((c) => c.uv);
    expect([Math.min(...uvs.map((uv) => uv?.[0] as number)), Math.max(...uvs.map((uv) => uv?.[1] as number))]).toEqual([
      1.375, 0.875,
    ]);
  });
  test('four quarter turns are nothing; there and back is nothing', () => {
    const model = buildModel([{ name: 'Wall' }], [grid(3, 2, (u, v) => [u, v, 0])]);
    const before = cornersOf(model.parts[0]);
    const turn = { kind: 'move', turn: 90, about: 'all' } as Partial<FaceEdit>;
    const { model: after } = changed(model, [turn, turn, turn, turn]);
    cornersOf(after.parts[0]).forEach((c, i) => {
      for (const k of [0, 1]) expect(c.uv?.[k]).toBeCloseTo(before[i].uv?.[k] as number, 6);
    });
  });
  test('without UVs it says so', () => {
    const { uvs: _, ...bare } = grid(1, 1, (u, v) => [u, v, 0]);
    const { reports, origins } = changed(buildModel([{ name: 'Wall' }], [bare]), [
      { kind: 'relax' } as Partial<FaceEdit>,
    ]);
    expect(reports).toEqual([
      {
        edit: 'e0',
        faces: 2,
        said: 'not done',
        faults: ['faces of "part 0" have no UV set 0; unwrap or project them first'],
        failed: true,
      },
    ]);
    expect(origins).toBeNull();
  });
  test('relaxing a sheet whose UVs were pushed about brings lengths back, in place', () => {
    const r = numbers(9);
    const spec = grid(8, 8, (u, v) => [u, v, 0]);
    spec.uvs = spec.uvs?.map((x) => x + (r() - 0.5) * 0.05);
    const { model, reports } = changed(
      buildModel([{ name: 'Wall' }], [spec]),
      [{ kind: 'relax', rounds: 100 } as Partial<FaceEdit>],
      undefined,
      { ...AROUND, picture: () => [64, 64] },
    );
    expect(reports[0].said).toMatch(/^1 island; stretch 1\.\d+ → 1\.000$/);
    for (const c of cornersOf(model.parts[0])) {
      expect(c.uv?.[0]).toBeCloseTo(c.at[0] / 8, 1);
      expect(c.uv?.[1]).toBeCloseTo(1 - c.at[1] / 8, 1);
    }
  });
  test('a sheet torn into its quads is sewn to one island again; a tube is not closed over itself', () => {
    const r = numbers(3);
    /** Every quad its own island, moved, turned and scaled. */
    const torn = (spec: PartSpec): PartSpec => {
      const out: PartSpec = { positions: [], uvs: [], indices: [], slot: 'Wall' };
      const index = spec.indices as number[];
      for (let q = 0; q < index.length; q += 6) {
        const [a, s, mx, my] = [r() * 6, 0.5 + r(), r() * 5, r() * 5];
        for (const v of index.slice(q, q + 6)) {
          out.indices?.push(out.positions.length / 3);
          out.positions.push(...spec.positions.slice(v * 3, v * 3 + 3));
          const [x, y] = [(spec.uvs as number[])[2 * v], (spec.uvs as number[])[2 * v + 1]];
          out.uvs?.push(mx + s * (x * Math.cos(a) - y * Math.sin(a)), my + s * (x * Math.sin(a) + y * Math.cos(a)));
        }
      }
      return out;
    };
    const flat = changed(buildModel([{ name: 'Wall' }], [torn(grid(5, 4, (u, v) => [u, v, 0]))]), [
      { kind: 'join' } as Partial<FaceEdit>,
    ]);
    expect(flat.reports[0].said).toBe('20 → 1 island');
    const corners = cornersOf(flat.model.parts[0]);
    // As far apart everywhere as on the surface, up to one scale (the sheet was 5 by 4, its UVs square).
    const size = (i: number, j: number, of: 'at' | 'uv') => {
      const [p, q] = [corners[i][of] as number[], corners[j][of] as number[]];
      return Math.hypot((p[0] - q[0]) / (of === 'at' ? 5 : 1), (p[1] - q[1]) / (of === 'at' ? 4 : 1));
    };
    const k = size(0, 1, 'uv') / size(0, 1, 'at');
    for (let i = 0; i < corners.length; i += 7)
      for (let j = 0; j < corners.length; j += 11) expect(size(i, j, 'uv')).toBeCloseTo(k * size(i, j, 'at'), 4);
    const tube = changed(
      buildModel(
        [{ name: 'Wall' }],
        [torn(grid(8, 2, (u, v) => [Math.cos((u * Math.PI) / 4), v, -Math.sin((u * Math.PI) / 4)]))],
      ),
      [{ kind: 'join' } as Partial<FaceEdit>],
    );
    const shapes = cornersOf(tube.model.parts[0]).flatMap((x) => x.uv as number[]);
    expect(tube.reports[0].said).toMatch(/^16 → 1 island/);
    // Nothing over anything: triangles without a corner in common are apart.
    for (let i = 0; i < shapes.length; i += 6)
      for (let j = i + 6; j < shapes.length; j += 6) {
        const [a, b] = [shapes.slice(i, i + 6), shapes.slice(j, j + 6)];
        const near = [0, 2, 4].some((p) => [0, 2, 4].some((q) => Math.hypot(a[p] - b[q], a[p + 1] - b[q + 1]) < 1e-5));
        if (!near) expect(shapeDistance(Float64Array.from(a), Float64Array.from(b))).toBeGreaterThan(0);
      }
  });
});

describe('new UVs', () => {
  test('unwrapping one group leaves the UVs of the others, to the bit', () => {
    const model = buildModel([{ name: 'Wall' }], [grid(6, 6, (u, v) => [u, Math.sin(u) * Math.cos(v), -v])]);
    const before = cornersOf(model.parts[0]);
    const { model: after, origins } = changed(
      model,
      [{ kind: 'unwrap' } as Partial<FaceEdit>],
      [{ id: 'g', name: 'G', hue: 0, faces: { 'test.glb': { 0: '0-35' } } }],
    );
    expect(origins).toEqual([[{ part: 0, faces: '0-71' }]]);
    const corners = cornersOf(after.parts[0]);
    expect(corners.slice(108)).toEqual(before.slice(108));
    expect(corners.slice(0, 108)).not.toEqual(before.slice(0, 108));
    for (const x of corners.slice(0, 108)) for (const v of x.uv as number[]) expect(v >= 0 && v <= 1).toBe(true);
  });
  test('a second set leaves the first alone, and makes it where it was not', () => {
    const { uvs: _, ...bare } = grid(3, 3, (u, v) => [u, v, 0]);
    const { model } = changed(buildModel([{ name: 'Wall' }], [bare]), [
      { kind: 'unwrap', set: 1, together: true, size: 64, margin: 2 } as Partial<FaceEdit>,
    ]);
    expect(model.parts[0].uvs[0]?.every((v) => v === 0)).toBe(true);
    expect(new Set(model.parts[0].uvs[1]).size).toBeGreaterThan(3);
  });
  test('box projection: metres by repeats on every side, and neighbours go on', () => {
    const model = buildModel([{ name: 'Wall' }], [{ ...grid(2, 2, (u, v) => [u, v, 0]), scale: [3, 3, 3] }]);
    const { model: after } = changed(model, [{ kind: 'project', repeat: 1.5 } as Partial<FaceEdit>]);
    for (const c of cornersOf(after.parts[0]))
      expect(c.uv).toEqual([c.at[0] * 2, -c.at[1] * 2].map((v) => expect.closeTo(v, 5)));
  });
  test('UV tiles apart: a slot each, in 0–1', () => {
    const spec = {
      positions: [...quad(0, 0, 1, 1, 0, 0, 1, 1).positions, ...quad(2, 0, 1, 1, 0, 0, 1, 1).positions],
      uvs: [...quad(0, 0, 1, 1, 0, 0, 1, 1).uvs, ...quad(0, 0, 1, 1, 1, -1, 1, 1).uvs],
      indices: [0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7],
      slot: 'Wall',
    };
    const { model } = changed(buildModel([{ name: 'Wall', baseColor: 'a' }], [spec]), [
      { kind: 'tiles' } as Partial<FaceEdit>,
    ]);
    expect(model.parts.map((part) => model.slots[part.slot].name)).toEqual(['Wall_1001', 'Wall_1012']);
    for (const part of model.parts) expect([...new Set(part.uvs[0])].sort()).toEqual([0, 1]);
  });
});
