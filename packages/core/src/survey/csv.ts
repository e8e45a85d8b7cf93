import type { TextureBytes } from '../image/texture-memory.ts';

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
  for (const row of rows)
    lines.push([
      row.path,
      row.drawCalls,
      row.slots,
      row.textures,
      row.textureBytes?.bc7 ?? 0,
      row.textureBytes?.rgba8 ?? 0,
      row.triangles,
      row.gpuVertices,
      row.error ?? '',
    ]);
  return `${lines.map((line) => line.map(csvCell).join(',')).join('\r\n')}\r\n`;
}
