import {
  DataTexture,
  LinearFilter,
  LinearMipmapLinearFilter,
  type Material,
  Mesh,
  MeshStandardMaterial,
  NoColorSpace,
  RedFormat,
  RGBAFormat,
  ShaderMaterial,
  SRGBColorSpace,
} from 'three';
import type { Drawn, Placed } from './placed.ts';

/** Maps of a sheet as bytes, to be shown on a model without any file. */
export interface LiveMaps {
  width: number;
  height: number;
  /** RGBA; RGB; RGB; RGB. */
  baseColor: Uint8Array;
  orm: Uint8Array;
  normal: Uint8Array | null;
  emissive: Uint8Array | null;
  emissiveStrength: number;
}

/** Where something acts on a sheet: a byte a texel. */
export interface LiveMask {
  width: number;
  height: number;
  texels: Uint8Array;
}

function texture(data: Uint8Array, { width, height }: LiveMaps | LiveMask, srgb: boolean, red = false): DataTexture {
  const out = new DataTexture(data as Uint8Array<ArrayBuffer>, width, height, red ? RedFormat : RGBAFormat);
  out.colorSpace = srgb ? SRGBColorSpace : NoColorSpace;
  out.magFilter = LinearFilter;
  out.minFilter = LinearMipmapLinearFilter;
  out.generateMipmaps = true;
  out.anisotropy = 4;
  // Rows of one byte a texel may have any length.
  out.unpackAlignment = 1;
  out.needsUpdate = true;
  return out;
}

/** Three bytes a texel as four, which graphics cards take. */
function withAlpha(rgb: Uint8Array): Uint8Array {
  const out = new Uint8Array((rgb.length / 3) * 4);
  for (let i = 0, o = 0; i < rgb.length; i += 3, o += 4) {
    out[o] = rgb[i];
    out[o + 1] = rgb[i + 1];
    out[o + 2] = rgb[i + 2];
    out[o + 3] = 255;
  }
  return out;
}

/** A material that shows the maps. */
export function liveMaterial(maps: LiveMaps): MeshStandardMaterial {
  const orm = texture(withAlpha(maps.orm), maps, false);
  const material = new MeshStandardMaterial({
    map: texture(maps.baseColor, maps, true),
    aoMap: orm,
    roughnessMap: orm,
    metalnessMap: orm,
    roughness: 1,
    metalness: 1,
    alphaTest: maps.baseColor.some((v, i) => i % 4 === 3 && v < 128) ? 0.5 : 0,
    side: 2,
  });
  if (maps.normal) {
    material.normalMap = texture(withAlpha(maps.normal), maps, false);
  }
  if (maps.emissive) {
    material.emissiveMap = texture(withAlpha(maps.emissive), maps, true);
    material.emissive.set(0xffffff);
    material.emissiveIntensity = maps.emissiveStrength;
  }
  return material;
}

/** Gives back what a material of `liveMaterial` holds. */
export function releaseLive(material: MeshStandardMaterial): void {
  for (const map of [material.map, material.aoMap, material.normalMap, material.emissiveMap]) map?.dispose();
  material.dispose();
}

/** Distance of two lines of a hatch, px of the screen. */
const HATCH = 9;

/**
 * Lines over where a mask is, the wider the more it covers, and one around it: what lies between them keeps its colour.
 * Hung into the parts that have the material.
 */
export function hatchMeshes(placed: readonly Placed[], slotName: string, mask: LiveMask | null): Drawn[] {
  if (!mask) return [];
  const map = texture(mask.texels, mask, false, true);
  const material = new ShaderMaterial({
    uniforms: { map: { value: map } },
    vertexShader:
      'varying vec2 at; void main() { at = uv; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
    fragmentShader: `
      uniform sampler2D map;
      varying vec2 at;
      void main() {
        float covers = texture2D(map, at).r;
        float edge = fwidth(covers);
        float line = abs(mod(gl_FragCoord.x + gl_FragCoord.y, ${HATCH}.0) - ${HATCH / 2});
        float border = covers > 0.02 && abs(covers - 0.5) < 1.2 * edge ? 1.0 : 0.0;
        float hatch = line < 0.3 + 0.5 * covers && covers > 0.06 ? 1.0 : 0.0;
        if (max(border, hatch) < 0.5) discard;
        float dark = mod(gl_FragCoord.x - gl_FragCoord.y, 6.0) < 3.0 ? 0.08 : 0.97;
        gl_FragColor = vec4(vec3(dark), 1.0);
        #include <colorspace_fragment>
      }`,
    polygonOffset: true,
    polygonOffsetUnits: -2,
    depthWrite: false,
    side: 2,
  });
  material.addEventListener('dispose', () => map.dispose());
  return placed.flatMap((one) => {
    if (one.slotName !== slotName) return [];
    const mesh = new Mesh(one.mesh.geometry, material as Material);
    mesh.raycast = () => {};
    mesh.renderOrder = 40;
    one.mesh.add(mesh);
    return [mesh];
  });
}
