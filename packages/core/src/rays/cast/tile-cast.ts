import type { ClosestPoint } from '@wembrel/kernels/closest-point';
import type { RayCaster } from '@wembrel/kernels/rays';
import { TILE } from '../../bake/tile-cover.ts';
import type { MapKind } from '../../decisions/map-kinds.ts';
import type { BrushStamp, RaySettings } from '../../decisions/ray-decisions.ts';
import { linearPart, type Mat4 } from '../../math/mat4.ts';
import { type RayMaps, writeTexel } from '../maps/baked-maps.ts';
import { FAULT } from '../maps/fault-kinds.ts';
import { HitSurface, type SourceTextures, unit } from '../target/hit-surface.ts';
import type { LowTarget } from '../target/low-target.ts';
import { faceNormal, type RayMesh } from '../target/ray-mesh.ts';
import { type AlphaOccluder, clearIn, isAlphaOccluder } from './alpha-occluders.ts';
import { PrimaryHits, type RayOrigins } from './primary-hits.ts';
import { SampleMeans, SecondaryRays } from './secondary-rays.ts';
import { TileSamples, tileFrame } from './tile-samples.ts';

/** One pairing, ready to be baked; plain data and shared memory. */
export interface RayJob {
  /** Which pairing, from 0. */
  pairing: number;
  target: LowTarget;
  /** See `PairingDecision.surface`. */
  surface: LowTarget | null;
  high: RayMesh;
  textures: SourceTextures;
  inward: number;
  localReaches: readonly BrushStamp[];
  settings: RaySettings;
  /** m; see `RaySettings`. */
  curvatureRadius: number;
  thicknessDistance: number;
  aoDistance: number;
  /** Low x y z and high x y z of the box that positions are given in, m. */
  box: readonly number[];
  /** Colour of each triangle of the high-poly as R + 256 G + 65536 B; null when IDs go by island or vertex colour. */
  ids: Uint32Array | null;
  /** Connected piece of each triangle of the low-poly. */
  pieces: Uint32Array;
  /** px a metre of each triangle of the low-poly. */
  density: Float32Array;
  /** What may be looked through where AO sees everything. */
  occluders: readonly AlphaOccluder[];
}

/** Kernels over a job's hierarchies, and working memory; one object a worker. */
interface RayTools {
  caster: RayCaster;
  /** Over all that AO sees; the caster itself when that is the pairing's own. */
  ambient: RayCaster;
  /** Nearest points of the low-poly. */
  low: ClosestPoint;
  /** Half the side of the scene, m. */
  unit: number;
}

/** A hit is skewed when its ray comes in at more than this (cosine of 30°) … */
const SLANT = 0.8660254037844387;
/** … and lies more px aside than this from where a straight one would be. */
const ASIDE = 2;

/** Working memory of one worker. */
export class RayScratch {
  readonly samples = new TileSamples();
  readonly surfaceSamples = new TileSamples();
  readonly hits = new PrimaryHits();
  readonly ambient = new SampleMeans();
  readonly thickness = new SampleMeans();
  readonly curvature = new SampleMeans();
}

export interface CastTile {
  tile: number;
  list: Uint32Array;
  surfaceList: Uint32Array | undefined;
  tools: RayTools;
  scratch: RayScratch;
}

/**
 * Bakes one tile of a pairing into the maps. Texels of other pairings are left alone.
 * @param list, surfaceList triangles of the tile, of the low-poly and of the casting surface @returns rays cast
 */
