import type { PlannedSurface } from '../decisions/planned-surface.ts';
import { mergeRoutes, type Route } from '../decisions/routes.ts';
import { APART } from '../decisions/rules.ts';
import { PROFILE_PIECES } from '../survey/density.ts';
import type { PlanSlot } from './plan-slot.ts';

/** Repeats that a planned surface is taken to have across an island, an assumption: as many as are baked in unless given otherwise. */
const PLANNED_REPEATS: Record<PlannedSurface['repeats'], number> = { none: 1, one: 4, both: 4 };

/** Surfaces that still have no slot, biggest first. */
export function openSurfaces(planned: readonly PlannedSurface[]): PlannedSurface[] {
  return planned.filter((planned) => planned.linked === null).sort((a, b) => b.area - a.area || (a.id < b.id ? -1 : 1));
}

/** How the name of a planned surface stands among slot names, which it can never be mistaken for. */
export const plannedName = (surface: Pick<PlannedSurface, 'id'>): string => `\u0000planned ${surface.id}`;

/** px/m of a planned surface, its repeats across an island, and the texels that it takes where they are baked in. */
function plannedTexels({ width, height, area, repeats, repeatLength }: PlannedSurface) {
  const own = width * height;
  if (repeats === 'none' || repeatLength === null || area === 0)
    return { density: area > 0 ? Math.sqrt(own / area) : 0, repeats: PLANNED_REPEATS[repeats], texels: own };
  const density = width / repeatLength;
  return { density, repeats: Math.max(1, Math.sqrt(area) / repeatLength), texels: density ** 2 * area };
}

/**
 * Planned surfaces as slots of a model that is not there yet, for the prediction. Each is one part of one mesh, so that those
 * that share a sheet can be joined.
 * @param model position that the model would have
 */
export function plannedSlots(planned: readonly PlannedSurface[], model: number): PlanSlot[] {
  return openSurfaces(planned).map((planned, i): PlanSlot => {
    const { density, repeats, texels } = plannedTexels(planned);
    return {
      model,
      slot: i,
      name: plannedName(planned),
      path: '',
      objects: [],
      look: `planned ${planned.id}`,
      classKey: JSON.stringify([planned.alpha, planned.alpha === 'MASK' ? 0.5 : 0, false, false]),
      alphaMode: planned.alpha,
      obstacle: null,
      unfit: {
        ...(planned.repeats === 'both' ? { trim: 'it repeats both ways' } : {}),
        palette: 'it has pictures',
      },
      // What it will look like is known, not how it is cut.
      uncut: repeats > 1 ? null : 'it does not repeat',
      cut: null,
      stripCut: null,
      whole: [planned.width, planned.height],
      repeats,
      flat: false,
      maps: planned.maps,
      constant: { orm: null, emissive: null },
      images: {},
      islands: [{ key: `planned ${planned.id}`, area: texels }],
      surface: planned.area,
      density: density > 0 ? { p5: density, median: density } : null,
      densityProfile: density > 0 ? new Array<number>(PROFILE_PIECES + 1).fill(density) : [],
      evenProfile: density > 0 ? new Array<number>(PROFILE_PIECES + 1).fill(1) : [],
      parts: [
        {
          mesh: 0,
          name: planned.name,
          objects: [],
          own: 0,
          copies: planned.drawCalls,
          drawCalls: planned.drawCalls,
          triangles: 0,
          gpuVertices: 0,
          joinable: true,
          apart: false,
          semantics: ['NORMAL', 'POSITION', 'TEXCOORD_0'],
          uvSets: [0],
        },
      ],
    };
  });
}

/** Decisions in which planned surfaces have their routes, for `predict` with `plannedSlots`. */
export function withPlannedRoutes<D extends { sheets: { id: string }[]; routes: Route[] }>(
  d: D,
  planned: readonly PlannedSurface[],
): D {
  const ids = new Set([APART, ...d.sheets.map((sheet) => sheet.id)]);
  const own = openSurfaces(planned).flatMap((planned) =>
    planned.to !== null && ids.has(planned.to) ? [{ slot: plannedName(planned), to: planned.to }] : [],
  );
  return own.length === 0 ? d : { ...d, routes: mergeRoutes(d.routes, own) };
}
