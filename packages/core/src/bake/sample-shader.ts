import type { LevelSet } from '@wembrel/kernels/sample';
import { type Affine, LevelSampler, SAMPLE_BATCH, TEXEL_BATCH } from '@wembrel/kernels/sampler';
import { encodeByte, unitByte } from '../image/srgb.ts';
import { barycentrics } from '../math/barycentrics.ts';
import { type ImageChannel, type MaterialLook, READERS, type TextureUse } from '../scene/material.ts';
import { affineOf, isCopied, levelOfDetail, type TextureReader } from './footprint.ts';
import type { SheetMaps, TransferInput } from './transfer-input.ts';
import type { BakeTriangles } from './triangles.ts';

/** A hair of weight keeps the colour of texels that are all clear. */
const HAIR = 1e-7;

/**
 * Shades samples of texels, a batch at a time: textures are read for all samples of a batch at once. Where two channels read one texture in the same way
 * (occlusion beside roughness and metallic) it is read once. One object a worker.
 */
export class SampleShader {
  readers: TextureReader[] = [];
  private channels: Partial<Record<ImageChannel, TextureReader>> = {};
  private input: TransferInput | null = null;
  private count = 0;
  /** The texel that samples are added to. */
  private at = 0;
  private readonly texels = new Int32Array(SAMPLE_BATCH);
  private readonly owner = new Uint32Array(SAMPLE_BATCH);
  private readonly triangle = new Int32Array(SAMPLE_BATCH);
  private readonly perAxis = new Uint8Array(SAMPLE_BATCH);
  /** Where the middle of each sample's texel lies: triangle and barycentrics. Of whole texels it follows from the corner. */
  private readonly middleTriangle = new Uint32Array(SAMPLE_BATCH);
  private readonly middleBary = new Float64Array(SAMPLE_BATCH * 3);
  private readonly middle = { triangle: 0, bary: new Float64Array(3) };
  private readonly bary = new Float64Array(SAMPLE_BATCH * 3);
  private readonly runs = new Int32Array(SAMPLE_BATCH + 1);
  private runCount = 0;
  /** Texels that lie whole on one triangle: where, their samples an axis, and the first of their samples, if single ones are needed. */
  private whole = 0;
  private readonly wholeTexel = new Int32Array(TEXEL_BATCH);
  private readonly wholeOwner = new Uint32Array(TEXEL_BATCH);
  private readonly wholeTriangle = new Int32Array(TEXEL_BATCH);
  private readonly wholeGrid = new Uint8Array(TEXEL_BATCH);
  private readonly wholePerAxis = new Uint8Array(TEXEL_BATCH);
  private readonly wholeCorner = new Float64Array(TEXEL_BATCH * 2);
  private readonly wholeSample = new Int32Array(TEXEL_BATCH);
  /** Some channel is no plain mean of its samples. */
  private single = false;
  /** Whether textures differ in size or in how they lie, so that some may be copied where others are minified. */
  mixed = false;
  /** Whether some texture is blended between its texels. */
  blends = false;
  private readonly affine: Affine = { u0: 0, ux: 0, uy: 0, v0: 0, vx: 0, vy: 0 };
  /** Colour × weight 0–2, alpha 3, occlusion roughness metallic 4–6, normal 7–9, emissive 10–12, samples 13. */
  private readonly sums = new Float64Array(14);

  /** @param slot of this worker among those that bake the same input */
  open(input: TransferInput, slot: number): void {
    if (this.input === input) return;
    this.input = input;
    this.readers = [];
    this.channels = {};
    const { look, triangles, maps } = input;
    const summed = (name: ImageChannel) =>
      name === 'baseColor' ? look.alphaMode === 'OPAQUE' && !triangles.color : name !== 'normal' || !maps.normal;
    this.single = !summed('baseColor') || Boolean(maps.normal && triangles.frames && look.normal);
    for (const [name, set] of Object.entries(input.textures) as [ImageChannel, LevelSet][]) {
      const use = input.look[name];
      if (!use) continue;
      // A channel whose single samples matter has its own: only one of both is filled.
      const sum = summed(name);
      let reader = this.readers.find(
        (reader) => reader.set === set && reader.summed === sum && sameUse(reader.use, use),
      );
      if (!reader) {
        reader = {
          set,
          use,
          base: input.triangles.sets.indexOf(use.uvSet) * input.triangles.count * 6,
          sampler: new LevelSampler(set, slot * READERS + this.readers.length),
          summed: sum,
        };
        this.readers.push(reader);
      }
      this.channels[name] = reader;
    }
    this.blends = this.readers.some(({ use }) => !use.nearest);
    const [first] = this.readers;
    this.mixed = this.readers.some(
      ({ set, base, use }) =>
        set.width !== first.set.width ||
        set.height !== first.set.height ||
        base !== first.base ||
        !sameTransform(use, first.use),
    );
  }

