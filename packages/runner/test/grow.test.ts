import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { mergeRoutes, routesFrom } from '@wembrel/core/decisions/routes';
import { shippedSheets } from '@wembrel/core/handover/grow';
import { tileTable } from '@wembrel/core/handover/tile-table';
import { parseTileCsv, tileCsv } from '@wembrel/core/tiles/tile-sheet';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildRails } from '@wembrel/demo/rails';
import { buildSigns } from '@wembrel/demo/signs';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { merge } from '../src/merge/merge.ts';
import type { MergeResult } from '../src/merge/request.ts';
import { collectModels } from '../src/read/collect.ts';
import { folder, put, testScope } from './here.ts';
import { uvCoverage } from './uv-coverage.ts';

const scope = testScope();

const decide = (more: object) => MergeDecisions.parse({ effort: 1, mergeAll: true, ...more });

async function bake(
  files: Record<string, Uint8Array>,
  decisions: MergeDecisions,
): Promise<MergeResult & { out: string }> {
  const out = folder();
  const inputs = (await collectModels([await put(files)])).files;
  return { ...(await merge({ files: inputs, out, decisions, compare: false }, scope)), out };
}

/** Bakes some files, then more of them on the sheets that have grown; each bay of the first bake is looked for in the second. */
async function grow(first: Record<string, Uint8Array>, more: Record<string, Uint8Array>, decisions: MergeDecisions) {
  const before = await bake(first, decisions);
  const shipped = shippedSheets(JSON.parse(JSON.stringify(before.manifest)), decisions.sheets);
  const grown = decide({ ...decisions, sheets: shipped.sheets, routes: mergeRoutes(decisions.routes, shipped.routes) });
  const after = await bake({ ...first, ...more }, grown);
  const place = (b: MergeResult['manifest']['sheets'][number]['bays'][number]) => [b.px, b.quarterTurns, b.scale];
  before.manifest.sheets.forEach((sheet, i) => {
    const now = new Map(after.manifest.sheets[i].bays.map((bay) => [bay.key, place(bay)]));
    for (const bay of sheet.bays) expect(now.get(bay.key), bay.key).toEqual(place(bay));
    expect(after.manifest.sheets[i].bays.length).toBeGreaterThan(sheet.bays.length);
  });
  return { before, after, grown };
}

async function texels(out: string, uri: string) {
  return sharp(join(out, uri)).raw().toBuffer({ resolveWithObject: true });
}

