import type { CollisionKind } from '../decisions/collision.ts';
import { protectedMip, type SheetDecision, type SheetKind } from '../decisions/sheets.ts';
import type { Layout } from '../layout/layout.ts';
import { placedBox } from '../layout/place.ts';
import type { KeptApart, Routing } from '../plan/route.ts';
import type { Model } from '../scene/model.ts';
import type { ImageLoss } from './profile-loss.ts';
import { round } from './round.ts';

/** The collision shapes of a model, in a file of their own. */
export interface CollisionFile {
  file: string;
  /** File of the model. */
  model: string;
  shape: CollisionKind;
  /** How many solids. */
  shapes: number;
  /** m³ */
  volume: number;
  /** Share of the volume of the convex hull. */
  ofHull: number;
}

/** What code needs to know about a delivery: sheets, bays with their UV rectangles, and which slot went where. */
export interface Manifest {
  format: 'wembrel-manifest';
  version: 1;
  conventions: { uv: string; normal: string; orm: string; colour: string };
  models: { file: string; name: string }[];
  sheets: {
    name: string;
    kind: SheetKind;
    /** Width, px. */
    size: number;
    width: number;
    height: number;
    margin: number;
    padding: number;
    protectedMip: number;
    coverage: number;
    scale: number;
    maps: Record<string, string>;
    /** What its bays were laid by, for when it grows. */
    settings: Pick<SheetDecision, 'swatch' | 'cell' | 'maps'>;
    bays: {
      id: number;
      form: 'plot' | 'swatch' | 'strip' | 'cell';
      slot: string;
      /** Upper left and size, px. */
      px: [number, number, number, number];
      /** Least u, v and greatest u, v; V runs down. */
      uv: [number, number, number, number];
      quarterTurns: number;
      /** Cosine and sine of its turn, where that is no quarter. */
      direction?: [number, number];
      /** It lies mirrored, from right to left before it is turned. */
      flipped?: true;
      /** px per texel of the source, exactly. */
      scale: number;
      /** By what it is known again when the sheet grows. */
      key: string;
      /** Islands stacked here. */
      islands: number;
    }[];
  }[];
  slots: { model: string; slot: string; sheet: string; bays: number[] }[];
  keptApart: { model: string; slot: string; code: string; reason: string }[];
  /** Every other file with the SHA-256 of its contents; the comparison, which comes later, is not among them. */
  files?: { file: string; sha256: string }[];
  /** Collision shapes beside the models. */
  collision?: CollisionFile[];
  /** Images that were written by profiles beside those of the models. */
  profiles?: {
    name: string;
    title: string;
    normalY: 'up' | 'down';
    images: {
      file: string;
      sheet: string;
      channels: Record<string, string>;
      space: 'srgb' | 'linear';
      width: number;
      height: number;
      /** What glows is that many times as bright as the image says; absent: as bright. */
      emissiveStrength?: number;
      loss: ImageLoss;
    }[];
  }[];
}

export interface ManifestInput {
  models: Model[];
  files: string[];
  names: string[];
  routing: Routing;
  layout: Layout;
  /** The sheets of the layout, as they were decided. */
  decided: readonly SheetDecision[];
  /** The sheets that were baked, in order. */
  baked: { sheet: number; padding: number; coverage: number; maps: Record<string, string> }[];
}

/** What holds for every map. */
export const CONVENTIONS: Manifest['conventions'] = {
  uv: '0 to 1, V down',
  normal: 'tangent space (MikkTSpace), Y up',
  orm: 'R occlusion, G roughness, B metallic; linear',
  colour: 'base colour and emissive are sRGB',
};

export function buildManifest(i: ManifestInput): Manifest {
  const slots: Manifest['slots'] = [];
  i.routing.materials.forEach((material, m) => {
    const sheet = i.layout.sheets[material.sheet];
    for (const { model, slot } of material.members) {
      const parts = new Set(i.models[model].parts.filter((part) => part.slot === slot).map((part) => part.id));
      const bays = sheet.plots
        .filter((plot) => plot.material === m && plot.islands.some((x) => x.model === model && parts.has(x.part)))
        .map((plot) => plot.id);
      slots.push({ model: i.names[model], slot: i.models[model].slots[slot].name, sheet: sheet.name, bays });
    }
  });
  return {
    format: 'wembrel-manifest',
    version: 1,
    conventions: CONVENTIONS,
    models: i.files.map((file, m) => ({ file, name: i.names[m] })),
    sheets: i.baked.map(({ sheet: s, padding, coverage, maps }) => {
      const sheet = i.layout.sheets[s];
      return {
        name: sheet.name,
        kind: i.decided[s].kind,
        size: sheet.width,
        width: sheet.width,
        height: sheet.height,
        margin: sheet.margin,
        padding,
        protectedMip: protectedMip(sheet.margin),
        coverage: round(coverage),
        scale: round(sheet.scale),
        maps,
        settings: { swatch: i.decided[s].swatch, cell: i.decided[s].cell, maps: i.decided[s].maps },
        bays: sheet.plots.map((plot) => {
          const [w, h] = placedBox(plot);
          return {
            id: plot.id,
            form: plot.kind,
            slot: i.routing.materials[plot.material].name,
            px: [plot.x, plot.y, w, h],
            uv: [plot.x / sheet.width, plot.y / sheet.height, (plot.x + w) / sheet.width, (plot.y + h) / sheet.height],
            quarterTurns: plot.turns,
            ...(plot.direction ? { direction: [plot.direction[0], plot.direction[1]] as [number, number] } : {}),
            ...(plot.flip === undefined ? {} : { flipped: true as const }),
            scale: plot.scale,
            key: plot.keys[0],
            islands: plot.islands.length,
          };
        }),
      };
    }),
    slots,
    keptApart: i.routing.keptApart.map((k: KeptApart) => ({
      model: i.names[k.model],
      slot: k.name,
      code: k.code,
      reason: k.reason,
    })),
  };
}