  /** Lets go of what was opened. */
  close(): void {
    this.input = null;
    this.readers = [];
    this.channels = {};
  }

  /** Samples that follow belong to this texel of the sheet. @param room samples that it may have, at most `SAMPLE_BATCH` */
  texel(at: number, room: number): void {
    if (this.count + room > SAMPLE_BATCH) this.flush();
    this.at = at;
  }

  /** Where the middle of the texel lies whose samples follow: what is copied is read there alone. */
  middleAt(triangle: number, bary: Float64Array): void {
    this.middle.triangle = triangle;
    this.middle.bary.set(bary);
  }

  /** @param t triangle @param perAxis samples an axis by which it is read @param owner of the texel */
  add(t: number, perAxis: number, bary: Float64Array, owner: number): void {
    const i = this.count++;
    this.texels[i] = this.at;
    this.owner[i] = owner;
    this.triangle[i] = t;
    this.perAxis[i] = perAxis;
    this.bary[i * 3] = bary[0];
    this.bary[i * 3 + 1] = bary[1];
    this.bary[i * 3 + 2] = bary[2];
    this.middleTriangle[i] = this.middle.triangle;
    for (let k = 0; k < 3; k++) this.middleBary[i * 3 + k] = this.middle.bary[k];
  }

  /**
   * A texel that lies whole on one triangle.
   * @param n samples an axis @param perAxis those for which the triangle is read @param x, y its corner on the sheet, px @param bary room for three numbers
   */
  addWhole(
    at: number,
    owner: number,
    t: number,
    n: number,
    perAxis: number,
    x: number,
    y: number,
    bary: Float64Array,
  ): void {
    if (this.whole === TEXEL_BATCH || (this.single && this.count + n * n > SAMPLE_BATCH)) this.flush();
    const j = this.whole++;
    this.wholeTexel[j] = at;
    this.wholeOwner[j] = owner;
    this.wholeTriangle[j] = t;
    this.wholeGrid[j] = n;
    this.wholePerAxis[j] = perAxis;
    this.wholeCorner[j * 2] = x;
    this.wholeCorner[j * 2 + 1] = y;
    this.wholeSample[j] = this.count;
    if (!this.single || !this.input) return;
    this.at = ~j;
    const { place } = this.input.triangles;
    for (let k = 0; k < n; k++)
      for (let i = 0; i < n; i++) {
        barycentrics(place, t * 6, x + (i + 0.5) / n, y + (k + 0.5) / n, bary);
        this.add(t, perAxis, bary, owner);
      }
  }

  /** Sums the samples of whole texels, and writes them. */
  private writeWhole(input: TransferInput): void {
    const { whole, wholeTriangle: triangle, wholeGrid: grid, wholeSample, sums } = this;
    const { look, maps, triangles } = input;
    for (const reader of this.readers) {
      if (!reader.summed) continue;
      reader.sampler.corners.set(this.wholeCorner.subarray(0, whole * 2));
      for (let j = 0; j < whole; ) {
        const from = j;
        const t = triangle[j];
        const n = grid[j];
        while (j < whole && triangle[j] === t && grid[j] === n) j++;
        affineOf(triangles, t, reader, this.affine);
        const { wrapS, wrapT, nearest } = reader.use;
        if (n > 1 && isCopied(triangles, t, reader)) {
          reader.sampler.sum(from, j, 1, this.affine, 0, wrapS, wrapT, nearest);
          for (let q = from * 4; q < j * 4; q++) reader.sampler.sums[q] *= n * n;
          continue;
        }
        const lod = levelOfDetail(triangles, t, reader, this.wholePerAxis[from]);
        reader.sampler.sum(from, j, n, this.affine, lod, wrapS, wrapT, nearest);
      }
    }
    const summed = (name: ImageChannel) => this.channels[name]?.sampler.sums;
    const [colour, occlusion, rough, emissive] = [
      summed('baseColor'),
      summed('occlusion'),
      summed('metallicRoughness'),
      summed('emissive'),
    ];
    const plain = look.alphaMode === 'OPAQUE' && !triangles.color;
    const normals = Boolean(maps.normal && this.channels.normal && triangles.frames);
    for (let j = 0; j < whole; j++) {
      const n = grid[j] * grid[j];
      const q = j * 4;
      const first = wholeSample[j];
      sums.fill(0);
      sums[13] = n;
      if (plain) {
        for (let k = 0; k < 3; k++) sums[k] = look.baseColorFactor[k] * (colour ? colour[q + k] : n) * (1 + HAIR);
        sums[3] = n;
      } else this.addColour(input, first, first + n);
      sums[4] = occlusion ? n + look.occlusionStrength * (occlusion[q] - n) : n;
      sums[5] = look.roughnessFactor * (rough ? rough[q + 1] : n);
      sums[6] = look.metallicFactor * (rough ? rough[q + 2] : n);
      if (normals) for (let i = first; i < first + n; i++) this.addNormal(input, i, sums);
      else sums[9] = n;
      if (maps.emissive)
        for (let k = 0; k < 3; k++) sums[10 + k] = look.emissiveFactor[k] * (emissive ? emissive[q + k] : n);
      write(maps, this.wholeTexel[j], sums, look, this.wholeOwner[j]);
    }
  }

