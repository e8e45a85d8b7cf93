import { writePng } from '@wembrel/core/image/png';
import type { GltfEdit } from './changes.ts';
import { type Awkward, awkward, DELIVERED } from './entry.ts';

/** A picture of one grey. */
const grey = (side: number, value = 180): Uint8Array =>
  writePng(new Uint8Array(side * side * 3).fill(value), side, side, 3);

/** Adds a picture and a texture that reads it. @returns the texture's index */
function texture(edit: GltfEdit, png: Uint8Array, name: string): number {
  const image = edit.json.images.push({ bufferView: edit.view(png), mimeType: 'image/png', name }) - 1;
  return edit.json.textures.push({ source: image, sampler: 0 }) - 1;
}

const pbr = (edit: GltfEdit) => edit.json.materials[0].pbrMetallicRoughness as Record<string, Record<string, unknown>>;

/** Awkward materials, textures and UVs. */
export const LOOKS: readonly Awkward[] = [
  awkward('texture-of-one-texel', DELIVERED, () => {}, { picture: grey(1) }),
  {
    ...awkward('texture-of-three-by-one', DELIVERED, () => {}, {
      picture: writePng(Uint8Array.from([255, 0, 0, 0, 255, 0, 0, 0, 255]), 3, 1, 3),
    }),
    likeness: {
      least: 26,
      why: 'a texel is a third of the surface, and its outer halves are blended with the repeat on the other side',
    },
  },
  awkward('maps-of-different-sizes', DELIVERED, (_, edit) => {
    pbr(edit).metallicRoughnessTexture = { index: texture(edit, grey(4), 'rough') };
    edit.json.materials[0].occlusionTexture = { index: texture(edit, grey(128, 240), 'occlusion') };
  }),
  awkward('turned-transform', DELIVERED, (_, edit) => {
    edit.extension('KHR_texture_transform');
    pbr(edit).baseColorTexture.extensions = {
      KHR_texture_transform: { rotation: 0.7, offset: [0.3, -0.2], scale: [0.6, 0.8] },
    };
  }),
  awkward('two-uv-sets', DELIVERED, (_, edit) => {
    const uvs = edit.floats('TEXCOORD_0').slice().reverse();
    edit.primitive.attributes.TEXCOORD_1 = edit.accessor(uvs, 'VEC2');
    edit.json.materials[0].occlusionTexture = { index: texture(edit, grey(32), 'occlusion'), texCoord: 1 };
  }),
  awkward('repeats-seventeen-times', DELIVERED, (_, edit) => {
    const uvs = edit.floats('TEXCOORD_0');
    for (let i = 0; i < uvs.length; i++) uvs[i] *= 17;
  }),
  awkward('blended-only', DELIVERED, (json) => {
    json.materials[0].alphaMode = 'BLEND';
  }),
  awkward('alpha-tested', DELIVERED, (json) => {
    json.materials[0].alphaMode = 'MASK';
    json.materials[0].alphaCutoff = 0.3;
  }),
  awkward('factors-equal-but-for-an-extension', DELIVERED, (json, edit) => {
    edit.extension('KHR_materials_clearcoat');
    json.materials.push({
      ...json.materials[0],
      name: 'Lacquered',
      extensions: { KHR_materials_clearcoat: { clearcoatFactor: 0.8 } },
    });
    json.meshes[0].primitives.push({ ...json.meshes[0].primitives[0], material: 1 });
  }),
  awkward('no-textures', DELIVERED, () => {}, { names: ['Red', 'Green', 'Blue'], texture: false }),
  awkward('no-material', DELIVERED, (_, edit) => {
    delete edit.primitive.material;
  }),
  awkward('unused-materials-and-textures', DELIVERED, (json, edit) => {
    const index = texture(edit, grey(16), 'unused');
    json.materials.push({ name: 'Unused', pbrMetallicRoughness: { baseColorTexture: { index } } });
  }),
  awkward('nearest-sampling', DELIVERED, (json) => {
    json.samplers = [{ magFilter: 9728, minFilter: 9728 }];
  }),
  awkward('samplers-left-out', DELIVERED, (json) => {
    delete json.samplers;
    for (const entry of json.textures) delete entry.sampler;
  }),
  awkward('normal-map-without-tangents', DELIVERED, (_, edit) => {
    const flat = writePng(
      Uint8Array.from({ length: 8 * 8 * 3 }, (_, i) => [140, 110, 250][i % 3]),
      8,
      8,
      3,
    );
    edit.json.materials[0].normalTexture = { index: texture(edit, flat, 'bumps'), scale: 0.5 };
  }),
  awkward('glows', DELIVERED, (json, edit) => {
    edit.extension('KHR_materials_emissive_strength');
    json.materials[0].emissiveFactor = [1, 0.5, 0];
    json.materials[0].extensions = { KHR_materials_emissive_strength: { emissiveStrength: 12 } };
  }),
  awkward(
    'extensions-of-equal-values',
    DELIVERED,
    (json, edit) => {
      edit.extension('KHR_materials_clearcoat');
      for (const material of json.materials)
        material.extensions = { KHR_materials_clearcoat: { clearcoatFactor: 0.8, clearcoatRoughnessFactor: 0.1 } };
    },
    { names: ['Front', 'Back'] },
  ),
  awkward(
    'extensions-that-change-nothing',
    DELIVERED,
    (json, edit) => {
      edit.extension('KHR_materials_ior');
      edit.extension('KHR_materials_specular');
      json.materials[0].extensions = { KHR_materials_ior: {}, KHR_materials_specular: {} };
    },
    { names: ['Front', 'Back'] },
  ),
  awkward('unlit-only', DELIVERED, (json, edit) => {
    edit.extension('KHR_materials_unlit');
    json.materials[0].extensions = { KHR_materials_unlit: {} };
  }),
  awkward('double-sided-only', DELIVERED, (json) => {
    json.materials[0].doubleSided = true;
  }),
  awkward(
    'roughness-of-one-grey-in-a-large-picture',
    DELIVERED,
    (json, edit) => {
      const index = texture(edit, grey(256), 'rough');
      for (const material of json.materials)
        Object.assign(material.pbrMetallicRoughness as object, { metallicRoughnessTexture: { index } });
    },
    { names: ['Front', 'Back'] },
  ),
  {
    ...awkward(
      'one-island-far-larger-than-the-others',
      DELIVERED,
      (json, edit) => {
        const uvs = edit.floats('TEXCOORD_0').map((v) => 4 * v);
        const last = json.meshes[0].primitives[3];
        last.attributes = { ...last.attributes, TEXCOORD_0: edit.accessor(uvs, 'VEC2') };
      },
      { names: ['Front', 'Back', 'Pole', 'Foot'] },
    ),
    likeness: {
      least: 20,
      why: 'merged all the same onto a small sheet, it takes the sharpness of all the others; by its own plan it is left out',
    },
  },
  awkward('large-smooth-island-on-an-almost-empty-picture', DELIVERED, (_, edit) => {
    const uvs = edit.floats('TEXCOORD_0');
    for (let i = 0; i < uvs.length; i++) uvs[i] *= 0.2;
  }),
];
