import type { Raster } from '../image/raster.ts';
import { encodeByte, srgbToLinear, unitByte } from '../image/srgb.ts';
import type { MaterialLook, TextureUse } from '../scene/material.ts';
import { type Model, type Part, surfaceScale } from '../scene/model.ts';
import type { Painted } from './palette.ts';
import { sampleTexel } from './sample-texel.ts';

/** A face's paint, or null where it shows more than one colour. */
export interface PaintedFaces {
  part: Part;
  faces: (Painted | null)[];
}

/** Bytes by which the samples of a face may differ and still be one colour. */
const FLAT = 2;

/** Where a face is looked at: near its corners, at the middles of its sides and at its middle. */
const LOOKS: readonly (readonly [number, number, number])[] = [
  [1 / 3, 1 / 3, 1 / 3],
  [0.9, 0.05, 0.05],
  [0.05, 0.9, 0.05],
  [0.05, 0.05, 0.9],
  [0.48, 0.48, 0.04],
  [0.04, 0.48, 0.48],
  [0.48, 0.04, 0.48],
];

/**
 * What each face of a model is painted with: factor × texture × vertex colour at seven places of it. A face whose places differ, that is
 * see-through, or whose slot has a normal map or anything that a palette does not carry, has none.
 * @param picture decoded images by key; undefined where one is missing
 */
export function paintedFaces(model: Model, picture: (key: string) => Raster | undefined): PaintedFaces[] {
  const seen = new Set<unknown>();
  return model.parts.flatMap((part) => {
    if (part.mode < 4 || seen.has(part.primitive)) return [];
    seen.add(part.primitive);
    const { look } = model.slots[part.slot];
    const count = part.indices.length / 3;
    const usable = carries(look) && part.primitive.listTargets().length === 0;
    const scale = surfaceScale(part);
    const faces = Array.from({ length: count }, (_, t) => (usable ? paintOf(part, look, picture, t, scale) : null));
    return [{ part, faces }];
  });
}

function carries(look: MaterialLook): boolean {
  return (
    look.alphaMode === 'OPAQUE' &&
    !look.unlit &&
    !look.doubleSided &&
    look.foreign.length === 0 &&
    look.carried === '' &&
    !look.normal
  );
}

function paintOf(
  part: Part,
  look: MaterialLook,
  picture: (key: string) => Raster | undefined,
  t: number,
  scale: number,
): Painted | null {
  const v = [part.indices[t * 3], part.indices[t * 3 + 1], part.indices[t * 3 + 2]];
  let first: number[] | null = null;
  for (const w of LOOKS) {
    const at = (use: TextureUse | null): number[] | null => {
      if (!use) return [1, 1, 1, 1];
      const uv = part.uvs[use.uvSet];
      const raster = picture(use.image);
      if (!uv || !raster) return null;
      const [a, b, c, d, e, f] = use.transform;
      const u0 = w[0] * uv[2 * v[0]] + w[1] * uv[2 * v[1]] + w[2] * uv[2 * v[2]];
      const v0 = w[0] * uv[2 * v[0] + 1] + w[1] * uv[2 * v[1] + 1] + w[2] * uv[2 * v[2] + 1];
      return sampleTexel(raster, a * u0 + c * v0 + e, b * u0 + d * v0 + f, use.wrapS, use.wrapT);
    };
    const [base, mr, glow] = [at(look.baseColor), at(look.metallicRoughness), at(look.emissive)];
    if (!base || !mr || !glow) return null;
    const tint = [0, 1, 2].map((k) =>
      part.colors
        ? w[0] * part.colors[4 * v[0] + k] + w[1] * part.colors[4 * v[1] + k] + w[2] * part.colors[4 * v[2] + k]
        : 1,
    );
    const linear = (s: number) => srgbToLinear(s);
    const values = [
      ...[0, 1, 2].map((k) =>
        // A texture alone keeps its bytes.
        look.baseColorFactor[k] === 1 && tint[k] === 1
          ? Math.round(base[k] * 255)
          : encodeByte(linear(base[k]) * look.baseColorFactor[k] * tint[k]),
      ),
      unitByte(mr[2] * look.metallicFactor),
      unitByte(mr[1] * look.roughnessFactor),
      ...[0, 1, 2].map((k) => encodeByte(linear(glow[k]) * look.emissiveFactor[k])),
    ];
    if (!first) first = values;
    else if (values.some((x, k) => Math.abs(x - (first as number[])[k]) > FLAT)) return null;
  }
  const [r, g, b, metallic, roughness, er, eg, eb] = first as number[];
  return { colour: [r, g, b], metallic, roughness, emissive: [er, eg, eb], area: areaOf(part, v) * scale * scale };
}

function areaOf({ positions: p }: Part, v: number[]): number {
  const [a, b, c] = v.map((i) => i * 3);
  const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const [wx, wy, wz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
  return Math.sqrt((uy * wz - uz * wy) ** 2 + (uz * wx - ux * wz) ** 2 + (ux * wy - uy * wx) ** 2) / 2;
}
