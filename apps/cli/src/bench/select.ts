import { Document } from '@gltf-transform/core';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { applyFaceEdits } from '@wembrel/core/faces/apply-faces';
import { readModel } from '@wembrel/core/scene/model';
import { connectedFaces, flatFaces, grown, shrunk } from '@wembrel/core/select/faces';
import { faceTopology } from '@wembrel/core/select/topology';
import { type BenchRow, inTurns, timesRow } from './turns.ts';

/** Selecting on a wavy sheet of half a million triangles, against one look at every corner. */
export function selectBenches(): BenchRow[] {
  const n = 500;
  const positions = new Float32Array((n + 1) ** 2 * 3);
  const indices = new Uint32Array(n * n * 6);
  for (let y = 0; y <= n; y++)
    for (let x = 0; x <= n; x++) positions.set([x, Math.sin(x * 0.1) * Math.cos(y * 0.1), y], (y * (n + 1) + x) * 3);
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const i = y * (n + 1) + x;
      indices.set([i, i + 1, i + n + 2, i, i + n + 2, i + n + 1], (y * n + x) * 6);
    }
  const topology = faceTopology(positions, indices);
  const all = connectedFaces(topology, [0]);
  const look = () => {
    let sum = 0;
    for (let i = 0; i < topology.places.length; i++) sum += positions[indices[i] * 3];
    if (Number.isNaN(sum)) throw new Error('a corner is not a number');
  };
  const rows: [string, () => unknown][] = [
    ['piece', () => connectedFaces(topology, [7])],
    ['flat neighbourhood', () => flatFaces(topology, [7], 12)],
    ['grow', () => grown(topology, all)],
    ['shrink', () => shrunk(topology, all)],
    ['preparing', () => faceTopology(positions, indices)],
  ];
  const flat = changeBenches(positions, indices, look);
  return [
    ...flat,
    ...rows.map(([name, run]) =>
      timesRow(
        `selecting on 500 000 triangles, ${name}`,
        'a look at every corner',
        inTurns(5, () => void run(), look),
      ),
    ),
  ];
}

/** Faces of the same sheet given a slot, and laid along a strip: the whole of a change, from the document back to the document. */
function changeBenches(positions: Float32Array, indices: Uint32Array, look: () => void): BenchRow[] {
  const faces = indices.length / 3;
  const edits: [string, object][] = [
    ['half of the faces get a slot', { kind: 'slot', slot: 'Other' }],
    ['half of the faces are projected for tiling', { kind: 'project', repeat: 2 }],
  ];
  return edits.map(([name, edit]) => {
    const group = { id: 'g', name: 'Half', hue: 0, faces: { 'sheet.glb': { 0: `0-${faces / 2 - 1}` } } };
    const decisions = FaceDecisions.parse({ groups: [group], edits: [{ id: 'e', groups: ['g'], ...edit }] });
    const run = () => {
      const document = new Document();
      const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
        document
          .createAccessor()
          .setType(type)
          .setArray(array as Float32Array<ArrayBuffer>);
      const primitive = document
        .createPrimitive()
        .setMaterial(document.createMaterial('Sheet'))
        .setAttribute('POSITION', accessor('VEC3', positions))
        .setIndices(accessor('SCALAR', indices));
      document
        .createScene()
        .addChild(document.createNode().setMesh(document.createMesh('sheet').addPrimitive(primitive)));
      applyFaceEdits(
        readModel('sheet.glb', document, () => ''),
        decisions,
        { elsewhere: () => null, picture: () => null },
      );
    };
    return timesRow(`changing faces on 500 000 triangles, ${name}`, 'a look at every corner', inTurns(3, run, look));
  });
}