  /** Writes all texels that were begun. */
  flush(): void {
    const { input, count, sums, texels } = this;
    if (!input || (count === 0 && this.whole === 0)) return;
    this.findRuns();
    this.readers.forEach((reader, k) => {
      this.readAll(input, reader, k);
    });
    this.writeWhole(input);
    const { look, maps } = input;
    for (let i = 0; i < count; ) {
      const from = i;
      const texel = texels[i];
      if (texel < 0) {
        i++;
        continue;
      }
      while (i < count && texels[i] === texel) i++;
      this.shade(input, from, i);
      write(maps, texel, sums, look, this.owner[from]);
    }
    this.count = 0;
    this.whole = 0;
  }

  /** Samples that follow each other on one triangle are read at one level of detail. */
  private findRuns(): void {
    const { count, triangle, perAxis, runs, texels } = this;
    let n = 0;
    for (let i = 0; i < count; i++)
      if (
        i === 0 ||
        triangle[i] !== triangle[i - 1] ||
        perAxis[i] !== perAxis[i - 1] ||
        texels[i] < 0 !== texels[i - 1] < 0
      )
        runs[n++] = i;
    runs[n] = count;
    this.runCount = n;
  }

  private readAll({ triangles }: TransferInput, textureReader: TextureReader, k: number): void {
    const { count, triangle, perAxis, bary, runs, runCount } = this;
    const { uv } = triangles;
    const places = textureReader.sampler.uv;
    const [a, b, c, d, e, f] = textureReader.use.transform;
    // Places are shared by what lies alike, unless some textures are copied and others are not.
    const { mixed } = this;
    const same = mixed
      ? k
      : this.readers.findIndex(
          (x) =>
            x.base === textureReader.base &&
            x.summed === textureReader.summed &&
            sameTransform(x.use, textureReader.use),
        );
    if (same < k) places.set(this.readers[same].sampler.uv.subarray(0, count * 2));
    for (let n = 0; n < runCount; n++) {
      const from = runs[n];
      const to = runs[n + 1];
      const t = triangle[from];
      // Whole texels are summed.
      if (textureReader.summed && this.texels[from] < 0) continue;
      if (same === k) {
        const o = textureReader.base + t * 6;
        const u0 = uv[o];
        const v0 = uv[o + 1];
        const u1 = uv[o + 2];
        const v1 = uv[o + 3];
        const u2 = uv[o + 4];
        const v2 = uv[o + 5];
        for (let i = from; i < to; i++) {
          const q = i * 3;
          const u = bary[q] * u0 + bary[q + 1] * u1 + bary[q + 2] * u2;
          const v = bary[q] * v0 + bary[q + 1] * v1 + bary[q + 2] * v2;
          places[i * 2] = a * u + c * v + e;
          places[i * 2 + 1] = b * u + d * v + f;
        }
      }
      if (mixed && perAxis[from] > 1 && isCopied(triangles, t, textureReader))
        this.readMiddles(triangles, textureReader, from, to);
      const lod = levelOfDetail(triangles, t, textureReader, perAxis[from]);
      textureReader.sampler.read(
        from,
        to,
        lod,
        textureReader.use.wrapS,
        textureReader.use.wrapT,
        textureReader.use.nearest,
      );
    }
  }

