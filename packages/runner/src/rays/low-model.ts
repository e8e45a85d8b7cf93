import { Document } from '@gltf-transform/core';
import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { LowTarget } from '@wembrel/core/rays/target/low-target';
import { gltfIo } from '../read/gltf-io.ts';
import type { RayBake } from './bake-rays.ts';
import { CUTOFF } from './encode-maps.ts';
import { cutOutPng, metalRoughPng, normalUpPng, viewPng } from './view-maps.ts';

/**
 * The low-polys with what was baked onto them, as a GLB: normal, AO, base colour (else vertex colours, else grey), metallic, roughness, emissive, as far as they
 * are there. Metallic and roughness come as one picture.
 * @param name of the material, which is that of the maps @param pictures PNGs by kind; `metallic-roughness` holds roughness in G and metallic in B; normals with Y up
 */
async function lowModel(
  name: string,
  targets: readonly { name: string; target: LowTarget }[],
  uvSet: number,
  pictures: Partial<Record<MapKind | 'metallic-roughness' | 'cut-out', Uint8Array>>,
): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer();
  const scene = d.createScene();
  const texture = (kind: keyof typeof pictures) => {
    const bytes = pictures[kind];
    return bytes
      ? d
          .createTexture(kind)
          .setImage(bytes as Uint8Array<ArrayBuffer>)
          .setMimeType('image/png')
      : null;
  };
  const material = d
    .createMaterial(name)
    .setBaseColorTexture(texture('cut-out') ?? texture('color') ?? texture('vertex-color'))
    .setNormalTexture(texture('normal'))
    .setOcclusionTexture(texture('ao'))
    .setMetallicRoughnessTexture(texture('metallic-roughness'))
    .setEmissiveTexture(texture('emissive'));
  if (pictures['cut-out']) material.setAlphaMode('MASK').setAlphaCutoff(CUTOFF).setDoubleSided(true);
  if (!pictures.color && !pictures['vertex-color']) material.setBaseColorFactor([0.5, 0.5, 0.5, 1]);
  if (!pictures['metallic-roughness']) material.setMetallicFactor(0).setRoughnessFactor(0.6);
  if (pictures.emissive) material.setEmissiveFactor([1, 1, 1]);
  for (const { name: node, target } of targets) {
    const { mesh } = target;
    const corners = mesh.triangles * 3;
    const by = (size: number, at: (c: number, k: number) => number) => {
      const out = new Float32Array(corners * size);
      for (let c = 0; c < corners; c++) for (let k = 0; k < size; k++) out[c * size + k] = at(c, k);
      return out;
    };
    const put = (type: 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array<ArrayBuffer>) =>
      d.createAccessor().setType(type).setArray(values).setBuffer(buffer);
    const primitive = d
      .createPrimitive()
      .setAttribute(
        'POSITION',
        put(
          'VEC3',
          by(3, (c, k) => mesh.positions[mesh.indices[c] * 3 + k]),
        ),
      )
      .setAttribute(
        'NORMAL',
        put(
          'VEC3',
          by(3, (c, k) => target.normals[c * 3 + k]),
        ),
      )
      .setAttribute(
        'TANGENT',
        put(
          'VEC4',
          by(4, (c, k) => target.tangents[c * 4 + k]),
        ),
      )
      .setAttribute(
        'TEXCOORD_0',
        put(
          'VEC2',
          by(2, (c, k) => mesh.uvs[uvSet][mesh.indices[c] * 2 + k]),
        ),
      )
      .setMaterial(material);
    scene.addChild(d.createNode(node).setMesh(d.createMesh(node).addPrimitive(primitive)));
  }
  return (await gltfIo()).writeBinary(d);
}

/** The low-polys of a bake whose jobs were kept, with its maps as pictures of 8 bit. */
export async function lowModelOf(
  name: string,
  bake: RayBake,
  pairings: readonly { name: string }[],
  uvSet: number,
): Promise<Uint8Array> {
  const pictures: Parameters<typeof lowModel>[3] = {};
  for (const map of bake.maps.maps)
    pictures[map.kind] = await (map.kind === 'normal' ? normalUpPng(bake.maps, map) : viewPng(bake.maps, map));
  pictures['cut-out'] = (await cutOutPng(bake.maps)) ?? undefined;
  pictures['metallic-roughness'] = (await metalRoughPng(bake.maps)) ?? undefined;
  return lowModel(
    name,
    bake.jobs.map(({ job }, i) => ({ name: pairings[i].name, target: job.target })),
    uvSet,
    pictures,
  );
}
