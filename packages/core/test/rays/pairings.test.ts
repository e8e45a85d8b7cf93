import { expect, test } from 'vitest';
import { PairingDecision, RayDecisions } from '../../src/decisions/ray-decisions.ts';
import { objectBox } from '../../src/rays/pairing/object-facts.ts';
import {
  bySheet,
  pairByNames,
  pairByPlace,
  readName,
  sheetOf,
  splitByWeight,
} from '../../src/rays/pairing/pairings.ts';
import { sceneObjects } from '../../src/rays/target/scene-objects.ts';
import { numbers } from '../build.ts';
import { cube, model, sphere } from './scenes.ts';

const { endings } = RayDecisions.parse({});

test.each([
  ['post_high', 'post', 'high'],
  ['Post_High', 'post', 'high'],
  ['post_low', 'post', 'low'],
  ['post_high.001', 'post', 'high'],
  ['post_high bolts', 'post', 'high'],
  ['post_high_2', 'post', 'high'],
  ['post_hp', 'post', 'high'],
  ['high_post_low', 'high_post', 'low'],
  ['wheel high', 'wheel', 'high'],
])('%s is %s, %s', (name, stem, kind) => {
  expect(readName(name, endings)).toEqual({ stem, kind });
});

test.each(['post', 'highway', 'post_highest', '_high', 'slowly'])('%s says nothing', (name) => {
  expect(readName(name, endings)).toBeNull();
});

test('several high-polys to one low-poly; what found no partner is listed', () => {
  const shape = cube(1);
  const objects = sceneObjects([
    model('a.glb', {
      post_high: shape,
      'post_high bolts': shape,
      post_low: shape,
      sign_high: shape,
      rail_low: shape,
      tree: shape,
    }),
  ]);
  const found = pairByNames(objects, endings);
  expect(
    found.pairings.map((pairing) => [
      pairing.name,
      pairing.high.map((object) => object.name),
      pairing.low.map((object) => object.name),
    ]),
  ).toEqual([['post', ['post_high', 'post_high bolts'], ['post_low']]]);
  expect(found.aloneHigh.map((objectRef) => objectRef.name)).toEqual(['sign_high']);
  expect(found.aloneLow.map((objectRef) => objectRef.name)).toEqual(['rail_low']);
});

test('files tell where names do not, and several lists of endings hold at once', () => {
  const shape = cube(1);
  const models = [model('x/post_high.glb', { shell: shape, bolts: shape }), model('x/post_low.glb', { shell: shape })];
  expect(pairByNames(sceneObjects(models), endings).pairings[0]).toMatchObject({
    name: 'post',
    high: [{ name: 'bolts' }, { name: 'shell' }],
    low: [{ name: 'shell' }],
  });
  // Namesakes in both belong together, each with its own; with a part that has none, all stay one.
  const boxes = (high: object) => [
    model('box_high.glb', high as never),
    model('box_low.glb', { lid: shape, Body: shape }),
  ];
  const names = (high: object) =>
    pairByNames(sceneObjects(boxes(high)), endings).pairings.map(({ name, high, low }) => [
      name,
      high.length,
      low.length,
    ]);
  expect(names({ lid: shape, body: shape })).toEqual([
    ['body', 1, 1],
    ['lid', 1, 1],
  ]);
  expect(names({ lid: shape, body: shape, bolts: shape })).toEqual([['box', 3, 2]]);
  const own = { high: ['.detail', '_hp'], low: ['.game'] };
  const mixed = [model('a.glb', { 'cart.detail': shape, 'cart.game': shape, wheel_hp: shape, 'wheel.game': shape })];
  expect(pairByNames(sceneObjects(mixed), own).pairings.map((pairing) => pairing.name)).toEqual(['cart', 'wheel']);
});