export function castTile(job: RayJob, out: RayMaps, { tile, list, surfaceList, tools, scratch }: CastTile): number {
  const { target, settings } = job;
  const before = tools.caster.cast + (tools.ambient === tools.caster ? 0 : tools.ambient.cast);
  const frame = tileFrame(tile, out.width, out.height);
  const grid = Math.sqrt(settings.samples);
  const { samples, hits } = scratch;
  samples.find(target.place, list, frame, grid);
  if (samples.count === 0) return 0;
  let surface: RayOrigins['surface'] = null;
  if (job.surface) {
    scratch.surfaceSamples.find(job.surface.place, surfaceList ?? new Uint32Array(0), frame, grid);
    surface = { target: job.surface, samples: scratch.surfaceSamples };
  }
  const high = new HitSurface(job.high, job.textures);
  // A surface of its own for looking through faces, since the other one is in use meanwhile.
  const through = new HitSurface(job.high, job.textures);
  const isClear = isAlphaOccluder(job.high) ? (t: number, u: number, v: number) => through.isClear(t, u, v) : null;
  const { hit, backFaces } = settings;
  const origins = { target, surface, inward: job.inward, localReaches: job.localReaches };
  hits.cast(samples, origins, { hit, backFaces, caster: tools.caster, isClear });
  const n = samples.count;
  const wanted = (k: MapKind) => settings.maps.includes(k);
  const at = (i: number, hitSurface: HitSurface): boolean => {
    if (hits.triangle[i] < 0) return false;
    hitSurface.at(hits.triangle[i], hits.u[i], hits.v[i]);
    if (settings.backFaces) hitSurface.faceTowards(hits.out, i * 3);
    return true;
  };
  const texelNumber = (i: number) => {
    const t = samples.texel[i];
    return (frame.y + Math.floor(t / TILE)) * out.width + frame.x + (t % TILE);
  };
  const seeded = (perSample: number) => (i: number) =>
    [texelNumber(i), Math.max(0, samples.sub[i]) * perSample] as const;
  const source = { count: n, at, hits: high };
  if (wanted('ao')) {
    const rays = Math.ceil(settings.ao.rays / settings.samples);
    const clear = tools.ambient === tools.caster ? isClear : clearIn(job.occluders);
    const ambient = { rays, distance: job.aoDistance, seedOf: seeded(rays), isClear: clear };
    new SecondaryRays(tools.ambient, tools.unit).ambient(source, ambient, scratch.ambient);
  }
  const own = new SecondaryRays(tools.caster, tools.unit);
  if (wanted('thickness')) {
    const rays = Math.ceil(settings.thickness.rays / settings.samples);
    own.thickness(source, { rays, distance: job.thicknessDistance, seedOf: seeded(rays) }, scratch.thickness);
  }
  if (wanted('curvature') || wanted('convex') || wanted('concave')) {
    const directions = Math.max(4, Math.ceil(settings.curvature.directions / settings.samples));
    const probe = new HitSurface(job.high, job.textures);
    const curvature = { probe, directions, radius: job.curvatureRadius, seedOf: seeded(1) };
    own.curvature(source, curvature, scratch.curvature);
  }
  writeTile(job, out, frame, scratch, high, at);
  markFaults(job, out, frame, scratch, tools);
  return tools.caster.cast + (tools.ambient === tools.caster ? 0 : tools.ambient.cast) - before;
}

type Frame = ReturnType<typeof tileFrame>;

/** Means of the samples of each texel, into all maps. */
function writeTile(
  job: RayJob,
  out: RayMaps,
  frame: Frame,
  scratch: RayScratch,
  high: HitSurface,
  at: (i: number, hitSurface: HitSurface) => boolean,
): void {
  const { samples, hits } = scratch;
  const kinds = out.maps.map((map) => map.kind);
  const sums = out.maps.map((map) => new Float64Array(map.channels));
  const value = new Float64Array(3);
  const colours = new Map<number, number>();
  let i = 0;
  while (i < samples.count) {
    const texel = samples.texel[i];
    const x = frame.x + (texel % TILE);
    const y = frame.y + Math.floor(texel / TILE);
    const o = y * out.width + x;
    let end = i;
    while (end < samples.count && samples.texel[end] === texel) end++;
    let met = 0;
    let height = 0;
    for (const sum of sums) sum.fill(0);
    colours.clear();
    for (let k = i; k < end; k++) {
      if (!at(k, high)) continue;
      met++;
      height += hits.height[k];
      high.addNormalMap();
      kinds.forEach((kind, m) => {
        if (kind === 'id') {
          const id = idAt(job, high, samples.triangle[k]);
          colours.set(id, (colours.get(id) ?? 0) + 1);
          return;
        }
        sample(kind, job, scratch, high, k, value);
        for (let c = 0; c < sums[m].length; c++) sums[m][c] += value[c];
      });
    }
    if (out.pairing[o] > 0 && out.pairing[o] <= job.pairing) samples.clash[texel] = 1;
    out.island[o] = job.target.island[samples.triangle[i]];
    out.pairing[o] = job.pairing + 1;
    out.triangle[o] = samples.triangle[i];
    if (met > 0) {
      out.hit[o] = 1;
      out.distance[o] = height / met;
    }
    out.maps.forEach((map, m) => {
      // Where there is no high-poly, nothing is opaque; all other maps are filled from their neighbours.
      if (met === 0) return;
      if (map.kind === 'id') spread(mostFrequent(colours), sums[m]);
      else {
        const by = map.kind === 'opacity' ? end - i : met;
        for (let c = 0; c < map.channels; c++) sums[m][c] /= by;
      }
      writeTexel(out, map, x, y, sums[m]);
    });
    i = end;
  }
}

