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

type PlacedEntry = PackedPlots<PackableEntry>['plots'][number];
type Scale = PackRequest['decisions']['scale'];

/** Ms between two layouts that are shown while it looks for better ones. */
const SHOWN_EVERY = 400;

function naturalSize(shape: Float64Array): [number, number] {
  let [width, height] = [0, 0];
  for (let i = 0; i < shape.length; i += 2) {
    width = Math.max(width, shape[i]);
    height = Math.max(height, shape[i + 1]);
  }
  return [width, height];
}

/** Upper left and size of the box around what a plot shows, px. */
function extentOf(placedShape: PlacedShape): [number, number, number, number] {
  const { left, top, right, bottom } = shownBox(placedShape);
  return [left, top, right - left, bottom - top];
}

/** A plot as the page draws and edits it. */
function shownPlot(plot: PlacedEntry, sheet: SheetDecision): PackedSheet['plots'][number] {
  const direction = plot.direction && (Math.atan2(plot.direction[1], plot.direction[0]) * 180) / Math.PI;
  return {
    id: plot.id,
    slot: plot.slot,
    material: plot.material,
    key: plot.keys[0],
    pinned: plot.keys.some((key) => Object.hasOwn(sheet.pinned, key)),
    flipped: sheet.flipped.filter((key) => plot.keys.includes(key)),
    x: plot.x,
    y: plot.y,
    turned: direction ?? (plot.turns > 2 ? -90 : plot.turns * 90),
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
  };
}

/** A packed sheet with its figures. @param seed of the search that found it */
function shownSheet(sheet: SheetDecision, packed: PackedPlots<PackableEntry>, seed: number, mode: Scale): PackedSheet {
  const [width, height] = sheetSides(sheet);
  const figures = packedFigures({ width, height, scale: packed.scale, plots: packed.plots }, mode);
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
    plots: packed.plots.map((plot) => shownPlot(plot, sheet)),
  };
}

const answer = (message: PackAnswer): void => self.postMessage(message);

/** Answers one request: all sheets, one of them, or one that is searched on until the worker is ended. */
class Packing {
  private readonly begun = performance.now();
  private shownAt = this.begun;
  private readonly all: PackablePlot[][];

  constructor(private readonly request: PackRequest) {
    const { index, shapes } = request;
    this.all = index.sheets.map((plots) =>
      plots.map((plot) => ({
        ...plot,
        shape: shapes.subarray(plot.shape[0] * 6, (plot.shape[0] + plot.shape[1]) * 6),
      })),
    );
  }

  run(): void {
    const { decisions, only, look } = this.request;
    if (look) {
      const search = { seed: look.seed, rounds: ENDLESS };
      this.better(look.sheet, this.packOne(look.sheet, { ...decisions.sheets[look.sheet], search }));
      this.done([]);
    } else if (only !== undefined) this.done([this.shown(only, this.packOne(only, decisions.sheets[only]))]);
    else {
      const packed = packSheets(this.all, decisions, this.hooks);
      this.done(decisions.sheets.map((_, i) => this.shown(i, packed[i])));
    }
  }

  private packOne(i: number, sheet: SheetDecision): PackedPlots<PackablePlot> {
    const { decisions, look } = this.request;
    const scaling = scaleFactors(this.all, decisions.scale, decisions.sheets)[i];
    return packSheet(this.all[i], {
      factors: scaling,
      sheet,
      index: i,
      decisions,
      hooks: look ? { better: this.better } : this.hooks,
    });
  }

  private readonly progress = (share: number): void => answer({ id: this.request.id, type: 'progress', share });

  private readonly better = (index: number, packed: PackedPlots<PackablePlot>): void => {
    const now = performance.now();
    // What a continued search finds counts at once: it may be ended at any time.
    if (!this.request.look && now - this.shownAt < SHOWN_EVERY) return;
    this.shownAt = now;
    answer({ id: this.request.id, type: 'better', index, sheet: this.shown(index, packed), seconds: this.seconds });
  };

  /** Something to look at, at once. */
  private readonly inRows = (index: number, packed: PackedPlots<PackablePlot>): void =>
    answer({ id: this.request.id, type: 'inRows', index, sheet: this.shown(index, packed) });

  private readonly hooks = { progress: this.progress, better: this.better, inRows: this.inRows };

  private shown(i: number, packed: PackedPlots<PackablePlot>): PackedSheet {
    const { decisions, look } = this.request;
    const sheet = decisions.sheets[i];
    const seed = look?.seed ?? sheet.search?.seed ?? decisions.seed;
    return shownSheet(sheet, packed as PackedPlots<PackableEntry>, seed, decisions.scale);
  }

  private done(sheets: PackedSheet[]): void {
    answer({ id: this.request.id, type: 'done', sheets, seconds: this.seconds });
  }

  private get seconds(): number {
    return (performance.now() - this.begun) / 1000;
  }
}

/** Packs in the browser, with the function that the server uses; ended from outside when the options change again. */
self.onmessage = ({ data }: MessageEvent<PackRequest>) => {
  try {
    new Packing(data).run();
  } catch (error) {
    answer({ id: data.id, type: 'failed', message: error instanceof Error ? error.message : String(error) });
  }
};
