import type { Document, Material } from '@gltf-transform/core';
import { type LevelSet, sampleLevels } from '@wembrel/kernels/sample';
import { materialLook } from '../scene/material.ts';

/**
 * Puts the base colour of materials into the vertex colours of everything drawn with them: factor × picture, read at each vertex, × the
 * colours that were there, linear, 16 bit. Between vertices it is interpolated, so a gradient stays one where vertices stand along it.
 * @param wanted material → its picture in linear light, or null where it has none
 * @returns how many primitives were coloured
 */
export function coloursIntoVertices(document: Document, wanted: ReadonlyMap<Material, LevelSet | null>): number {
  let count = 0;
  const texel = new Float64Array(7);
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const material = primitive.getMaterial();
      const picture = material ? wanted.get(material) : undefined;
      const position = primitive.getAttribute('POSITION');
      if (!material || picture === undefined || !position) continue;
      const look = materialLook(material, () => 'x');
      const use = look.baseColor;
      const uv = use && primitive.getAttribute(`TEXCOORD_${use.uvSet}`);
      const old = primitive.getAttribute('COLOR_0');
      const out = new Uint16Array(position.getCount() * 4);
      const row: number[] = [];
      for (let v = 0; v < position.getCount(); v++) {
        const c = [...look.baseColorFactor];
        if (use && uv && picture) {
          const [s, t] = uv.getElement(v, row);
          const [a, b, cc, d, e, f] = use.transform;
          sampleLevels(picture, a * s + cc * t + e, b * s + d * t + f, 0, use.wrapS, use.wrapT, use.nearest, texel);
          for (let k = 0; k < 4; k++) c[k] *= texel[k];
        }
        if (old) {
          old.getElement(v, row);
          for (let k = 0; k < old.getElementSize(); k++) c[k] *= row[k];
        }
        if (look.alphaMode === 'OPAQUE') c[3] = 1;
        for (let k = 0; k < 4; k++) out[v * 4 + k] = Math.round(Math.min(1, Math.max(0, c[k])) * 65535);
      }
      const made = document
        .createAccessor()
        .setType('VEC4')
        .setArray(out)
        .setNormalized(true)
        .setBuffer(position.getBuffer());
      primitive.setAttribute('COLOR_0', made);
      count++;
    }
  for (const material of wanted.keys()) material.setBaseColorFactor([1, 1, 1, 1]).setBaseColorTexture(null);
  return count;
}