  /** All samples of a texel read the texture at the texel's middle. */
  private readMiddles(triangles: BakeTriangles, textureReader: TextureReader, from: number, to: number): void {
    const places = textureReader.sampler.uv;
    const { uv } = triangles;
    const { middleBary } = this;
    const [a, b, c, d, e, f] = textureReader.use.transform;
    affineOf(triangles, this.triangle[from], textureReader, this.affine);
    const { u0, ux, uy, v0, vx, vy } = this.affine;
    for (let i = from; i < to; i++) {
      if (this.texels[i] < 0) {
        const texel = ~this.texels[i];
        const x = this.wholeCorner[texel * 2] + 0.5;
        const y = this.wholeCorner[texel * 2 + 1] + 0.5;
        places[i * 2] = u0 + ux * x + uy * y;
        places[i * 2 + 1] = v0 + vx * x + vy * y;
        continue;
      }
      const o = textureReader.base + this.middleTriangle[i] * 6;
      const k0 = middleBary[i * 3];
      const k1 = middleBary[i * 3 + 1];
      const k2 = middleBary[i * 3 + 2];
      const u = k0 * uv[o] + k1 * uv[o + 2] + k2 * uv[o + 4];
      const v = k0 * uv[o + 1] + k1 * uv[o + 3] + k2 * uv[o + 5];
      places[i * 2] = a * u + c * v + e;
      places[i * 2 + 1] = b * u + d * v + f;
    }
  }

  /** Sums of the samples of a texel. */
  private shade(input: TransferInput, from: number, to: number): void {
    const { look, maps } = input;
    const { channels, sums } = this;
    sums.fill(0);
    sums[13] = to - from;
    this.addColour(input, from, to);
    const occlusion = channels.occlusion?.sampler.values;
    const rough = channels.metallicRoughness?.sampler.values;
    const { occlusionStrength, roughnessFactor, metallicFactor } = look;
    let o = 0;
    let r = 0;
    let m = 0;
    for (let q = from * 4; q < to * 4; q += 4) {
      o += occlusion ? 1 + occlusionStrength * (occlusion[q] - 1) : 1;
      r += rough ? roughnessFactor * rough[q + 1] : roughnessFactor;
      m += rough ? metallicFactor * rough[q + 2] : metallicFactor;
    }
    sums[4] = o;
    sums[5] = r;
    sums[6] = m;
    if (maps.normal) for (let i = from; i < to; i++) this.addNormal(input, i, sums);
    if (!maps.emissive) return;
    const [er, eg, eb] = look.emissiveFactor;
    const light = er + eg + eb > 0 ? channels.emissive?.sampler.values : undefined;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let q = from * 4; q < to * 4; q += 4) {
      x += light ? er * light[q] : er;
      y += light ? eg * light[q + 1] : eg;
      z += light ? eb * light[q + 2] : eb;
    }
    sums[10] = x;
    sums[11] = y;
    sums[12] = z;
  }

  /** Colour and alpha; with alpha modes colour is weighted by alpha. */
  private addColour({ look, triangles }: TransferInput, from: number, to: number): void {
    const { sums, bary } = this;
    const [f0, f1, f2, f3] = look.baseColorFactor;
    const picture = this.channels.baseColor?.sampler.values;
    const { color } = triangles;
    const opaque = look.alphaMode === 'OPAQUE';
    let sr = 0;
    let sg = 0;
    let sb = 0;
    let sa = 0;
    for (let i = from; i < to; i++) {
      let r = f0;
      let g = f1;
      let b = f2;
      let alpha = f3;
      if (picture) {
        const q = i * 4;
        r *= picture[q];
        g *= picture[q + 1];
        b *= picture[q + 2];
        alpha *= picture[q + 3];
      }
      if (color) {
        const o = this.triangle[i] * 12;
        const b0 = bary[i * 3];
        const b1 = bary[i * 3 + 1];
        const b2 = bary[i * 3 + 2];
        r *= b0 * color[o] + b1 * color[o + 4] + b2 * color[o + 8];
        g *= b0 * color[o + 1] + b1 * color[o + 5] + b2 * color[o + 9];
        b *= b0 * color[o + 2] + b1 * color[o + 6] + b2 * color[o + 10];
        alpha *= b0 * color[o + 3] + b1 * color[o + 7] + b2 * color[o + 11];
      }
      alpha = opaque ? 1 : Math.max(0, Math.min(1, alpha));
      const weight = alpha + HAIR;
      sr += r * weight;
      sg += g * weight;
      sb += b * weight;
      sa += alpha;
    }
    sums[0] = sr;
    sums[1] = sg;
    sums[2] = sb;
    sums[3] = sa;
  }

  /** Source tangent frame → object space → target frame. */
  private addNormal(input: TransferInput, i: number, sums: Float64Array): void {
    const { frames } = input.triangles;
    const reader = this.channels.normal;
    if (!reader || !frames) {
      sums[9] += 1;
      return;
    }
    const t = this.triangle[i];
    const b0 = this.bary[i * 3];
    const b1 = this.bary[i * 3 + 1];
    const b2 = this.bary[i * 3 + 2];
    const values = reader.sampler.values;
    const q = i * 4;
    const k = input.look.normalScale;
    let x = values[q] * k;
    let y = values[q + 1] * k;
    let z = values[q + 2];
    const ls = Math.sqrt(x * x + y * y + z * z) || 1;
    x /= ls;
    y /= ls;
    z /= ls;
    const o = t * 33;
    const mix = (n: number) => b0 * frames[o + n] + b1 * frames[o + 11 + n] + b2 * frames[o + 22 + n];
    let nx = mix(0);
    let ny = mix(1);
    let nz = mix(2);
    const ln = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    nx /= ln;
    ny /= ln;
    nz /= ln;
    // Source frame: tangent as interpolated and normalised, bitangent = normal × tangent · w.
    let sx = mix(3);
    let sy = mix(4);
    let sz = mix(5);
    const l1 = Math.sqrt(sx * sx + sy * sy + sz * sz) || 1;
    sx /= l1;
    sy /= l1;
    sz /= l1;
    const sw = mix(6) < 0 ? -1 : 1;
    const ox = sx * x + (ny * sz - nz * sy) * sw * y + nx * z;
    const oy = sy * x + (nz * sx - nx * sz) * sw * y + ny * z;
    const oz = sz * x + (nx * sy - ny * sx) * sw * y + nz * z;
    let qx = mix(7);
    let qy = mix(8);
    let qz = mix(9);
    const l2 = Math.sqrt(qx * qx + qy * qy + qz * qz) || 1;
    qx /= l2;
    qy /= l2;
    qz /= l2;
    const qw = mix(10) < 0 ? -1 : 1;
    const rx = (ny * qz - nz * qy) * qw;
    const ry = (nz * qx - nx * qz) * qw;
    const rz = (nx * qy - ny * qx) * qw;
    // Solve [q r n] · out = o by Cramer's rule: the frame is not exactly square after interpolation.
    const det = qx * (ry * nz - rz * ny) - rx * (qy * nz - qz * ny) + nx * (qy * rz - qz * ry);
    if (Math.abs(det) < 1e-9) {
      sums[9] += 1;
      return;
    }
    const a = (ox * (ry * nz - rz * ny) - rx * (oy * nz - oz * ny) + nx * (oy * rz - oz * ry)) / det;
    const b = (qx * (oy * nz - oz * ny) - ox * (qy * nz - qz * ny) + nx * (qy * oz - qz * oy)) / det;
    const d = (qx * (ry * oz - rz * oy) - rx * (qy * oz - qz * oy) + ox * (qy * rz - qz * ry)) / det;
    const l = Math.sqrt(a * a + b * b + d * d) || 1;
    sums[7] += a / l;
    sums[8] += b / l;
    sums[9] += d / l;
  }
}

