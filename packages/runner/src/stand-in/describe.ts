import type { Model } from '@wembrel/core/scene/model';
import type { Level } from '@wembrel/core/stand-in/levels';
import { isWatertight, type LightMesh, lightMesh, volumeOf } from '@wembrel/core/stand-in/light-mesh';
import { distanceFor, pxPerMetre, SCREEN_HEIGHT } from '@wembrel/core/stand-in/outline-error';
import { surfaceDistance } from '@wembrel/core/stand-in/surface-distance';
import type { RayBake } from '../rays/bake-rays.ts';
import type { LaidFlat } from './lay-out.ts';
import type { StandInModel } from './report.ts';
import type { HeavySurface, Shape } from './shape.ts';
import { weightOf } from './source.ts';

/** The shape of a stand-in, and which triangles of its source somebody sees. */
export interface Shaped {
  shape: Shape;
  keep: Uint8Array | null;
}

/** What was written of one stand-in. */
export interface Written {
  levels: string[];
  card: string | null;
  maps: Record<string, string>;
}

/** All that is known of a stand-in. */
export interface Made {
  model: Model;
  apart: ReadonlySet<number>;
  heavy: HeavySurface;
  shaped: Shaped;
  flat: LaidFlat;
  bake: RayBake;
  levels: readonly Level[];
  written: Written;
}

/** What is to be said of a stand-in. @param distance from where it is meant to be seen, m */
export function describe(made: Made, distance: number): StandInModel {
  const { model, apart, heavy, shaped, flat: laid, bake, levels, written } = made;
  const { report: flat } = laid;
  const seen = lightMesh(heavy.mesh, shaped.keep, null);
  const light = shaped.shape.mesh;
  const apartOf = surfaceDistance(seen, light);
  const left = weightOf(model, apart);
  const [baked] = bake.pairings;
  const volume = (mesh: LightMesh) => (isWatertight(mesh) ? volumeOf(mesh) : null);
  return {
    source: model.path,
    path: written.levels[0],
    before: weightOf(model),
    after: {
      triangles: levels[0].triangles + left.triangles,
      slots: 1 + left.slots,
      drawCalls: 1 + left.drawCalls,
    },
    watertight: isWatertight(light),
    volume: { before: volume(seen), after: volume(light) },
    strays: apartOf.stray,
    hausdorff: apartOf.greatest,
    hidden: shaped.keep ? shaped.keep.reduce((sum, kept) => sum + (1 - kept), 0) : 0,
    distance,
    outlinePx: shaped.shape.error * pxPerMetre(distance),
    charts: flat.charts,
    coverage: flat.coverage,
    density: flat.density,
    texelsPerPx: flat.density / pxPerMetre(distance),
    reaches: { outward: baked.outward, inward: baked.inward },
    texels: { all: baked.texels, missed: baked.missed, stray: baked.stray },
    lods: lodsOf(made),
    maps: written.maps,
    apart: [...apart].map((slot) => model.slots[slot].name),
    fidelity: null,
  };
}

/** px that a model is high when it becomes a card: from then on nobody sees that it is flat. */
const CARD_HEIGHT = 64;

/** From where on cards are drawn, m: where one of their texels is no more than one px, and the model small; null without cards. */
export const cardDistance = ({ cards }: LaidFlat, { diagonal }: HeavySurface): number | null =>
  cards && Math.max(distanceFor(1 / cards.density, 1), distanceFor(diagonal, CARD_HEIGHT));

/** The levels as they were written, the card last. */
function lodsOf({ heavy, flat, levels, written }: Made): StandInModel['lods'] {
  const screen = (distance: number) =>
    distance > 0 ? Math.min(1, (heavy.diagonal * pxPerMetre(distance)) / SCREEN_HEIGHT) : 1;
  const lods = levels.map(({ triangles, error, distance }, i) => ({
    path: written.levels[i],
    triangles,
    error,
    errorPx: distance > 0 ? error * pxPerMetre(distance) : 0,
    distance,
    screen: screen(distance),
    card: false,
  }));
  const distance = cardDistance(flat, heavy);
  if (!written.card || !flat.cards || distance === null) return lods;
  const error = 1 / flat.cards.density;
  const { indices } = flat.model.parts[1];
  return [
    ...lods,
    {
      path: written.card,
      triangles: indices.length / 3,
      error,
      errorPx: error * pxPerMetre(distance),
      distance,
      screen: screen(distance),
      card: true,
    },
  ];
}
