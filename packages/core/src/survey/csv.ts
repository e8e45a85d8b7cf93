import type { TextureBytes } from './texture-memory.ts';

/** What a row of the table of models says. */
export interface CsvRow {
  path: string;
  ok: boolean;
  error?: string;
  drawCalls: number;
  slots: number;
  textures: number;
  textureBytes?: TextureBytes;
  triangles: number;
  gpuVertices: number;
}

/** One cell (RFC 4180); one that a spreadsheet would take for a formula is quoted by an apostrophe. */
export function csvCell(v: string | number): string {
  if (typeof v === 'number') return String(v);
  const safe = /^[=+\-@\t\r]/.test(v) ? `'${v}` : v;
  return /[",\n\r]/.test(safe) ? `"${safe.replace(/"/g, '""')}"` : safe;
}

/** The table of models as CSV: a line of headings, sizes in bytes, lines end with CR LF (RFC 4180). */
export function surveyCsv(rows: CsvRow[]): string {
  const lines: (string | number)[][] = [
    [
      'model',
      'draw calls',
      'slots',
      'textures',
      'bytes BC7',
      'bytes RGBA8',
      'triangles',
      'GPU vertices',
      'not read because',
    ],
  ];
  for (const r of rows)
    lines.push([
      r.path,
      r.drawCalls,
      r.slots,
      r.textures,
      r.textureBytes?.bc7 ?? 0,
      r.textureBytes?.rgba8 ?? 0,
      r.triangles,
      r.gpuVertices,
      r.error ?? '',
    ]);
  return `${lines.map((l) => l.map(csvCell).join(',')).join('\r\n')}\r\n`;
}
