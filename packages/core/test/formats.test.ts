import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { InputError } from '../src/errors.ts';
import { utf8Bytes } from '../src/formats/gltf/glb.ts';
import { type Imported, type ImportedPart, importedDocument } from '../src/formats/imported.ts';
import { readMtl } from '../src/formats/obj/mtl.ts';
import { materialLibraries, readObj } from '../src/formats/obj/obj.ts';
import { readPly } from '../src/formats/ply/ply.ts';
import { readStl } from '../src/formats/stl.ts';
import { Tokenizer } from '../src/formats/tokenizer.ts';
import { triangulate } from '../src/formats/triangulate.ts';
import { xorshift32 } from '../src/math/random.ts';
import { readModel } from '../src/scene/model.ts';
import { runs, seeds } from './sampling.ts';
import { CUBE_OBJ, plyBinary, plyText, randomMesh, stlBinary, stlText, toObj } from './simple-files.ts';

const obj = (text: string) => readObj('x.obj', utf8Bytes(text), []);

/** Triangles as sorted texts of their corners, so that meshes can be compared whatever their vertices are numbered. */
function triangles(importedPart: ImportedPart, digits = 4): string[] {
  const at = (v: number) =>
    [
      ...importedPart.positions.subarray(v * 3, v * 3 + 3),
      ...(importedPart.uvs ? importedPart.uvs.subarray(v * 2, v * 2 + 2) : []),
    ]
      .map((x) => (x + 0).toFixed(digits).replace(/^-(0\.?0*)$/, '$1'))
      .join(' ');
  const out: string[] = [];
  for (let t = 0; t < importedPart.indices.length; t += 3) {
    const corners = [0, 1, 2].map((k) => at(importedPart.indices[t + k]));
    // The same triangle whichever corner comes first; its direction counts.
    const first = corners.indexOf([...corners].sort()[0]);
    out.push([0, 1, 2].map((k) => corners[(first + k) % 3]).join(' | '));
  }
  return out.sort();
}

describe('reading numbers', () => {
  test('agrees with the language on everything that a file may hold', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
          fc.double({ noNaN: true, min: -1e6, max: 1e6 }).map((v) => v.toFixed(6)),
          fc.integer().map(String),
          fc.constantFrom('1e-3', '+4.5', '-.5', '5.', '0.1', '123456789012345.6', '1E5', '-0'),
        ),
        (text) => {
          expect(new Tokenizer(utf8Bytes(` ${text} 7`)).number()).toBe(Number(text));
        },
      ),
      { numRuns: runs(500) },
    );
  });

  test('what is no number is NaN, and the scan goes on behind it', () => {
    const scan = new Tokenizer(utf8Bytes('abc 2\n'));
    expect(scan.number()).toBeNaN();
    expect(scan.number()).toBe(2);
    expect(scan.number()).toBeNaN();
  });
});

describe('polygons', () => {
  test('a notched polygon keeps its area and its direction in any plane', () => {
    // An L of area 3, seen from +Z, +X and +Y.
    const flat = [0, 0, 2, 0, 2, 1, 1, 1, 1, 2, 0, 2];
    for (const [u, v, w] of [
      [0, 1, 2],
      [1, 2, 0],
      [2, 0, 1],
    ]) {
      const points = new Float64Array(18);
      for (let i = 0; i < 6; i++) {
        points[i * 3 + u] = flat[i * 2];
        points[i * 3 + v] = flat[i * 2 + 1];
        points[i * 3 + w] = 5;
      }
      const t = triangulate(points);
      let area = 0;
      for (let i = 0; i < t.length; i += 3) {
        const p = (k: number) => [points[t[i + k] * 3 + u], points[t[i + k] * 3 + v]];
        const [a, b, c] = [p(0), p(1), p(2)];
        const twice = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]);
        expect(twice).toBeGreaterThan(0);
        area += twice / 2;
      }
      expect(area).toBeCloseTo(3, 9);
      expect(t).toHaveLength(12);
    }
  });

  test('a polygon of twenty thousand corners: a round one keeps its area, one that crosses itself everywhere is a fan', () => {
    const corners = 20_000;
    const polygon = (at: (k: number) => [number, number]) =>
      Float64Array.from(Array.from({ length: corners }, (_, k) => [...at(k), 0]).flat());
    const angle = (k: number) => (2 * Math.PI * k) / corners;
    const round = polygon((k) => [Math.cos(angle(k)), Math.sin(angle(k))]);
    const triangles = triangulate(round);
    let area = 0;
    for (let i = 0; i < triangles.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => triangles[i + k] * 3);
      area +=
        (round[b] - round[a]) * (round[c + 1] - round[a + 1]) - (round[c] - round[a]) * (round[b + 1] - round[a + 1]);
    }
    expect(area / 2).toBeCloseTo((corners / 2) * Math.sin(angle(1)), 9);
    const random = xorshift32(7);
    const crossing = triangulate(polygon(() => [random(), random()]));
    expect(crossing).toHaveLength((corners - 2) * 3);
    expect(crossing.filter((corner) => corner === 0)).toHaveLength(corners - 2);
  });

  test('a convex quad is two triangles over its first corner', () => {
    expect(triangulate(Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0))).toEqual([0, 1, 2, 0, 2, 3]);
  });
});

