import type { Primitive } from '@gltf-transform/core';
import { buildBvh } from '@wembrel/kernels/bvh';
import { RayCaster } from '@wembrel/kernels/rays';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { VertexLight } from '../../decisions/light-decisions.ts';
import type { Model } from '../../scene/model.ts';
import { HitSurface, unit } from '../target/hit-surface.ts';
import { rayMesh } from '../target/ray-mesh.ts';
import { sceneObjects } from '../target/scene-objects.ts';
import { clearIn, isAlphaOccluder } from './alpha-occluders.ts';
import { SampleMeans, SecondaryRays } from './secondary-rays.ts';

export interface LightOptions {
  /** May throw to stop, before anything of the part is changed. */
  progress?: (share: number) => void;
  /** Only parts of these receive light; empty: all. */
  slots?: readonly string[];
  /** Base colours of alpha-tested materials, by image; what is not there counts as opaque as its factor. */
  pictures?: ReadonlyMap<string, LevelSet>;
}

/** Weight of a face's corner in the point from which it looks: a little inside, so that corners of rooms are not inside their walls. */
const CORNER = 0.9;

/**
 * Multiplies AO and a sun into the vertex colours of a model, in place; 16 bit, linear. Everything in the model casts shadows, at all its places, but for
 * what alpha-tested materials cut away; a mesh that is placed several times gets the light of its first place. Parts without normals are lit by their
 * faces.
 * @returns vertices that were lit, and meshes that stand at several places
 */
export function lightVertices(
  model: Model,
  light: VertexLight,
  { progress, slots = [], pictures = new Map() }: LightOptions = {},
): { vertices: number; severalPlaces: number } {
  const objects = sceneObjects([model]);
  const all = rayMesh([model], objects);
  const bvh = buildBvh(all.positions, all.indices);
  const rays = new SecondaryRays(new RayCaster(bvh), 1 / bvh.space.scale);
  const hits = new HitSurface(all, []);
  const textures = all.sources.map(({ look }) => ({ baseColor: pictures.get(look.baseColor?.image ?? '') }));
  const isClear = clearIn(isAlphaOccluder(all) ? [{ mesh: all, from: 0, to: all.triangles, textures }] : []);
  let vertices = 0;
  let source = 0;
  const lit = new Set<Primitive>();
  for (const object of objects)
    for (const id of object.parts) {
      const stretch = all.sources[source++];
      const part = model.parts[id];
      if (object.instance > 0 || lit.has(part.primitive) || (slots.length > 0 && !slots.includes(stretch.slot)))
        continue;
      lit.add(part.primitive);
      const from = stretch.from * 3;
      const corners3 = all.triangles * 3;
      const corners = (stretch.to - stretch.from) * 3;
      const at = (i: number, hitSurface: HitSurface): boolean => {
        const k = i % 3;
        const rest = (1 - CORNER) / 2;
        // Often enough for whoever wants to stop in the middle of a large part.
        if ((i & 4095) === 0) progress?.((from + i) / corners3);
        hitSurface.at((from + i - k) / 3, k === 1 ? CORNER : rest, k === 2 ? CORNER : rest);
        return true;
      };
      const seedOf = (i: number) => [from + i, 0] as const;
      const ao = new SampleMeans();
      const sun = new SampleMeans();
      const samples = { count: corners, at, hits };
      if (light.ao) rays.ambient(samples, { ...light.ao, seedOf, isClear }, ao);
      if (light.sun) {
        const d = [...light.sun.direction];
        if (!(unit(d) > 0)) throw new Error('the way to the sun has no length');
        const spread = Math.sin((Math.min(89, light.sun.softness) * Math.PI) / 180);
        rays.sun(samples, { rays: spread > 0 ? light.sun.rays : 1, towards: d, spread, seedOf, isClear }, sun);
      }
      const count = part.positions.length / 3;
      const sums = new Float64Array(count * 3);
      const weights = new Float64Array(count);
      for (let i = 0; i < corners; i++) {
        const v = part.indices[i];
        const dark = light.ao ? 1 - light.ao.strength * (1 - ao.mean(i, 1)) : 1;
        for (let c = 0; c < 3; c++) {
          const s = light.sun;
          sums[v * 3 + c] += dark * (s ? 1 - s.strength + s.strength * s.tint[c] * sun.mean(i, 0) : 1);
        }
        weights[v]++;
      }
      writeColours(model, part.primitive, part.colors, sums, weights);
      vertices += count;
      progress?.(source / all.sources.length);
    }
  return {
    vertices,
    severalPlaces: new Set(objects.filter((object) => object.instance > 0).map((object) => object.parts[0])).size,
  };
}

function writeColours(
  model: Model,
  primitive: Primitive,
  old: Float32Array | null,
  sums: Float64Array,
  weights: Float64Array,
): void {
  const out = new Uint16Array(weights.length * 4);
  for (let v = 0; v < weights.length; v++) {
    for (let c = 0; c < 3; c++) {
      const light = weights[v] > 0 ? sums[v * 3 + c] / weights[v] : 1;
      out[v * 4 + c] = Math.round(65535 * Math.min(1, Math.max(0, light * (old ? old[v * 4 + c] : 1))));
    }
    out[v * 4 + 3] = Math.round(65535 * (old ? Math.min(1, Math.max(0, old[v * 4 + 3])) : 1));
  }
  const accessor = model.document.createAccessor().setType('VEC4').setArray(out).setNormalized(true);
  const [buffer = model.document.createBuffer()] = model.document.getRoot().listBuffers();
  primitive.setAttribute('COLOR_0', accessor.setBuffer(buffer));
}
