import type { Raster } from './raster.ts';
import { decodeTable, encodeByte } from './srgb.ts';

/** Reflectance of a dielectric seen straight on. */
const DIELECTRIC = 0.04;
const EPSILON = 1e-6;

export interface SpecularGlossiness {
  /** Linear R G B A. */
  diffuse: [number, number, number, number];
  /** Linear R G B. */
  specular: [number, number, number];
  glossiness: number;
}

export interface MetallicRoughness {
  /** Linear R G B A. */
  baseColor: [number, number, number, number];
  metallic: number;
  roughness: number;
}

const brightness = (r: number, g: number, b: number) => Math.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b);

/** Metallic value at which both descriptions reflect alike; the larger root of the quadratic in the archived extension's notes. */
function solveMetallic(diffuse: number, specular: number, oneMinusSpecular: number): number {
  if (specular < DIELECTRIC) return 0;
  const a = DIELECTRIC;
  const b = (diffuse * oneMinusSpecular) / (1 - DIELECTRIC) + specular - 2 * DIELECTRIC;
  const c = DIELECTRIC - specular;
  return Math.min(1, Math.max(0, (-b + Math.sqrt(Math.max(b * b - 4 * a * c, 0))) / (2 * a)));
}

/**
 * Metallic-roughness values that look like specular-glossiness ones. Source: the conversion notes of the archived extension
 * KHR_materials_pbrSpecularGlossiness.
 */
export function toMetallicRoughness(specularGlossiness: SpecularGlossiness): MetallicRoughness {
  const [dr, dg, db, alpha] = specularGlossiness.diffuse;
  const [sr, sg, sb] = specularGlossiness.specular;
  const rest = 1 - Math.max(sr, sg, sb);
  const metallic = solveMetallic(brightness(dr, dg, db), brightness(sr, sg, sb), rest);
  const fromDiffuse = rest / (1 - DIELECTRIC) / Math.max(1 - metallic, EPSILON);
  const w = metallic * metallic;
  const mix = (d: number, s: number) => {
    const base = d * fromDiffuse;
    const shine = (s - DIELECTRIC * (1 - metallic)) / Math.max(metallic, EPSILON);
    return Math.min(1, Math.max(0, base + (shine - base) * w));
  };
  return {
    baseColor: [mix(dr, sr), mix(dg, sg), mix(db, sb), alpha],
    metallic,
    roughness: 1 - specularGlossiness.glossiness,
  };
}

/**
 * The same for every texel. Pictures of different sizes are read at the nearest texel of the smaller one.
 * @param diffuse sRGB R G B A, or null @param specular sRGB R G B, gloss in A, or null
 * @returns base colour (sRGB, A kept) and metallic in B, roughness in G, with all factors multiplied in
 */
export function metallicRoughnessMaps(
  diffuse: Raster | null,
  specular: Raster | null,
  factors: SpecularGlossiness,
): { baseColor: Raster; metallicRoughness: Raster } {
  const width = Math.max(diffuse?.width ?? 1, specular?.width ?? 1);
  const height = Math.max(diffuse?.height ?? 1, specular?.height ?? 1);
  const baseColor = new Uint8Array(new SharedArrayBuffer(width * height * 4));
  const mr = new Uint8Array(new SharedArrayBuffer(width * height * 4));
  const reader = (raster: Raster | null) => {
    if (!raster) return () => [1, 1, 1, 1];
    const table = decodeTable(raster.bits);
    const full = raster.bits === 8 ? 255 : 65535;
    const out = [0, 0, 0, 0];
    return (x: number, y: number) => {
      const i = (Math.floor((y * raster.height) / height) * raster.width + Math.floor((x * raster.width) / width)) * 4;
      for (let c = 0; c < 3; c++) out[c] = table[raster.data[i + c]];
      out[3] = raster.data[i + 3] / full;
      return out;
    };
  };
  const d = reader(diffuse);
  const s = reader(specular);
  const specularGlossiness = factors;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = d(x, y);
      const b = s(x, y);
      const out = toMetallicRoughness({
        diffuse: [
          a[0] * specularGlossiness.diffuse[0],
          a[1] * specularGlossiness.diffuse[1],
          a[2] * specularGlossiness.diffuse[2],
          a[3] * specularGlossiness.diffuse[3],
        ],
        specular: [
          b[0] * specularGlossiness.specular[0],
          b[1] * specularGlossiness.specular[1],
          b[2] * specularGlossiness.specular[2],
        ],
        glossiness: b[3] * specularGlossiness.glossiness,
      });
      const o = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) baseColor[o + c] = encodeByte(out.baseColor[c]);
      baseColor[o + 3] = Math.round(out.baseColor[3] * 255);
      mr[o] = 255;
      mr[o + 1] = Math.round(out.roughness * 255);
      mr[o + 2] = Math.round(out.metallic * 255);
      mr[o + 3] = 255;
    }
  return {
    baseColor: { width, height, bits: 8, data: baseColor },
    metallicRoughness: { width, height, bits: 8, data: mr },
  };
}