describe('OBJ', () => {
  test('a cube of quads has 12 triangles and, flat as it is, 24 vertices', () => {
    const [part] = obj(CUBE_OBJ).parts;
    expect(part.indices).toHaveLength(36);
    expect(part.positions).toHaveLength(72);
    // Every normal points straight out.
    for (let v = 0; v < 24; v++) {
      const n = part.normals?.subarray(v * 3, v * 3 + 3) ?? [];
      const p = part.positions.subarray(v * 3, v * 3 + 3);
      expect(n[0] * p[0] + n[1] * p[1] + n[2] * p[2]).toBeCloseTo(0.5, 5);
    }
  });

  test('in one smoothing group it has 8 vertices, whose normals point to the corners', () => {
    const [part] = obj(CUBE_OBJ.replace('# faces', 's 1')).parts;
    expect(part.positions).toHaveLength(24);
    for (let v = 0; v < 8; v++)
      for (let k = 0; k < 3; k++) expect(Math.abs(part.normals?.[v * 3 + k] ?? 0)).toBeCloseTo(1 / Math.sqrt(3), 6);
  });

  test('negative indices count back from where they stand', () => {
    const forward = obj('v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n');
    const backward = obj('v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nf -3/-3 -2/-2 -1/-1\n');
    expect(triangles(backward.parts[0])).toEqual(triangles(forward.parts[0]));
  });

  test('objects, groups and materials make parts; V points down afterwards', () => {
    const read = readObj(
      'x.obj',
      utf8Bytes(
        'mtllib a.mtl\no one\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0.25 0.75\ng left\nusemtl A\nf 1/1 2/1 3/1\nusemtl B\nf 1/1 3/1 2/1\no two\nusemtl A\nf 1/1 2/1 3/1\n',
      ),
      readMtl(utf8Bytes('newmtl A\nKd 0.5 0.25 0\nPm 1\nPr 0.3\n')),
    );
    expect(
      read.parts.map((part) => [part.name, part.material === null ? null : read.materials[part.material].name]),
    ).toEqual([
      ['one', 'A'],
      ['one', 'B'],
      ['two', 'A'],
    ]);
    expect(read.parts[0].uvs?.[1]).toBeCloseTo(0.25, 6);
    expect(read.materials[0]).toMatchObject({ baseColor: [0.5, 0.25, 0, 1], metallic: 1, roughness: 0.3 });
    expect(read.notes.join()).toMatch(/"B"/);
    expect(materialLibraries(utf8Bytes('mtllib one two.mtl\n'))).toEqual(['one two.mtl']);
  });

  test('a line that goes on after a backslash is one line; colours after a position are vertex colours', () => {
    const [part] = obj('v 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 0 1 0 0.5 0 0\nf 1 \\\n2 3\n').parts;
    expect(part.indices).toHaveLength(3);
    expect(part.colors?.[0]).toBe(1);
    expect(part.colors?.[8]).toBeCloseTo(0.214, 3);
  });

  test.each([
    ['v 0 0\n', /line 1: a position is not a finite number/],
    ['v 0 0 nan\n', /not a finite number/],
    ['v 0 0 0\nf 1 2 3\n', /line 2: names position 2, but there are 1/],
    ['v 0 0 0\nv 1 0 0\nf 1 2\n', /a face has 2 corners/],
    ['v 0 0 0\nf 0 1 1\n', /not an index/],
    ['v 0 0 0\nf x 1 1\n', /not an index/],
    ['# nothing\n', /holds no faces/],
  ])('%j gets its sentence', (text, says) => {
    expect(() => obj(text)).toThrow(says);
  });

  test('MTL: maps with options and blanks, highlights as roughness, transparency both ways', () => {
    const [importedMaterial, b] = readMtl(
      utf8Bytes(
        'newmtl a\nNs 98\nd 0.5\nmap_Kd -s 2 3 1 -o 0.5 0.25 -clamp on my wall.png\nnorm n.png\nnewmtl b\nTr 0.25\nmap_Bump -bm 0.5 height.png\n',
      ),
    );
    expect(importedMaterial.roughness).toBeCloseTo(Math.sqrt(2 / 100), 6);
    expect(importedMaterial.baseColor).toEqual([1, 1, 1, 0.5]);
    expect(importedMaterial.maps.baseColor).toEqual({
      file: 'my wall.png',
      scale: [2, 3],
      offset: [0.5, 0.25],
      clamp: true,
    });
    expect(importedMaterial.maps.normal?.file).toBe('n.png');
    expect(b.baseColor[3]).toBe(0.75);
    expect(b.maps.bump?.file).toBe('height.png');
  });
});