function mostFrequent(colours: ReadonlyMap<number, number>): number {
  let best = 0;
  let most = 0;
  for (const [c, n] of colours)
    if (n > most || (n === most && c < best)) {
      best = c;
      most = n;
    }
  return best;
}

function spread(colour: number, out: Float64Array): void {
  out[0] = colour & 255;
  out[1] = (colour >> 8) & 255;
  out[2] = colour >> 16;
}

/** Exact colour of a sample. */
function idAt(job: RayJob, high: HitSurface, lowTriangle: number): number {
  if (job.ids) return job.ids[high.triangle];
  if (job.settings.id.by === 'island') return islandColour(job.target.island[lowTriangle]);
  return high.nearestVertexColour();
}

/** What a map shows of one sample, not yet encoded. */
function sample(kind: MapKind, job: RayJob, scratch: RayScratch, high: HitSurface, i: number, v: Float64Array): void {
  const { look } = high.mesh.sources[high.mesh.sourceOf[high.triangle]];
  switch (kind) {
    case 'normal':
      intoTangentSpace(job.target, scratch.samples, i, high.normal, v);
      return;
    case 'object-normal':
      intoObjectSpace(
        job.target.mesh.sources[job.target.mesh.sourceOf[scratch.samples.triangle[i]]].world,
        high.normal,
        v,
      );
      return;
    case 'ao':
      v[0] = scratch.ambient.mean(i, 1);
      return;
    case 'thickness':
      v[0] = scratch.thickness.mean(i, 1);
      return;
    case 'curvature':
    case 'convex':
    case 'concave': {
      const c = Math.max(-1, Math.min(1, scratch.curvature.mean(i, 0) * job.curvatureRadius));
      v[0] = kind === 'curvature' ? 0.5 + 0.5 * c : kind === 'convex' ? Math.max(0, c) : Math.max(0, -c);
      return;
    }
    case 'height':
      v[0] = scratch.hits.height[i];
      return;
    case 'position':
      for (let k = 0; k < 3; k++) v[k] = (high.point[k] - job.box[k]) / Math.max(1e-12, job.box[k + 3] - job.box[k]);
      return;
    case 'vertex-color': {
      const c = high.vertexColor();
      for (let k = 0; k < 3; k++) v[k] = c[k];
      return;
    }
    case 'opacity':
      v[0] = high.opacity();
      return;
    case 'color': {
      const c = high.vertexColor();
      const t = high.channel('baseColor');
      for (let k = 0; k < 3; k++) v[k] = look.baseColorFactor[k] * c[k] * (t ? t[k] : 1);
      return;
    }
    case 'metallic':
      v[0] = look.metallicFactor * (high.channel('metallicRoughness')?.[2] ?? 1);
      return;
    case 'roughness':
      v[0] = look.roughnessFactor * (high.channel('metallicRoughness')?.[1] ?? 1);
      return;
    case 'occlusion':
      v[0] = 1 + look.occlusionStrength * ((high.channel('occlusion')?.[0] ?? 1) - 1);
      return;
    case 'emissive': {
      const t = high.channel('emissive');
      for (let k = 0; k < 3; k++) v[k] = look.emissiveFactor[k] * (t ? t[k] : 1);
      return;
    }
    case 'id':
      return;
  }
}

/** A world-space normal in the low-poly's frame at a sample: the same frame as whoever draws it interpolates. */
function intoTangentSpace(
  target: LowTarget,
  samples: TileSamples,
  i: number,
  n: Float64Array,
  out: Float64Array,
): void {
  const t = samples.triangle[i];
  const b1 = samples.b1[i];
  const b2 = samples.b2[i];
  const b0 = 1 - b1 - b2;
  const { normals, tangents } = target;
  const o = t * 9;
  const q = t * 12;
  const m = [0, 1, 2].map((k) => b0 * normals[o + k] + b1 * normals[o + 3 + k] + b2 * normals[o + 6 + k]);
  unit(m);
  const a = [0, 1, 2].map((k) => b0 * tangents[q + k] + b1 * tangents[q + 4 + k] + b2 * tangents[q + 8 + k]);
  unit(a);
  const w = tangents[q + 3] < 0 ? -1 : 1;
  const b = [(m[1] * a[2] - m[2] * a[1]) * w, (m[2] * a[0] - m[0] * a[2]) * w, (m[0] * a[1] - m[1] * a[0]) * w];
  // Cramer's rule: after interpolation the frame is not exactly square.
  const det =
    a[0] * (b[1] * m[2] - b[2] * m[1]) - b[0] * (a[1] * m[2] - a[2] * m[1]) + m[0] * (a[1] * b[2] - a[2] * b[1]);
  if (Math.abs(det) < 1e-9) {
    out[0] = out[1] = 0;
    out[2] = 1;
    return;
  }
  const x = n[0];
  const y = n[1];
  const z = n[2];
  out[0] = (x * (b[1] * m[2] - b[2] * m[1]) - b[0] * (y * m[2] - z * m[1]) + m[0] * (y * b[2] - z * b[1])) / det;
  out[1] = (a[0] * (y * m[2] - z * m[1]) - x * (a[1] * m[2] - a[2] * m[1]) + m[0] * (a[1] * z - a[2] * y)) / det;
  out[2] = (a[0] * (b[1] * z - b[2] * y) - b[0] * (a[1] * z - a[2] * y) + x * (a[1] * b[2] - a[2] * b[1])) / det;
}

