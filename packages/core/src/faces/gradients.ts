import type { Document, Material } from '@gltf-transform/core';
import { bytesOfHex } from '../image/hex.ts';
import { type Rgb, toLab, toRgb } from '../image/oklab.ts';
import { writePng } from '../image/png.ts';
import { type Chosen, writableUv } from './face-table.ts';

/** Steps of a gradient's picture, px, and its width: a lattice of 4 texels holds it. */
const STEPS = 64;
const WIDTH = 4;
const CLAMPED = 33071;

/** Gives a material a picture that runs from one colour at the lower edge to another at the upper one, evenly in OKLab. */
export function paintGradient(document: Document, material: Material, lower: string, upper: string): void {
  const lab = (hex: string) => toLab(bytesOfHex(hex).map((v) => v / 255) as unknown as Rgb);
  const [from, to] = [lab(lower), lab(upper)];
  const data = new Uint8Array(STEPS * WIDTH * 3);
  for (let row = 0; row < STEPS; row++) {
    const t = 1 - row / (STEPS - 1);
    const mixed = toRgb([0, 1, 2].map((k) => from[k] + (to[k] - from[k]) * t) as unknown as Rgb);
    for (let x = 0; x < WIDTH; x++)
      data.set(
        mixed.map((v) => Math.round(v * 255)),
        (row * WIDTH + x) * 3,
      );
  }
  const texture = document
    .createTexture(material.getName())
    .setMimeType('image/png')
    .setImage(writePng(data, WIDTH, STEPS, 3) as Uint8Array<ArrayBuffer>);
  material.setBaseColorTexture(texture);
  material.getBaseColorTextureInfo()?.setWrapS(CLAMPED).setWrapT(CLAMPED);
}

/** Lays faces on a gradient: from the lowest to the highest place along an axis that the faces of each mesh have. */
export function layOnGradient(chosen: readonly Chosen[], axis: 'x' | 'y' | 'z'): void {
  const k = 'xyz'.indexOf(axis);
  for (const { table, faces } of chosen) {
    const at = (face: number, corner: number) => table.positions[table.indices[face * 3 + corner] * 3 + k];
    let [low, high] = [Infinity, -Infinity];
    for (const face of faces)
      for (let corner = 0; corner < 3; corner++) {
        low = Math.min(low, at(face, corner));
        high = Math.max(high, at(face, corner));
      }
    const uv = writableUv(table, 0);
    for (const face of faces)
      for (let corner = 0; corner < 3; corner++) {
        const t = high > low ? (at(face, corner) - low) / (high - low) : 0;
        // From the middle of the lowest row to that of the highest one.
        uv.set([0.5, (0.5 + (1 - t) * (STEPS - 1)) / STEPS], (face * 3 + corner) * 2);
      }
  }
}
