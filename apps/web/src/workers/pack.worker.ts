import { packSheet, placePoint, scaleFactors } from '@wembrel/core/uv/layout';
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
    const factors = scaleFactors(all, decisions.scale);
    const sheets = decisions.sheets.map((sheet, s): PackedSheet => {
      const packed = packSheet(all[s] ?? [], factors[s] ?? [], sheet, s, decisions, {
        progress: (share) => answer({ id, type: 'progress', share: (s + share) / decisions.sheets.length }),
      });
      const area = packed.plots.reduce((n, p) => n + p.texelArea * p.scale * p.scale, 0);
      return {
        name: sheet.name,
        size: sheet.size,
        margin: sheet.margin,
        scale: packed.scale,
        attempts: packed.attempts,
        coverage: area / sheet.size ** 2,
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
