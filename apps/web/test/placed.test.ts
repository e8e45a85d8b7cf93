import { BufferGeometry, Color, Float32BufferAttribute, Mesh, MeshBasicMaterial, Texture } from 'three';
import { expect, test, vi } from 'vitest';
import { hideFaces, layerMeshes, type Placed, partGeometry, partLines } from '../src/stage/placed.ts';

// Colours are read by the browser, which is not here.
vi.mock('../src/stage/css-colour.ts', () => ({ cssColour: (style: string) => new Color(style) }));

/** A row of so many separate triangles. */
function placed(part: number, triangles: number, indexed: boolean): Placed {
  const geometry = new BufferGeometry();
  const at = Float32Array.from({ length: triangles * 9 }, (_, i) => i + 100 * part);
  geometry.setAttribute('position', new Float32BufferAttribute(at, 3));
  geometry.setAttribute('uv', new Float32BufferAttribute(new Float32Array(triangles * 6).fill(0.5), 2));
  if (indexed) geometry.setIndex(Array.from({ length: triangles * 3 }, (_, i) => i));
  const mesh = new Mesh(geometry, new MeshBasicMaterial());
  mesh.scale.setScalar(2);
  mesh.updateMatrixWorld();
  return { mesh, part, slot: part, material: mesh.material, meshNumber: 0, node: '', slotName: null, cut: null };
}

const drawnFaces = (p: { mesh: Mesh }) => (p.mesh.geometry.getIndex()?.count as number) / 3;

test.each([true, false])('hidden faces are left out, keep their numbers, and come back (indexed: %s)', (indexed) => {
  const list = [placed(0, 5, indexed), placed(1, 2, indexed)];
  const before = partGeometry(list);
  expect(before.map((partGeometry) => [partGeometry.part, partGeometry.indices.length, partGeometry.scale])).toEqual([
    [0, 15, 2],
    [1, 6, 2],
  ]);
  const whole = list.map((placed) => placed.mesh.geometry);
  hideFaces(
    list,
    new Map<number, Uint32Array | 'all'>([
      [0, Uint32Array.of(1, 3)],
      [1, 'all'],
    ]),
  );
  expect([drawnFaces(list[0]), drawnFaces(list[1])]).toEqual([3, 0]);
  expect([...(list[0].cut?.shown ?? [])]).toEqual([0, 2, 4]);
  // What may be asked of a model is all of it.
  expect(partGeometry(list)).toEqual(before);
  hideFaces(list, new Map([[0, Uint32Array.of(0)]]));
  expect([...(list[0].cut?.shown ?? [])]).toEqual([1, 2, 3, 4]);
  hideFaces(list, null);
  expect(list.map((placed) => [placed.mesh.geometry, placed.cut])).toEqual(whole.map((geometry) => [geometry, null]));
});

test('UVs are those that the picture of the slot is read with: its set, moved, turned and scaled as it is', () => {
  const p = placed(0, 1, true);
  p.mesh.geometry.setAttribute('uv1', new Float32BufferAttribute([0, 0, 1, 0, 0, 1], 2));
  const uv = () => [...(partGeometry([p])[0].uv as Float32Array)];
  expect(uv()).toEqual([0.5, 0.5, 0.5, 0.5, 0.5, 0.5]);
  const map = new Texture();
  map.channel = 1;
  map.repeat.set(2, 3);
  map.offset.set(0.25, 0.5);
  (p.material as MeshBasicMaterial).map = map;
  expect(uv()).toEqual([0.25, 0.5, 2.25, 0.5, 0.25, 3.5]);
  // A slot whose picture reads a set that is not there has no UVs to show.
  map.channel = 2;
  expect(partGeometry([p])[0].uv).toBeNull();
});

test('colours lie over the faces that they name, the later over the earlier, also where faces are hidden', () => {
  const list = [placed(0, 4, true), placed(1, 2, true)];
  hideFaces(list, new Map([[0, Uint32Array.of(0)]]));
  const layers = layerMeshes(list, [
    { faces: new Map([[0, Uint32Array.of(0, 3)]]), colour: '#ff0000', opacity: 0.5 },
    {
      faces: new Map<number, Uint32Array | 'all'>([
        [1, 'all'],
        [0, new Uint32Array()],
      ]),
      colour: '#00ff00',
      opacity: 1,
    },
  ]) as Mesh[];
  expect(layers.map((layer) => [layer.parent, layer.renderOrder])).toEqual([
    [list[0].mesh, 1],
    [list[1].mesh, 2],
  ]);
  expect([...(layers[0].geometry.getIndex()?.array ?? [])]).toEqual([0, 1, 2, 9, 10, 11]);
  expect(layers[1].geometry.getIndex()?.count).toBe(6);
});

test('lines are hung into the parts that they are for', () => {
  const list = [placed(0, 1, true), placed(1, 1, true)];
  const lines = partLines(list, new Map([[1, Float32Array.of(0, 0, 0, 1, 1, 1)]]), '#ffffff');
  expect(lines.map((line) => line.parent)).toEqual([list[1].mesh]);
  expect([...lines[0].geometry.getAttribute('position').array]).toEqual([0, 0, 0, 1, 1, 1]);
  expect(partLines(list, null, '#ffffff')).toEqual([]);
});
