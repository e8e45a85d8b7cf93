import { sheetSides } from '@wembrel/core/plan/sheets';
import { packedFigures } from '@wembrel/core/uv/coverage';
import { packSheets, placePoint } from '@wembrel/core/uv/layout';
import { outlineOf } from '@wembrel/core/uv/outline';
import type { PackAnswer, PackedSheet, PackRequest } from '../contract/plots.ts';

/** Packs in the browser, with the function that the server uses; ended from outside when the options change again. */
self.onmessage = ({ data }: MessageEvent<PackRequest>) => {
  const answer = (a: PackAnswer) => self.postMessage(a);
  const { id, index, shapes, decisions } = data;
  const begun = performance.now();
  try {
    const all = index.sheets.map((plots) =>
      plots.map((p) => ({ ...p, shape: shapes.subarray(p.shape[0] * 6, (p.shape[0] + p.shape[1]) * 6) })),
    );
    const packedSheets = packSheets(all, decisions, { progress: (share) => answer({ id, type: 'progress', share }) });
    const sheets = decisions.sheets.map((sheet, s): PackedSheet => {
      const packed = packedSheets[s];
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
        coverage: figures?.coverage ?? 0,
        figures,
        plots: packed.plots.map((p) => ({
          id: p.id,
          slot: p.slot,
          material: p.material,
          x: p.x,
          y: p.y,
          turns: p.turns,
          box: [p.x, p.y, p.turns % 2 ? p.boxHeight : p.boxWidth, p.turns % 2 ? p.boxWidth : p.boxHeight],
          stacked: p.islands.length,
          path: outlineOf(p, (x, y) => placePoint(p, x + p.originX, y + p.originY)),
        })),
      };
    });
    answer({ id, type: 'done', sheets, seconds: (performance.now() - begun) / 1000 });
  } catch (error) {
    answer({ id, type: 'failed', message: error instanceof Error ? error.message : String(error) });
  }
};
