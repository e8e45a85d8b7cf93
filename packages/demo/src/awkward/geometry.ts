import { type Awkward, awkward, DELIVERED, mended } from './entry.ts';

/** Awkward vertices, faces, nodes and skins. */
export const GEOMETRY: readonly Awkward[] = [
  awkward('strip', DELIVERED, (_, edit) => {
    edit.primitive.mode = 5;
    edit.primitive.indices = edit.accessor(Uint16Array.from([0, 1, 3, 2]), 'SCALAR');
  }),
  awkward('fan', DELIVERED, (_, edit) => {
    edit.primitive.mode = 6;
    edit.primitive.indices = edit.accessor(Uint16Array.from([0, 1, 2, 3]), 'SCALAR');
  }),
  awkward('without-indices', DELIVERED, (json, edit) => {
    const corners = [0, 1, 2, 0, 2, 3];
    for (const [semantic, width] of [
      ['POSITION', 3],
      ['NORMAL', 3],
      ['TEXCOORD_0', 2],
    ] as const) {
      const values = edit.floats(semantic);
      const out = Float32Array.from(
        corners.flatMap((corner) => [...values.subarray(corner * width, (corner + 1) * width)]),
      );
      const { min, max } = json.accessors[edit.primitive.attributes[semantic]];
      edit.primitive.attributes[semantic] = edit.accessor(out, width === 3 ? 'VEC3' : 'VEC2', min ? { min, max } : {});
    }
    delete edit.primitive.indices;
  }),
  awkward('indices-as-bytes', DELIVERED, (_, edit) => {
    edit.primitive.indices = edit.accessor(Uint8Array.from([0, 1, 2, 0, 2, 3]), 'SCALAR');
  }),
  awkward('faces-without-area', DELIVERED, (_, edit) => {
    edit.primitive.indices = edit.accessor(Uint16Array.from([0, 1, 2, 0, 2, 3, 1, 1, 1, 0, 0, 2]), 'SCALAR');
  }),
  ...(
    [
      ['bytes', Uint8Array, 255],
      ['shorts', Uint16Array, 65535],
    ] as const
  ).map(([name, Values, full]) =>
    awkward(`vertex-colours-as-${name}`, DELIVERED, (_, edit) => {
      const colours = new Values(edit.count * 4).fill(full);
      for (let i = 1; i < colours.length; i += 4) colours[i] = full / 3;
      edit.primitive.attributes.COLOR_0 = edit.accessor(colours, 'VEC4', { normalized: true });
    }),
  ),
  awkward('vertex-colours-as-floats', DELIVERED, (_, edit) => {
    const colours = Float32Array.from({ length: edit.count * 3 }, (_, i) => (i % 3) / 2);
    edit.primitive.attributes.COLOR_0 = edit.accessor(colours, 'VEC3');
  }),
  awkward('skin-with-weights-of-zero', DELIVERED, (json, edit) => {
    const joint = edit.node({ name: 'joint' });
    const attributes = edit.primitive.attributes;
    attributes.JOINTS_0 = edit.accessor(new Uint8Array(edit.count * 4), 'VEC4');
    attributes.WEIGHTS_0 = edit.accessor(
      Float32Array.from({ length: edit.count * 4 }, (_, i) => Number(i % 4 === 0)),
      'VEC4',
    );
    json.skins = [{ joints: [joint] }];
    json.nodes[0].skin = 0;
  }),
  awkward('morph-target', DELIVERED, (json, edit) => {
    const moved = Float32Array.from({ length: edit.count * 3 }, (_, i) => (i % 3 === 2 ? 0.1 : 0));
    const bounds = { min: [0, 0, Math.fround(0.1)], max: [0, 0, Math.fround(0.1)] };
    edit.primitive.targets = [{ POSITION: edit.accessor(moved, 'VEC3', bounds) }];
    json.meshes[0].weights = [0.5];
    json.meshes[0].extras = { targetNames: ['bulge'] };
  }),
  awkward('mirrored-node', DELIVERED, (_, edit) => {
    edit.node({ name: 'mirrored', mesh: 0, translation: [1.5, 0, 0], scale: [-1, 1, 1] });
  }),
  awkward('mirrored-node-with-tangents', DELIVERED, (_, edit) => {
    const tangents = Float32Array.from({ length: edit.count * 4 }, (_, i) => [1, 0, 0, 1][i % 4]);
    edit.primitive.attributes.TANGENT = edit.accessor(tangents, 'VEC4');
    edit.node({ name: 'mirrored', mesh: 0, translation: [1.5, 0, 0], scale: [-1, 1, 1] });
  }),
  awkward('tangents-without-a-side', mended(/tangents of 1 primitive have no direction or no side/), (_, edit) => {
    edit.primitive.attributes.TANGENT = edit.accessor(new Float32Array(edit.count * 4), 'VEC4');
  }),
  awkward('scaled-to-nothing', DELIVERED, (_, edit) => {
    edit.node({ name: 'flat', mesh: 0, scale: [1, 0, 1] });
  }),
  {
    ...awkward('objects-of-one-name', DELIVERED, (json, edit) => {
      json.nodes[0].name = 'Box';
      for (let i = 1; i < 4; i++) edit.node({ name: 'Box', mesh: 0, translation: [i, 0, 0] });
    }),
    likeness: { least: 34, why: 'four in a row are so small in the picture that mips beyond the margin are read' },
  },
  awkward('nodes-without-names', DELIVERED, (json, edit) => {
    delete json.nodes[0].name;
    delete json.meshes[0].name;
    edit.node({ mesh: 0, translation: [1, 0, 0] });
  }),
  awkward('cameras-and-lights', DELIVERED, (json, edit) => {
    json.cameras = [{ type: 'perspective', perspective: { yfov: 0.8, znear: 0.1 } }];
    edit.node({ name: 'camera', camera: 0, translation: [0, 0, 3] });
    edit.extension('KHR_lights_punctual');
    json.extensions = { KHR_lights_punctual: { lights: [{ type: 'point', intensity: 40 }] } };
    edit.node({ name: 'lamp', extensions: { KHR_lights_punctual: { light: 0 } } });
  }),
  awkward('collision-mesh-beside', DELIVERED, (json, edit) => {
    const { POSITION } = edit.primitive.attributes;
    json.meshes.push({ name: 'UCX_sign', primitives: [{ attributes: { POSITION }, indices: edit.primitive.indices }] });
    // Behind the sign: where two faces lie on each other, which one is seen depends on the order of drawing.
    edit.node({ name: 'UCX_sign', mesh: json.meshes.length - 1, translation: [0, 0, -0.05] });
  }),
  awkward('levels-of-detail-by-name', DELIVERED, (json, edit) => {
    json.nodes[0].name = 'sign_LOD0';
    edit.node({ name: 'sign_LOD1', mesh: 0 });
    edit.node({ name: 'sign_LOD2', mesh: 0 });
  }),
  awkward('levels-of-detail-by-extension', DELIVERED, (json, edit) => {
    // Fewer faces with the same UVs, in a material of the same look; the levels stand in no scene.
    const { POSITION, NORMAL, TEXCOORD_0 } = edit.primitive.attributes;
    json.materials.push({ ...json.materials[0], name: 'Coarse' });
    const indices = edit.accessor(Uint16Array.from([0, 1, 2]), 'SCALAR');
    json.meshes.push({
      name: 'coarse',
      primitives: [{ attributes: { POSITION, NORMAL, TEXCOORD_0 }, indices, material: json.materials.length - 1 }],
    });
    const level = json.nodes.push({ name: 'coarse', mesh: json.meshes.length - 1 }) - 1;
    edit.extension('MSFT_lod');
    json.nodes[0].extensions = { MSFT_lod: { ids: [level] } };
    json.nodes[0].extras = { MSFT_screencoverage: [0.5, 0.01] };
  }),
  awkward('switched-off', DELIVERED, (_, edit) => {
    edit.extension('KHR_node_visibility');
    const extensions = { KHR_node_visibility: { visible: false } };
    edit.node({ name: 'not today', mesh: 0, translation: [0, 0, 0.1], extensions });
  }),
  awkward('collision-mesh-without-uvs-in-the-same-material', DELIVERED, (json, edit) => {
    const { POSITION, NORMAL } = edit.primitive.attributes;
    const { indices, material } = edit.primitive;
    json.meshes.push({ name: 'hull', primitives: [{ attributes: { POSITION, NORMAL }, indices, material }] });
    edit.node({ name: 'sign_collision', mesh: json.meshes.length - 1, translation: [0, 0, 0.05] });
  }),
  awkward('animated-skin-and-morph', DELIVERED, (json, edit) => {
    const bent = json.nodes.push({ name: 'bent' }) - 1;
    const still = edit.node({ name: 'still', children: [bent] });
    const { attributes } = edit.primitive;
    const right = (v: number) => edit.floats('POSITION')[v * 3] > 0;
    const joints = Uint8Array.from({ length: edit.count * 4 }, (_, i) => Number(i % 4 === 0 && right(i >> 2)));
    const weights = Float32Array.from({ length: edit.count * 4 }, (_, i) => Number(i % 4 === 0));
    attributes.JOINTS_0 = edit.accessor(joints, 'VEC4');
    attributes.WEIGHTS_0 = edit.accessor(weights, 'VEC4');
    const moved = Float32Array.from({ length: edit.count * 3 }, (_, i) => (i % 3 === 1 ? 0.3 : 0));
    const bounds = { min: [0, Math.fround(0.3), 0], max: [0, Math.fround(0.3), 0] };
    edit.primitive.targets = [{ POSITION: edit.accessor(moved, 'VEC3', bounds) }];
    json.skins = [{ joints: [still, bent] }];
    Object.assign(json.nodes[0], { skin: 0 });
    const input = edit.accessor(Float32Array.from([0, 1]), 'SCALAR', { min: [0], max: [1] });
    const turn = edit.accessor(Float32Array.from([0, 0, 0, 1, 0, Math.sin(0.4), 0, Math.cos(0.4)]), 'VEC4');
    const bulge = edit.accessor(Float32Array.from([0, 1]), 'SCALAR');
    json.animations = [
      {
        name: 'bend',
        samplers: [
          { input, output: turn },
          { input, output: bulge },
        ],
        channels: [
          { sampler: 0, target: { node: bent, path: 'rotation' } },
          { sampler: 1, target: { node: 0, path: 'weights' } },
        ],
      },
    ];
  }),
  awkward('animated-node', DELIVERED, (json, edit) => {
    const input = edit.accessor(Float32Array.from([0, 1]), 'SCALAR', { min: [0], max: [1] });
    const output = edit.accessor(Float32Array.from([0, 0, 0, 0, 1, 0]), 'VEC3');
    json.animations = [
      {
        name: 'lift',
        samplers: [{ input, output }],
        channels: [{ sampler: 0, target: { node: 0, path: 'translation' } }],
      },
    ];
  }),
];
