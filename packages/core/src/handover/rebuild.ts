import { Accessor, type Document, type Primitive } from '@gltf-transform/core';
import type { TargetPart } from '../bake/target.ts';
import type { RoutedMaterial } from '../plan/route.ts';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import { uvSetsUsed } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';
import type { SheetMaterials } from './materials.ts';

/**
 * Gives the merged parts of one model their new vertices, UVs and material. Everything that the part carried besides (weights,
 * morph targets, custom attributes, UV sets that no baked texture read) is copied vertex by vertex.
 */
export function applyTargets(
  model: Model,
  targets: TargetPart[],
  materials: RoutedMaterial[],
  sheetMaterials: SheetMaterials,
): void {
  const { document } = model;
  for (const target of targets) {
    const part = model.parts[target.part];
    const { primitive } = part;
    const routed = materials[target.material];
    const baked = new Set(uvSetsUsed(routed.look));
    const rows = target.sourceVertex;
    for (const semantic of primitive.listSemantics()) {
      const accessor = primitive.getAttribute(semantic) as Accessor;
      const uvSet = /^TEXCOORD_(\d+)$/.exec(semantic)?.[1];
      const drop =
        semantic === 'TANGENT' ||
        (semantic === 'COLOR_0' && !target.keepsColors) ||
        (uvSet !== undefined && (uvSet === '0' || baked.has(Number(uvSet))));
      primitive.setAttribute(semantic, drop ? null : pickRows(document, accessor, rows));
    }
    primitive.setAttribute('TEXCOORD_0', floatAccessor(document, Accessor.Type.VEC2, target.uv));
    renumberUvSets(primitive);
    if (target.madeNormals)
      primitive.setAttribute('NORMAL', floatAccessor(document, Accessor.Type.VEC3, target.normals));
    if (target.tangents && target.writesTangents)
      primitive.setAttribute('TANGENT', floatAccessor(document, Accessor.Type.VEC4, target.tangents));
    for (const morph of primitive.listTargets())
      for (const semantic of morph.listSemantics())
        morph.setAttribute(
          semantic,
          semantic === 'TANGENT' ? null : pickRows(document, morph.getAttribute(semantic) as Accessor, rows),
        );
    primitive.setIndices(indexAccessor(document, target.indices, rows.length)).setMode(4);
    primitive.setMaterial(sheetMaterials.get(target.sheet, routed.classKey, primitive.getMaterial()));
  }
  tidy(document);
}

/** UV sets must be numbered without gaps. */
function renumberUvSets(primitive: Primitive): void {
  let next = 0;
  for (let s = 0; s < 16; s++) {
    const accessor = primitive.getAttribute(`TEXCOORD_${s}`);
    if (!accessor) continue;
    if (s !== next) {
      primitive.setAttribute(`TEXCOORD_${s}`, null);
      primitive.setAttribute(`TEXCOORD_${next}`, accessor);
    }
    next++;
  }
}

/** Extensions that need nothing kept once what they describe is gone. */
const TIED: Record<string, (d: Document) => boolean> = {
  EXT_texture_webp: (d) =>
    d
      .getRoot()
      .listTextures()
      .some((texture) => texture.getMimeType() === 'image/webp'),
  KHR_mesh_quantization: (d) =>
    d
      .getRoot()
      .listMeshes()
      .some((mesh) => mesh.listPrimitives().some(isQuantized)),
  EXT_meshopt_compression: () => false,
};

function isQuantized(primitive: Primitive): boolean {
  const small = (accessor: Accessor | null, ...allowed: number[]) =>
    accessor !== null && accessor.getComponentType() !== 5126 && !allowed.includes(accessor.getComponentType());
  return (
    small(primitive.getAttribute('POSITION')) ||
    small(primitive.getAttribute('NORMAL')) ||
    small(primitive.getAttribute('TANGENT')) ||
    primitive.listSemantics().some((text) => text.startsWith('TEXCOORD_') && small(primitive.getAttribute(text))) ||
    primitive.listTargets().some((target) => target.listSemantics().some((text) => small(target.getAttribute(text))))
  );
}

/**
 * Gives primitives the UV sets that their textures name but they lack, filled with zeros: such a source is not valid glTF, and would
 * make the delivery invalid too. Returns the names of the meshes that needed it.
 */
export function addMissingUvs(document: Document): string[] {
  const mended = new Set<string>();
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const material = primitive.getMaterial();
      if (!material) continue;
      const needed = Math.max(
        -1,
        ...[
          material.getBaseColorTextureInfo(),
          material.getMetallicRoughnessTextureInfo(),
          material.getNormalTextureInfo(),
          material.getOcclusionTextureInfo(),
          material.getEmissiveTextureInfo(),
        ].map((info) => info?.getTexCoord() ?? -1),
      );
      const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
      for (let set = 0; set <= needed; set++) {
        if (primitive.getAttribute(`TEXCOORD_${set}`)) continue;
        primitive.setAttribute(
          `TEXCOORD_${set}`,
          floatAccessor(document, Accessor.Type.VEC2, new Float32Array(count * 2)),
        );
        mended.add(mesh.getName() || 'unnamed mesh');
      }
    }
  return [...mended];
}

/** Removes what nothing uses any more, puts all data into one buffer and names the writer. */
export function tidy(document: Document): void {
  const root = document.getRoot();
  const unused = (p: { listParents(): { propertyType: string }[] }) =>
    p.listParents().every((parent) => parent.propertyType === 'Root');
  for (const material of root.listMaterials()) if (unused(material)) material.dispose();
  for (const texture of root.listTextures()) if (unused(texture)) texture.dispose();
  for (const accessor of root.listAccessors()) if (unused(accessor)) accessor.dispose();
  const buffer = root.listBuffers()[0] ?? document.createBuffer();
  for (const accessor of root.listAccessors()) accessor.setBuffer(buffer);
  for (const b of root.listBuffers()) if (b !== buffer) b.dispose();
  for (const extension of root.listExtensionsUsed()) {
    const needed = TIED[extension.extensionName];
    if (needed ? !needed(document) : /^KHR_/.test(extension.extensionName) && extension.listProperties().length === 0)
      extension.dispose();
  }
  const asset = root.getAsset();
  asset.generator = 'Wembrel';
}