function sameUse(textureUse: TextureUse, b: TextureUse): boolean {
  return (
    textureUse.uvSet === b.uvSet &&
    textureUse.wrapS === b.wrapS &&
    textureUse.wrapT === b.wrapT &&
    textureUse.nearest === b.nearest &&
    sameTransform(textureUse, b)
  );
}

const sameTransform = (textureUse: TextureUse, b: TextureUse): boolean =>
  textureUse.transform.every((v, k) => v === b.transform[k]);

/** Means of the samples to bytes: linear light is averaged first and encoded last. */
function write(maps: SheetMaps, i: number, sums: Float64Array, look: MaterialLook, owner: number): void {
  const sum = sums[13];
  const weight = sums[3] + sum * HAIR;
  for (let c = 0; c < 3; c++) {
    maps.baseColor[i * 4 + c] = encodeByte(sums[c] / weight);
    maps.orm[i * 3 + c] = unitByte(sums[4 + c] / sum);
  }
  maps.baseColor[i * 4 + 3] = look.alphaMode === 'OPAQUE' ? 255 : unitByte(sums[3] / sum);
  if (maps.normal) {
    const l = Math.sqrt(sums[7] ** 2 + sums[8] ** 2 + sums[9] ** 2) || 1;
    for (let c = 0; c < 3; c++) maps.normal[i * 3 + c] = unitByte((sums[7 + c] / l) * 0.5 + 0.5);
  }
  if (maps.emissive)
    for (let c = 0; c < 3; c++) maps.emissive[i * 3 + c] = encodeByte(sums[10 + c] / sum / maps.emissiveStrength);
  maps.owner[i] = owner;
}
