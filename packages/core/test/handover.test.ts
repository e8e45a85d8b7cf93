import type { Document } from '@gltf-transform/core';
import { expect, test } from 'vitest';
import { buildGlb, parseGlb, utf8, utf8Bytes } from '../src/formats/gltf/glb.ts';
import { joinParts } from '../src/handover/join.ts';
import { Names, stem } from '../src/handover/names.ts';
import { readFloats } from '../src/scene/attributes.ts';
import { readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName, quad } from './build.ts';

test('a container holds what was put in, whatever the length', () => {
  for (const text of ['', 'a', 'äöü', '𝛑 and 字'])
    for (const n of [0, 1, 2, 3, 4, 5]) {
      const bin = Uint8Array.from({ length: n }, (_, i) => i + 1);
      const glb = buildGlb({ asset: { version: '2.0' }, text }, bin);
      expect(glb.length % 4).toBe(0);
      const parts = parseGlb('x', glb);
      expect((parts.json as { text: string }).text).toBe(text);
      expect([...(parts.bin as Uint8Array).subarray(0, n)]).toEqual([...bin]);
    }
});

test('text goes to UTF-8 and back as the platform does it', () => {
  const text = 'stop · Halt “Quillmoor” ½ 𝛑';
  expect([...utf8Bytes(text)]).toEqual([...new TextEncoder().encode(text)]);
  expect(utf8(new TextEncoder().encode(text))).toBe(text);
  expect(utf8(Uint8Array.from([0x61, 0xff, 0x62]))).toBe('a\ufffdb');
});

test('names cannot collide, leave the folder or differ by case alone', () => {
  const names = new Names();
  expect([
    names.claim('sign', '.png'),
    names.claim('Sign', '.png'),
    names.claim('../../etc', '.png'),
    names.claim('a/b\\c:d', '.png'),
    names.claim('', '.png'),
    names.claim('schön', '.png'),
  ]).toEqual(['sign.png', 'Sign_2.png', 'etc.png', 'a_b_c_d.png', 'unnamed.png', 'schön.png']);
  expect(stem('folder/my.model.glb')).toBe('my.model');
});

const corner = (slot: string, x: number, more = {}) => ({
  ...quad(0, 0, 1, 1, 0, 0, 1, 1),
  slot,
  translation: [x, 0, 0] as [number, number, number],
  ...more,
});

function triangleNormal(p: Float32Array, indices: ArrayLike<number>, t: number): number {
  const at = (k: number) => [p[indices[t * 3 + k] * 3], p[indices[t * 3 + k] * 3 + 1]];
  const [a, b, c] = [at(0), at(1), at(2)];
  return Math.sign((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]));
}

test('joined parts keep their place, and mirrored ones their front', () => {
  const model = buildModel([{ name: 'a' }], [corner('a', 0), corner('a', 5, { scale: [-2, 1, 1] }), corner('a', 9)]);
  expect(joinParts(model.document, [])).toBe(2);
  const joined = readModel('joined', model.document, imageKeyOfName);
  expect(joined.parts).toHaveLength(1);
  const [part] = joined.parts;
  expect(part.indices.length / 3).toBe(6);
  for (let t = 0; t < 6; t++) expect(triangleNormal(part.positions, part.indices, t)).toBe(1);
  const xs = [...part.positions].filter((_, i) => i % 3 === 0);
  expect([Math.min(...xs), Math.max(...xs)]).toEqual([0, 10]);
  expect(xs).toContain(3);
  expect(part.normals?.filter((_, i) => i % 3 === 2).every((v) => v === 1)).toBe(true);
});

test('what is animated, instanced, named apart or carries properties is left alone', () => {
  const model = buildModel(
    [{ name: 'a' }],
    [0, 1, 2, 3, 4, 5].map((i) => corner('a', i)),
  );
  const d: Document = model.document;
  const nodes = d.getRoot().listNodes();
  const sampler = d.createAnimationSampler();
  d.createAnimation()
    .addSampler(sampler)
    .addChannel(d.createAnimationChannel().setTargetNode(nodes[0]).setTargetPath('translation').setSampler(sampler));
  nodes[1].setExtras({ door: true });
  d.getRoot().listScenes()[0].addChild(d.createNode('again').setMesh(nodes[2].getMesh()));
  expect(joinParts(d, ['node 3'])).toBe(1);
  const left = readModel('joined', d, imageKeyOfName);
  expect(left.parts.reduce((sum, part) => sum + part.instances.length, 0)).toBe(6);
});

test('parts of different slots are not joined, missing vertex colours become white', () => {
  const colors = Array.from({ length: 16 }, (_, i) => (i % 4 === 3 ? 1 : 0.25));
  const model = buildModel(
    [{ name: 'a' }, { name: 'b' }],
    [corner('a', 0, { colors }), corner('a', 2), corner('b', 4)],
  );
  expect(joinParts(model.document, [])).toBe(1);
  const mesh = model.document
    .getRoot()
    .listMeshes()
    .find((mesh) => mesh.getName() === 'joined');
  const color = mesh?.listPrimitives()[0].getAttribute('COLOR_0');
  expect(color && [...readFloats(color)].slice(0, 4)).toEqual([0.25, 0.25, 0.25, 1]);
  expect(color && [...readFloats(color)].slice(16, 20)).toEqual([1, 1, 1, 1]);
});
