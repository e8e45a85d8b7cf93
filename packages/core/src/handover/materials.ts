import { type Document, type GLTF, type Material, TextureInfo } from '@gltf-transform/core';
import { KHRMaterialsEmissiveStrength, KHRMaterialsUnlit } from '@gltf-transform/extensions';
import { classSuffix } from '../plan/class-names.ts';
import type { MaterialClass } from '../plan/route.ts';
import { carryExtensions } from '../scene/material-extensions.ts';

/** A finished sheet: its maps as encoded files. */
export interface SheetFiles {
  name: string;
  /** Map kind → name in the textures folder and bytes. */
  maps: { baseColor: MapFile; orm?: MapFile; normal?: MapFile; emissive?: MapFile };
  emissiveStrength: number;
  /** Some material on the sheet had an occlusion map. */
  occlusion: boolean;
  /** 1 with a map, else what stands for it; emissive is linear, 0 where nothing glows. */
  factors: { roughness: number; metallic: number; emissive: [number, number, number] };
  /** Its strips repeat along its width. */
  wraps: boolean;
}

export interface MapFile {
  uri: string;
  bytes: Uint8Array;
}

function minFilter({ nearest, mips }: MaterialClass): GLTF.TextureMinFilter {
  const { NEAREST, LINEAR, NEAREST_MIPMAP_LINEAR, LINEAR_MIPMAP_LINEAR } = TextureInfo.MinFilter;
  if (nearest) return mips ? NEAREST_MIPMAP_LINEAR : NEAREST;
  return mips ? LINEAR_MIPMAP_LINEAR : LINEAR;
}

/** Makes the materials of merged slots in one document; textures are shared by all classes of a sheet. */
export class SheetMaterials {
  private readonly made = new Map<string, Material>();
  private readonly textures = new Map<string, ReturnType<Document['createTexture']>>();

  constructor(
    private readonly document: Document,
    private readonly sheets: ReadonlyMap<number, SheetFiles>,
    private readonly classes: MaterialClass[],
  ) {}

  /** The materials made so far. */
  get materials(): ReadonlySet<Material> {
    return new Set(this.made.values());
  }

  /** @param like a material of that class in the document: its extensions are carried along */
  get(sheet: number, classKey: string, like: Material | null = null): Material {
    const key = `${sheet}:${classKey}`;
    const known = this.made.get(key);
    if (known) return known;
    const files = this.sheets.get(sheet) as SheetFiles;
    const materialClass = this.classes.find((k) => k.key === classKey) as MaterialClass;
    const material = this.document.createMaterial(
      files.name +
        classSuffix(
          materialClass.key,
          this.classes.map((k) => k.key),
        ),
    );
    material
      .setAlphaMode(materialClass.alphaMode)
      .setDoubleSided(materialClass.doubleSided)
      .setBaseColorFactor([1, 1, 1, 1])
      .setMetallicFactor(files.factors.metallic)
      .setRoughnessFactor(files.factors.roughness)
      .setBaseColorTexture(this.texture(files.maps.baseColor));
    if (files.maps.orm) material.setMetallicRoughnessTexture(this.texture(files.maps.orm));
    if (materialClass.alphaMode === 'MASK') material.setAlphaCutoff(materialClass.alphaCutoff);
    if (files.occlusion && files.maps.orm) material.setOcclusionTexture(this.texture(files.maps.orm));
    if (files.maps.normal) material.setNormalTexture(this.texture(files.maps.normal));
    if (files.maps.emissive) material.setEmissiveTexture(this.texture(files.maps.emissive));
    material.setEmissiveFactor(files.factors.emissive);
    if (files.factors.emissive.some((v) => v > 0)) {
      if (files.emissiveStrength > 1)
        material.setExtension(
          'KHR_materials_emissive_strength',
          this.document
            .createExtension(KHRMaterialsEmissiveStrength)
            .createEmissiveStrength()
            .setEmissiveStrength(files.emissiveStrength),
        );
    }
    if (materialClass.unlit)
      material.setExtension('KHR_materials_unlit', this.document.createExtension(KHRMaterialsUnlit).createUnlit());
    for (const info of [
      material.getBaseColorTextureInfo(),
      material.getMetallicRoughnessTextureInfo(),
      material.getOcclusionTextureInfo(),
      material.getNormalTextureInfo(),
      material.getEmissiveTextureInfo(),
    ])
      info
        ?.setWrapS(files.wraps ? TextureInfo.WrapMode.REPEAT : TextureInfo.WrapMode.CLAMP_TO_EDGE)
        .setWrapT(TextureInfo.WrapMode.CLAMP_TO_EDGE)
        .setMagFilter(materialClass.nearest ? TextureInfo.MagFilter.NEAREST : TextureInfo.MagFilter.LINEAR)
        .setMinFilter(minFilter(materialClass));
    if (like) carryExtensions(like, material);
    this.made.set(key, material);
    return material;
  }

  private texture(file: MapFile) {
    let texture = this.textures.get(file.uri);
    if (!texture) {
      texture = this.document
        .createTexture(file.uri.replace(/^.*\//, '').replace(/\.[^.]*$/, ''))
        .setURI(file.uri)
        .setMimeType('image/png')
        .setImage(file.bytes as Uint8Array<ArrayBuffer>);
      this.textures.set(file.uri, texture);
    }
    return texture;
  }
}