describe('a sheet that was handed over grows', () => {
  test('an atlas: no bay moves, models that were handed over are the same to the byte, and only free room changes', async () => {
    const signs = Object.fromEntries(Object.entries(kept(buildSigns)).slice(0, 3));
    const rails = { 'rails.glb': kept(buildRails) };
    const decisions = decide({
      sheets: [{ id: '1', name: 'halt', size: 1024, margin: 6 }],
      routes: { ShelterGlass: 'apart' },
      cutRepeats: ['KerbStone', 'HandrailSteel', 'BattenWood'],
    });
    const { before, after } = await grow({ 'stop.glb': kept(buildFurniture, 0.25) }, { ...signs, ...rails }, decisions);
    const [was, is] = await Promise.all([before, after].map((r) => readFile(join(r.out, 'stop.glb'))));
    expect(Buffer.compare(was, is)).toBe(0);
    const uri = before.report.sheets[0].maps.baseColor;
    const [a, b] = await Promise.all([texels(before.out, uri), texels(after.out, uri)]);
    const old = new Set(before.manifest.sheets[0].bays.map((x) => x.key));
    const fresh = after.manifest.sheets[0].bays.filter((x) => !old.has(x.key));
    const covered = await uvCoverage(join(before.out, 'stop.glb'), [1024, 1024], before.report.sheets[0].name);
    /** Farther from all old islands than the padding. */
    const isFree = (x: number, y: number) => {
      for (let v = Math.max(0, y - 5); v <= Math.min(1023, y + 5); v++)
        for (let u = Math.max(0, x - 5); u <= Math.min(1023, x + 5); u++)
          if (covered[v * 1024 + u] && (u - x) ** 2 + (v - y) ** 2 <= 25) return false;
      return true;
    };
    let changed = 0;
    for (let i = 0; i < a.info.width * a.info.height; i++) {
      if ([0, 1, 2].every((c) => a.data[i * 3 + c] === b.data[i * 3 + c])) continue;
      changed++;
      const [x, y] = [i % a.info.width, Math.floor(i / a.info.width)];
      // Within the padding of something new, or in what was free room and is filled.
      const near = fresh.some(({ px: [l, t, w, h] }) => x >= l - 7 && x < l + w + 7 && y >= t - 7 && y < t + h + 7);
      expect(near || isFree(x, y), `${x} ${y}`).toBe(true);
    }
    expect(changed).toBeGreaterThan(1000);
  });

  test('a tile sheet keeps its cells, a trim sheet its strips', async () => {
    const decisions = decide({
      sheets: [
        { id: '1', name: 'tiles', kind: 'tile', cell: 120, size: 512, margin: 6 },
        { id: '2', name: 'trim', kind: 'trim', size: 512, margin: 6 },
      ],
      routes: {
        PavingSlab: 'apart',
        PavingEdge: '1',
        PlatformSetts: '1',
        PavingCracked: '1',
        KerbStone: '2',
        BattenWood: '2',
        HandrailSteel: 'apart',
      },
    });
    const files = { 'platform.glb': kept(buildPlatform), 'rails.glb': kept(buildRails) };
    const before = await bake(files, decisions);
    const shipped = shippedSheets(before.manifest, decisions.sheets);
    const routes = mergeRoutes(shipped.routes, routesFrom({ PavingSlab: '1', HandrailSteel: '2' }));
    const after = await bake(files, decide({ ...decisions, sheets: shipped.sheets, routes }));
    for (const [i, s] of before.manifest.sheets.entries()) {
      const now = after.manifest.sheets[i].bays;
      expect(now).toHaveLength(s.bays.length + 1);
      for (const bay of s.bays) expect(now.find((x) => x.key === bay.key)?.px).toEqual(bay.px);
    }
    // The table says the same of the cells that were there, and comes back from CSV.
    const [old, grown] = [before, after].map((b) => tileTable(b.manifest.sheets[0]));
    expect(old.map((tileRow) => [tileRow.id, tileRow.name, ...tileRow.px])).toEqual([
      [0, expect.any(String), 4, 4, 120, 120],
      [1, expect.any(String), 132, 4, 120, 120],
      [2, expect.any(String), 260, 4, 120, 120],
    ]);
    expect(grown).toHaveLength(4);
    expect(grown.filter((tileRow) => tileRow.name !== 'PavingSlab')).toEqual(old);
    expect(parseTileCsv(tileCsv(grown))).toEqual(grown);
    expect(after.report.written).toEqual(expect.arrayContaining(['tiles_tiles.csv', 'tiles_tiles.json']));
    expect(after.report.written.filter((file) => /trim_tiles/.test(file))).toEqual([]);
  });

  test('what has gone keeps its room; no room left: it says so', async () => {
    const decisions = decide({
      sheets: [{ id: '1', name: 'halt', size: 512, margin: 6 }],
      routes: { ShelterGlass: 'apart' },
    });
    const files = { 'stop.glb': kept(buildFurniture, 0.25) };
    const before = await bake(files, decisions);
    const { sheets } = shippedSheets(before.manifest, decisions.sheets);
    const lost = before.manifest.sheets[0].bays.filter((bay) => bay.slot === 'Timetable');
    expect(lost).toHaveLength(1);
    const without = await bake(
      { ...files, ...Object.fromEntries(Object.entries(kept(buildSigns)).slice(0, 1)) },
      decide({ ...decisions, sheets, routes: { ShelterGlass: 'apart', Timetable: 'apart' } }),
    );
    const [l, t, w, h] = lost[0].px;
    for (const bay of without.manifest.sheets[0].bays) {
      const [x, y, bw, bh] = bay.px;
      if (bay.slot === 'HaltPalette') expect(x >= l + w || x + bw <= l || y >= t + h || y + bh <= t).toBe(true);
    }
    expect(without.manifest.sheets[0].bays.some((bay) => bay.slot === 'Timetable')).toBe(false);
    await expect(
      bake(
        { ...files, 'platform.glb': kept(buildPlatform), 'rails.glb': kept(buildRails) },
        decide({
          ...decisions,
          sheets: sheets.map((sheet) => ({ ...sheet, reserves: [{ id: 'all', x: 0, y: 0, width: 512, height: 512 }] })),
        }),
      ),
    ).rejects.toThrow(/do not fit/);
  });

  test('what is no manifest is refused with a sentence', () => {
    expect(() => shippedSheets({})).toThrow(/no manifest of a delivery that can grow: format/);
    expect(() => shippedSheets(null)).toThrow(/no manifest/);
  });
});