describe('PLY and STL', () => {
  test('text and both byte orders read the same', () => {
    const mesh = randomMesh(7, 60);
    const from = [plyText(mesh), plyBinary(mesh, true), plyBinary(mesh, false)].map(
      (b) => readPly('x.ply', b).parts[0],
    );
    expect(triangles(from[1])).toEqual(triangles(from[0]));
    expect(triangles(from[2])).toEqual(triangles(from[0]));
    expect(from[1].colors).toEqual(from[2].colors);
  });

  test('colours are taken as sRGB; UVs at face corners split vertices; points alone are refused', () => {
    const head = 'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n';
    const coloured = readPly(
      'x',
      utf8Bytes(
        `${head}property uchar red\nproperty uchar green\nproperty uchar blue\nelement face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0 255 188 0\n1 0 0 255 188 0\n0 1 0 255 188 0\n3 0 1 2\n`,
      ),
    ).parts[0];
    expect(coloured.colors?.[1]).toBeCloseTo(0.5029, 3);
    const wedges = readPly(
      'x',
      utf8Bytes(
        `${head}element face 2\nproperty list uchar int vertex_indices\nproperty list uchar float texcoord\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2 6 0 0 1 0 0 1\n3 0 2 1 6 0.5 0.5 0 1 1 0\n`,
      ),
    ).parts[0];
    expect(wedges.positions.length / 3).toBe(4);
    expect(() => readPly('x', utf8Bytes(`${head}end_header\n0 0 0\n0 0 0\n0 0 0\n`))).toThrow(/points only/);
  });

  test('both kinds of STL read the same; a flat cube has 24 vertices; missing normals are made', () => {
    const mesh = randomMesh(3, 40);
    const [text, binary] = [stlText(mesh), stlBinary(mesh)].map((b) => readStl('x.stl', b).parts[0]);
    expect(triangles(text)).toEqual(triangles(binary));
    const cube = obj(CUBE_OBJ).parts[0];
    const asMesh = { positions: cube.positions, indices: cube.indices, uvs: null };
    for (const bytes of [stlText(asMesh), stlBinary(asMesh), stlBinary(asMesh, true)]) {
      const part = readStl('x.stl', bytes).parts[0];
      expect(part.positions).toHaveLength(72);
      expect(Math.max(...(part.normals ?? []))).toBeCloseTo(1, 5);
    }
  });

  test.each([
    ['ply\nformat ascii 1.0\n', /header has no end/],
    ['ply\nformat sideways 1.0\nend_header\n', /format "sideways"/],
    ['solid x\nfacet normal 0 0 1\nvertex 0 0 0\nendsolid\n', /cut short|does not begin/],
  ])('%j gets its sentence', (text, says) => {
    const bytes = utf8Bytes(text);
    expect(() => (text.startsWith('ply') ? readPly('x', bytes) : readStl('x', bytes))).toThrow(says);
  });

  test('a binary file that claims more than it holds is refused before memory is taken', () => {
    const ply = utf8Bytes(
      'ply\nformat binary_little_endian 1.0\nelement vertex 50000000\nproperty float x\nproperty float y\nproperty float z\nend_header\n',
    );
    expect(() => readPly('x', ply)).toThrow(/cut short/);
    const stl = new Uint8Array(84);
    new DataView(stl.buffer).setUint32(80, 100_000_000, true);
    expect(() => readStl('x', stl)).toThrow(/claims 100000000 triangles, but holds 0/);
  });
});