test('by place: the way is found, and a given one is taken', () => {
  const shapes = (dx: number) => ({
    a: { shape: cube(0.5), at: [0, 0, 0] as [number, number, number] },
    b: { shape: cube(0.3), at: [2, 0, 1] as [number, number, number] },
    'a detailed': { shape: sphere(0.52, 12), at: [dx, 0, 0] as [number, number, number] },
    'b detailed': { shape: sphere(0.31, 12), at: [2 + dx, 0, 1] as [number, number, number] },
    stray: { shape: sphere(0.1, 12), at: [50, 0, 0] as [number, number, number] },
  });
  const models = [model('a.glb', shapes(10))];
  const objects = sceneObjects(models);
  const boxes = new Map(objects.map((object) => [object, objectBox(models[0], object)]));
  const weight = (sceneObject: (typeof objects)[number]) =>
    sceneObject.parts.reduce((sum, id) => sum + models[0].parts[id].indices.length / 3, 0);
  const { high, low } = splitByWeight(objects, weight);
  expect(low.map((sceneObject) => sceneObject.name)).toEqual(['a', 'b']);
  const found = pairByPlace(high, low, boxes);
  expect(found.move?.map((v) => Math.round(v * 1e3) / 1e3)).toEqual([10, 0, 0]);
  expect(found.pairings.map((pairing) => [pairing.name, pairing.high[0].name])).toEqual([
    ['a', 'a detailed'],
    ['b', 'b detailed'],
  ]);
  // Moved back, the high-poly lies on its low-poly.
  expect(found.pairings[0].move[0]).toBeCloseTo(-10, 5);
  expect(found.aloneHigh.map((objectRef) => objectRef.name)).toEqual(['stray']);
  expect(pairByPlace(high, low, boxes, [9.98, 0, 0]).pairings).toHaveLength(2);
  expect(pairByPlace(high, low, boxes, [3, 0, 0]).pairings).toHaveLength(0);
});

test('by place: a bolt goes to the bolt, not to the panel that it sits on, and what could go to two is listed', () => {
  const panel = cube(2);
  const bolt = cube(0.1);
  const fine = sphere(0.1, 6);
  const models = [
    model('a.glb', {
      // The panel comes first, and its box holds the bolts as well.
      'panel low': { shape: panel, at: [0, 0, 0] },
      'bolt low': { shape: bolt, at: [0.5, 0.9, 0] },
      'nut low': { shape: bolt, at: [-0.5, 0.9, 0] },
      'pin low': { shape: bolt, at: [-0.5, 0.91, 0] },
      'panel high': { shape: sphere(2, 6), at: [0, 0, 9] },
      'bolt high': { shape: fine, at: [0.5, 0.9, 9] },
      'nut high': { shape: fine, at: [-0.5, 0.905, 9] },
    }),
  ];
  const objects = sceneObjects(models);
  const boxes = new Map(objects.map((object) => [object, objectBox(models[0], object)]));
  const of = (end: string) => objects.filter((object) => object.name.endsWith(end));
  const found = pairByPlace(of('high'), of('low'), boxes, [0, 0, 9]);
  const partners = Object.fromEntries(
    found.pairings.flatMap((pairing) => pairing.high.map((high) => [high.name, pairing.low[0].name])),
  );
  expect(partners['bolt high']).toBe('bolt low');
  expect(partners['panel high']).toBe('panel low');
  expect(['nut low', 'pin low']).toContain(partners['nut high']);
  expect(found.ambiguous.map(({ high, low }) => [high.name, low.map((one) => one.name).sort()])).toEqual([
    ['nut high', ['nut low', 'pin low']],
  ]);
});

test('by place among hundreds: the one way that all have in common, whatever else stands about', () => {
  const shape = cube(0.4);
  const fine = sphere(0.41, 6);
  const shapes: Record<string, { shape: ReturnType<typeof cube>; at: [number, number, number] }> = {};
  const next = numbers(5);
  for (let i = 0; i < 60; i++) {
    const at: [number, number, number] = [next() * 40, next() * 40, 0];
    shapes[`low ${i}`] = { shape, at };
    shapes[`high ${i}`] = { shape: fine, at: [at[0], at[1], 100] };
  }
  const models = [model('a.glb', shapes)];
  const objects = sceneObjects(models);
  const boxes = new Map(objects.map((object) => [object, objectBox(models[0], object)]));
  const of = (start: string) => objects.filter((object) => object.name.startsWith(start));
  const found = pairByPlace(of('high'), of('low'), boxes);
  expect(found.move?.map(Math.round)).toEqual([0, 0, 100]);
  expect(found.aloneHigh).toEqual([]);
});

test('maps are called like the file of the low-poly unless told otherwise', () => {
  const shape = cube(1);
  const [p] = pairByNames(sceneObjects([model('x/kit.v2.glb', { a_high: shape, a_low: shape })]), endings).pairings;
  expect(sheetOf(p)).toBe('kit.v2');
  const list = [p, { ...p, name: 'b', sheet: 'other' }, { ...p, name: 'c' }];
  expect(bySheet(list).map((s) => [s.name, s.pairings.map((pairing) => pairing.name)])).toEqual([
    ['kit.v2', ['a', 'c']],
    ['other', ['b']],
  ]);
  // A file of the same name in another folder has maps of its own.
  const low = [{ path: 'y/kit.v2.glb', name: 'd' }];
  expect(bySheet([...list, { ...p, name: 'd', low }]).map((s) => s.name)).toEqual(['kit.v2', 'other', 'kit.v2_2']);
  expect(PairingDecision.safeParse({ ...p, sheet: '../up' }).success).toBe(false);
});
