import { z } from 'zod';
import { mergeRoutes, type Route } from '../decisions/routes.ts';
import { PinnedBay, SheetDecision } from '../decisions/sheets.ts';

/** What growing reads of a manifest; the rest may be whatever it is. */
const ShippedManifest = z.object({
  format: z.literal('wembrel-manifest'),
  version: z.literal(1),
  sheets: z
    .array(
      z.object({
        name: z.string(),
        kind: z.string(),
        width: z.number(),
        height: z.number(),
        margin: z.number(),
        settings: SheetDecision.pick({ swatch: true, cell: true, maps: true }),
        bays: z.array(
          z.object({
            key: z.string(),
            scale: z.number(),
            quarterTurns: z.number(),
            direction: z.tuple([z.number(), z.number()]).optional(),
            flipped: z.boolean().optional(),
            px: z.tuple([z.number(), z.number(), z.number(), z.number()]),
          }),
        ),
      }),
    )
    .min(1, 'it has no sheets'),
  slots: z.array(z.object({ slot: z.string(), sheet: z.string() })),
});

/** Sheets as they were handed over, with their bays held, and where each slot lies. */
export interface Shipped {
  sheets: SheetDecision[];
  routes: Route[];
}

/**
 * Reads the sheets of a delivery so that they can grow: sizes, kinds and margins as they were, every bay pinned to its place.
 * @param now sheets of the present plan: those of the same name keep their ids and everything that a manifest does not say
 * @throws Error with a sentence when it is no manifest that bays can be read from
 */
export function shippedSheets(manifest: unknown, now: readonly SheetDecision[] = []): Shipped {
  const read = ShippedManifest.safeParse(manifest);
  if (!read.success) {
    const { path, message } = read.error.issues[0];
    throw new Error(
      `no manifest of a delivery that can grow: ${path.length > 0 ? `${path.join('.')}: ` : ''}${message}`,
    );
  }
  const taken = new Set(now.map((sheet) => sheet.id));
  let next = 1;
  const freeId = () => {
    while (taken.has(String(next))) next++;
    taken.add(String(next));
    return String(next);
  };
  const sheets = read.data.sheets.map((sheet) => {
    const same = now.find((x) => x.name === sheet.name);
    return SheetDecision.parse({
      ...(same ?? { id: freeId(), name: sheet.name }),
      kind: sheet.kind,
      size: sheet.width,
      height: sheet.height === sheet.width ? null : sheet.height,
      margin: sheet.margin,
      ...sheet.settings,
      flipped: sheet.bays.flatMap((bay) => (bay.flipped ? [bay.key] : [])),
      pinned: sheet.bays.map((bay) =>
        PinnedBay.parse({
          key: bay.key,
          x: bay.px[0],
          y: bay.px[1],
          width: bay.px[2],
          height: bay.px[3],
          turns: bay.quarterTurns,
          direction: bay.direction,
          scale: bay.scale,
        }),
      ),
    });
  });
  const idOf = new Map(sheets.map((sheet) => [sheet.name, sheet.id]));
  return {
    sheets,
    // One slot of several models is listed for each of them.
    routes: mergeRoutes(
      [],
      read.data.slots.map(({ slot, sheet }) => ({ slot, to: idOf.get(sheet) ?? sheets[0].id })),
    ),
  };
}