test('round trips: any mesh written in any of the formats comes back corner by corner', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 40 }), (seed, count) => {
      const mesh = randomMesh(seed, count);
      const want = triangles({ ...mesh, name: '', material: null, normals: null, colors: null });
      expect(triangles(readObj('x', toObj(mesh), []).parts[0])).toEqual(want);
      for (const bytes of [plyText(mesh), plyBinary(mesh, true), plyBinary(mesh, false)])
        expect(triangles(readPly('x', bytes).parts[0])).toEqual(want);
      const places = triangles({ ...mesh, uvs: null, name: '', material: null, normals: null, colors: null });
      for (const bytes of [stlText(mesh), stlBinary(mesh)])
        expect(triangles(readStl('x', bytes).parts[0])).toEqual(places);
    }),
    { numRuns: runs(60) },
  );
});

test('unit and up axis become the root node: 80 mm along Z of the file are 0.08 m along Y', () => {
  const read: Imported = readStl(
    'x.stl',
    stlBinary({ positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 0, 80), indices: Uint32Array.of(0, 1, 2), uvs: null }),
  );
  const { document } = importedDocument(read, { unit: 0.001, up: 'z' });
  const model = readModel('x.stl', document, () => '');
  const [instance] = model.parts[0].instances;
  const positions = model.parts[0].positions;
  let high = 0;
  for (let v = 0; v < positions.length; v += 3)
    high = Math.max(
      high,
      instance.world[1] * positions[v] + instance.world[5] * positions[v + 1] + instance.world[9] * positions[v + 2],
    );
  expect(high).toBeCloseTo(0.08, 6);
});

/** Damages a file: bytes turned, cut out, doubled, cut off, numbers made absurd. */
function damaged(good: Uint8Array, seed: number): Uint8Array {
  let s = (seed * 2654435761) | 1;
  const next = (n: number) => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) % Math.max(1, n);
  };
  let out = Uint8Array.from(good);
  for (let k = 0; k <= next(4); k++) {
    const at = next(out.length);
    const kind = next(6);
    if (kind === 0) out = out.slice(0, at);
    else if (kind === 1) out[at] = next(256);
    else if (kind === 2) out = Uint8Array.from([...out.subarray(0, at), ...out.subarray(at + next(16))]);
    else if (kind === 3)
      out = Uint8Array.from([...out.subarray(0, at), ...out.subarray(at, at + next(64)), ...out.subarray(at)]);
    else if (kind === 4) out.set(utf8Bytes('99999999').subarray(0, Math.min(8, out.length - at)), at);
    else for (let b = 0; b < 4 && at + b < out.length; b++) out[at + b] = 0xff;
    if (out.length === 0) return out;
  }
  return out;
}

describe('damaged files, 2 000 of each kind where all is tested', () => {
  const mesh = randomMesh(11, 24);
  const mtl = utf8Bytes('newmtl a\nKd 1 0 0\nNs 20\nd 0.5\nmap_Kd -s 1 2 3 a b.png\nnewmtl b\nPr 0.5\nnorm n.png\n');
  test.each([
    ['OBJ', toObj(mesh), (b: Uint8Array) => void readObj('x', b, [])],
    ['MTL', mtl, (b: Uint8Array) => void readMtl(b)],
    ['PLY as text', plyText(mesh), (b: Uint8Array) => void readPly('x', b)],
    ['binary PLY', plyBinary(mesh, true), (b: Uint8Array) => void readPly('x', b)],
    ['STL as text', stlText(mesh), (b: Uint8Array) => void readStl('x', b)],
    ['binary STL', stlBinary(mesh), (b: Uint8Array) => void readStl('x', b)],
  ])('%s: each is read or refused with a sentence', (_, good, read) => {
    let refused = 0;
    for (const seed of seeds(2000))
      try {
        read(damaged(good, seed));
      } catch (error) {
        if (!(error instanceof InputError)) throw new Error(`seed ${seed}: ${(error as Error).stack}`);
        refused++;
      }
    // MTL has nothing that could be refused: what is not understood is left out.
    expect(refused > runs(2000) / 20 || read.toString().includes('readMtl')).toBe(true);
  });
});
