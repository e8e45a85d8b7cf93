import { sign } from '../broken.ts';
import { type Awkward, awkward, DELIVERED, mended, refused } from './entry.ts';
import { GEOMETRY } from './geometry.ts';
import { LOOKS } from './looks.ts';

/** The corpus; every entry fails a test when what it stands for is broken on purpose. */
export const AWKWARD: readonly Awkward[] = [
  ...GEOMETRY,
  ...LOOKS,
  awkward('scene-without-nodes', DELIVERED, (json) => {
    json.scenes = [{ name: 'nothing to see' }];
  }),
  awkward('scene-with-empty-list', mended(/nodes of scene 0: the list is empty/), (json) => {
    json.scenes = [{ nodes: [] }];
  }),
  awkward('no-scenes', DELIVERED, (json) => {
    delete json.scenes;
    delete json.scene;
  }),
  awkward('root-listed-twice', DELIVERED, (json) => {
    json.scenes = [{ nodes: [0, 0] }];
  }),
  awkward('child-listed-twice', refused(/names node \d+ twice among its children/), (json) => {
    const from = json.nodes.length;
    for (let i = 0; i < 40; i++) json.nodes.push(i < 39 ? { children: [from + i + 1, from + i + 1] } : {});
  }),
  awkward('image-name-is-a-number', mended(/1 name is no text/), (json) => {
    json.images[0].name = 44;
  }),
  awkward('names-are-numbers', mended(/3 names are no text/), (json) => {
    json.nodes[0].name = 5;
    json.meshes[0].name = 3;
    json.materials[0].name = 12;
  }),
  awkward('name-is-null', mended(/1 name is no text/), (json) => {
    (json.materials[0] as { name: unknown }).name = null;
  }),
  awkward('name-of-400-characters', DELIVERED, (json) => {
    json.nodes[0].name = 'n'.repeat(400);
    json.materials[0].name = 'm'.repeat(400);
    json.images[0].name = 'i'.repeat(400);
  }),
  awkward('name-of-control-characters', DELIVERED, (json) => {
    json.materials[0].name = '\u0001\u0007\u001b[31m\r\n\u202e';
    json.images[0].name = '../\u0000/..\\con';
  }),
  awkward('name-proto', DELIVERED, (json) => {
    json.materials[0].name = '__proto__';
    json.nodes[0].name = 'constructor';
    json.images[0].name = '__proto__';
  }),
  awkward('names-in-three-scripts', DELIVERED, (json) => {
    json.nodes[0].name = 'Шильд';
    json.materials[0].name = '標識エナメル';
    json.images[0].name = 'لوحة';
  }),
  awkward('normals-of-no-length', mended(/4 normals are no unit vectors/), (_, edit) => {
    edit.floats('NORMAL').fill(0);
  }),
  awkward('normals-too-long', mended(/4 normals are no unit vectors/), (_, edit) => {
    const normals = edit.floats('NORMAL');
    for (let i = 0; i < normals.length; i++) normals[i] *= 2;
  }),
  awkward('extras-everywhere', DELIVERED, (json) => {
    const extras = { note: 'kept', nested: { list: [1, 'two', null] } };
    for (const list of [json.nodes, json.meshes, json.materials, json.images])
      for (const entry of list) (entry as Record<string, unknown>).extras = extras;
    json.extras = extras;
  }),
  awkward('uvs-at-minus-17', DELIVERED, (_, edit) => {
    const uvs = edit.floats('TEXCOORD_0');
    for (let i = 0; i < uvs.length; i++) uvs[i] -= 17;
  }),
  awkward('two-scenes', DELIVERED, (json) => {
    json.nodes.push({ name: 'elsewhere', mesh: 0, translation: [3, 0, 0] });
    json.scenes?.push({ nodes: [json.nodes.length - 1] });
  }),
  { name: 'two-slots-of-one-name.glb', expected: DELIVERED, build: () => sign({ names: ['Paint', 'Paint'] }).glb() },
];
