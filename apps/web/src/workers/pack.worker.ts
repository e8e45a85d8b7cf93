import { type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import { packedFigures } from '@wembrel/core/layout/coverage';
import { heldTooNear } from '@wembrel/core/layout/held-gaps';
import { packSheets, scaleFactors } from '@wembrel/core/layout/layout';
import { outlineOf } from '@wembrel/core/layout/outline';
import { packSheet } from '@wembrel/core/layout/pack-sheet';
import type { PackablePlot, PackedPlots, PlacedShape } from '@wembrel/core/layout/packable';
import { placedBox, placeFrame, placePoint, shownBox } from '@wembrel/core/layout/place';
import { ENDLESS } from '@wembrel/core/layout/planned-searches';
import type { PackAnswer, PackableEntry, PackedSheet, PackRequest } from '../contract/plots.ts';

/** Ms between two layouts that are shown while it looks for better ones. */
const SHOWN_EVERY = 400;

function naturalSize(shape: Float64Array): [number, number] {
  let [w, h] = [0, 0];
  for (let i = 0; i < shape.length; i += 2) {
    w = Math.max(w, shape[i]);
    h = Math.max(h, shape[i + 1]);
  }
  return [w, h];
}

/** Upper left and size of the box around what a plot shows, px. */
function extentOf(placedShape: PlacedShape): [number, number, number, number] {
  const { left, top, right, bottom } = shownBox(placedShape);
  return [left, top, right - left, bottom - top];
}

/** Packs in the browser, with the function that the server uses; ended from outside when the options change again. */
self.onmessage = ({ data }: MessageEvent<PackRequest>) => {
  const answer = (packAnswer: PackAnswer) => self.postMessage(packAnswer);
  const { id, index, shapes, decisions, only, look } = data;
  const begun = performance.now();
  const seconds = () => (performance.now() - begun) / 1000;
  let shown = begun;
  const shownSheet = (sheet: SheetDecision, packed: PackedPlots<PackableEntry>): PackedSheet => {
    const seed = look?.seed ?? sheet.search?.seed ?? decisions.seed;
    const [width, height] = sheetSides(sheet);
    const figures = packedFigures({ width, height, scale: packed.scale, plots: packed.plots }, decisions.scale);
    return {
      name: sheet.name,
      width,
      height,
      reserves: sheet.reserves,
      margin: sheet.margin,
      scale: packed.scale,
      attempts: packed.attempts,
      search: { seed, rounds: packed.rounds },
      coverage: figures?.coverage ?? 0,
      tooNear: heldTooNear(packed.plots, sheet),
      figures,
      plots: packed.plots.map((plot) => ({
        id: plot.id,
        slot: plot.slot,
        material: plot.material,
        key: plot.keys[0],
        pinned: plot.keys.some((key) => Object.hasOwn(sheet.pinned, key)),
        flipped: sheet.flipped.filter((key) => plot.keys.includes(key)),
        x: plot.x,
        y: plot.y,
        turned: plot.direction
          ? (Math.atan2(plot.direction[1], plot.direction[0]) * 180) / Math.PI
          : plot.turns > 2
            ? -90
            : plot.turns * 90,
        scale: plot.scale,
        box: [plot.x, plot.y, ...placedBox(plot)],
        extent: extentOf(plot),
        size: [plot.boxWidth, plot.boxHeight],
        natural: plot.kind === 'swatch' ? null : naturalSize(plot.shape),
        density: plot.worldArea > 0 ? plot.scale * Math.sqrt(plot.texelArea / plot.worldArea) : null,
        stretch: plot.stretch ?? null,
        movable: plot.kind === 'plot' || plot.kind === 'swatch',
        mayTurn: plot.mayTurn,
        stacked: plot.islands.length,
        frame: placeFrame(plot),
        path: outlineOf(plot, (x, y) => placePoint(plot, x + plot.originX, y + plot.originY)),
      })),
    };
  };
  try {
    const all = index.sheets.map((plots) =>
      plots.map((plot) => ({
        ...plot,
        shape: shapes.subarray(plot.shape[0] * 6, (plot.shape[0] + plot.shape[1]) * 6),
      })),
    );
    const better = (s: number, packed: PackedPlots<PackablePlot>) => {
      const now = performance.now();
      // What is found while continued search counts as soon as it is there: it may be ended at any time.
      if (!look && now - shown < SHOWN_EVERY) return;
      shown = now;
      const sheet = shownSheet(decisions.sheets[s], packed as PackedPlots<PackableEntry>);
      answer({ id, type: 'better', index: s, sheet, seconds: seconds() });
    };
    const progress = (share: number) => answer({ id, type: 'progress', share });
    const one = (s: number, sheet: SheetDecision) =>
      packSheet(all[s], scaleFactors(all, decisions.scale, decisions.sheets)[s], sheet, s, decisions, {
        better,
        progress,
      });
    if (look) {
      const { sheet: s, seed } = look;
      better(s, one(s, { ...decisions.sheets[s], search: { seed, rounds: ENDLESS } }));
      answer({ id, type: 'done', sheets: [], seconds: seconds() });
      return;
    }
    if (only !== undefined) {
      const sheet = decisions.sheets[only];
      answer({ id, type: 'done', sheets: [shownSheet(sheet, one(only, sheet))], seconds: seconds() });
      return;
    }
    const packedSheets = packSheets(all, decisions, { progress, better });
    const sheets = decisions.sheets.map((sheet, s) => shownSheet(sheet, packedSheets[s]));
    answer({ id, type: 'done', sheets, seconds: seconds() });
  } catch (error) {
    answer({ id, type: 'failed', message: error instanceof Error ? error.message : String(error) });
  }
};