/** A world-space normal in the space of the low-poly's mesh. */
function intoObjectSpace(world: Mat4, n: Float64Array, out: Float64Array): void {
  const m = linearPart(world);
  for (let k = 0; k < 3; k++) out[k] = m[k * 3] * n[0] + m[k * 3 + 1] * n[1] + m[k * 3 + 2] * n[2];
  unit(out);
}

/** A colour for the number of an island; see `idColour`. */
function islandColour(island: number): number {
  let h = Math.imul(island, 0x9e3779b1) >>> 0;
  h = (Math.imul(h ^ (h >>> 15), 0x85ebca6b) >>> 0) % 16777216;
  return h | 0x202020;
}

/** What is wrong with each texel, by its first sample that hit. */
function markFaults(job: RayJob, out: RayMaps, frame: Frame, scratch: RayScratch, tools: RayTools): void {
  const { samples, hits } = scratch;
  const { mesh } = job.target;
  const q = new Float64Array(3);
  const face = new Float64Array(3);
  const other = new Float64Array(3);
  // A map of what is there has holes where nothing is: they are no misses.
  const holes = out.maps.some((map) => map.kind === 'opacity');
  for (let i = 0; i < samples.count; ) {
    const texel = samples.texel[i];
    const o = (frame.y + Math.floor(texel / TILE)) * out.width + frame.x + (texel % TILE);
    let bits = samples.clash[texel] ? FAULT.clash : 0;
    let first = -1;
    let end = i;
    while (end < samples.count && samples.texel[end] === texel) {
      if (first < 0 && hits.triangle[end] >= 0) first = end;
      end++;
    }
    i = end;
    if (first < 0) {
      out.faults[o] = holes || hits.clear[i - 1] ? bits : bits | FAULT.missed;
      continue;
    }
    const t = samples.triangle[first];
    const h = Math.abs(hits.height[first]);
    for (let k = 0; k < 3; k++) q[k] = hits.point[first * 3 + k] + hits.out[first * 3 + k] * hits.height[first];
    if (h > tools.unit * 1e-4 && tools.low.find(q[0], q[1], q[2], h * 0.999) && tools.low.triangle !== t) {
      faceNormal(mesh, tools.low.triangle, other);
      const facing =
        other[0] * hits.out[first * 3] + other[1] * hits.out[first * 3 + 1] + other[2] * hits.out[first * 3 + 2];
      const near = tools.low.distance < h * 0.5;
      if (near && (facing < -0.01 || job.pieces[tools.low.triangle] !== job.pieces[t])) bits |= FAULT.stray;
    }
    faceNormal(mesh, t, face);
    const cosine =
      face[0] * hits.out[first * 3] + face[1] * hits.out[first * 3 + 1] + face[2] * hits.out[first * 3 + 2];
    if (cosine < SLANT && h * Math.sqrt(Math.max(0, 1 - cosine * cosine)) * job.density[t] > ASIDE)
      bits |= FAULT.skewed;
    out.faults[o] = bits;
  }
}

/** Channels of the high-poly's materials whose pictures a map reads. */
export const KIND_CHANNELS: Partial<
  Record<MapKind, readonly ('baseColor' | 'metallicRoughness' | 'normal' | 'occlusion' | 'emissive')[]>
> = {
  normal: ['normal'],
  'object-normal': ['normal'],
  color: ['baseColor'],
  opacity: ['baseColor'],
  metallic: ['metallicRoughness'],
  roughness: ['metallicRoughness'],
  occlusion: ['occlusion'],
  emissive: ['emissive'],
};
