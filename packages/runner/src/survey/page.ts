import type { Budget, BudgetLine } from '@wembrel/core/decisions/budget';
import type { SurveyReport } from '../stages/read.ts';
import type { SurveyDetails } from './details.ts';

/** All that the page shows; pictures are PNG. */
export interface ReportInput {
  title: string;
  report: SurveyReport;
  details: SurveyDetails;
  budget: Budget;
  over: Partial<Record<BudgetLine, number>>;
  /** By position of the model. */
  modelPictures: Uint8Array[];
  /** By key of the picture. */
  texturePictures: Map<string, Uint8Array>;
}

const escaped = (text: string) =>
  text.replace(
    /[&<>"']/g,
    (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[c] as string,
  );
const count = (n: number) => String(Math.round(n)).replace(/\B(?=(\d{3})+$)/g, '\u2009');
const bytes = (n: number) =>
  n < 1024 ? `${n} B` : n < 1024 ** 2 ? `${(n / 1024).toFixed(1)} KiB` : `${(n / 1024 ** 2).toFixed(1)} MiB`;
const picture = (png: Uint8Array | undefined, side: number) =>
  png
    ? `<img alt="" width="${side}" height="${side}" src="data:image/png;base64,${Buffer.from(png).toString('base64')}">`
    : '';

const STYLE = `
body{font:14px/1.45 system-ui,sans-serif;margin:32px auto;max-width:1100px;padding:0 24px;color:#1d2b2c;background:#f4f7f5}
h1{font-size:22px;margin:0 0 4px}h2{font-size:16px;margin:28px 0 8px;border-bottom:1px solid #9aa8a3}
table{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums}
th,td{padding:4px 8px;border-bottom:1px solid #d2dad6;text-align:right;vertical-align:middle}
th:first-child,td:first-child,td.text{text-align:left;overflow-wrap:anywhere}
img{background:#7f7f7f;vertical-align:middle;object-fit:contain}
.over{color:#c2361b;font-weight:600}.fault{border-left:3px solid #c2361b}.warning{border-left:3px solid #14707e}.info{border-left:3px solid #9aa8a3}
`;

/** One HTML page with everything inside: no script, nothing fetched. */
export function surveyPage(i: ReportInput): string {
  const { report, details, over } = i;
  const totals = report.totals;
  const format = i.budget.format;
  const line = (title: string, value: string, limit: string | null, key: BudgetLine) =>
    `<tr><td>${title}</td><td class="${over[key] ? 'over' : ''}">${value}</td><td>${limit ?? '–'}</td><td class="over">${over[key] ? `${over[key].toFixed(2)} ×` : ''}</td></tr>`;
  const largest = details.pictures.reduce((greatest, picture) => Math.max(greatest, picture.width, picture.height), 0);
  const byPath = new Map(report.files.map((file) => [file.path, file]));
  const limit = (v: number | null, show: (n: number) => string) => (v === null ? null : show(v));
  const models = details.models
    .map((model, at) => ({ m: model, at, f: byPath.get(model.path) }))
    .sort((a, b) => (b.f?.drawCalls ?? 0) - (a.f?.drawCalls ?? 0))
    .map(
      ({ m: facts, at, f: report }) =>
        `<tr><td>${picture(i.modelPictures[at], 64)} ${escaped(facts.path)}</td><td>${count(report?.drawCalls ?? 0)}</td><td>${count(report?.slots ?? 0)}</td><td>${count(report?.textures ?? 0)}</td><td>${bytes(report?.textureBytes?.[format] ?? 0)}</td><td>${count(facts.triangles)}</td><td>${count(report?.gpuVertices ?? 0)}</td></tr>`,
    );
  const textures = [...details.pictures]
    .sort((a, b) => b.bytes[format] * b.copies - a.bytes[format] * a.copies)
    .map(
      (pictureFacts) =>
        `<tr><td>${picture(i.texturePictures.get(pictureFacts.key), 32)} ${escaped(pictureFacts.name)}</td><td>${pictureFacts.width} × ${pictureFacts.height}</td><td>${pictureFacts.colour ? 'sRGB' : 'linear'}</td><td>${pictureFacts.copies}</td><td>${Math.round(pictureFacts.used * 100)} %</td><td>${bytes(pictureFacts.bytes[format] * pictureFacts.copies)}</td></tr>`,
    );
  const findings = report.findings.map((finding) => {
    const saves = [
      finding.saves.drawCalls ? `${count(finding.saves.drawCalls)} draw calls` : '',
      finding.saves.bytes ? bytes(finding.saves.bytes) : '',
      finding.saves.triangles ? `${count(finding.saves.triangles)} triangles` : '',
      finding.saves.vertices ? `${count(finding.saves.vertices)} vertices` : '',
    ].filter(Boolean);
    return `<tr><td class="${finding.severity}"><code>${finding.code}</code></td><td class="text">${escaped(finding.message)}</td><td>${saves.join(', ')}</td></tr>`;
  });
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(i.title)}</title><style>${STYLE}</style></head>
<body><h1>${escaped(i.title)}</h1><p>${count(totals.files)} files${totals.failed ? `, <span class="over">${count(totals.failed)} not read</span>` : ''}</p>
<table><thead><tr><th>Figure</th><th>is</th><th>budget</th><th>over</th></tr></thead><tbody>
${line('Draw calls', count(totals.drawCalls), limit(i.budget.drawCalls, count), 'drawCalls')}
${line(`Texture memory (${format})`, bytes(totals.textureBytes[format]), limit(i.budget.textureBytes, bytes), 'textureBytes')}
${line('Triangles', count(totals.triangles), limit(i.budget.triangles, count), 'triangles')}
${line('GPU vertices', count(totals.gpuVertices), limit(i.budget.gpuVertices, count), 'gpuVertices')}
${line(
  'Largest texture',
  `${largest} px`,
  limit(i.budget.largestTexture, (n) => `${n} px`),
  'largestTexture',
)}
</tbody></table>
<h2>Findings (${report.findings.length})</h2>
<table><thead><tr><th>Code</th><th>What</th><th>Saves</th></tr></thead><tbody>${findings.join('\n')}</tbody></table>
<h2>Models (${details.models.length})</h2>
<table><thead><tr><th>Model</th><th>Draw calls</th><th>Slots</th><th>Textures</th><th>Memory</th><th>Triangles</th><th>GPU vertices</th></tr></thead><tbody>${models.join('\n')}</tbody></table>
<h2>Textures (${details.pictures.length})</h2>
<table><thead><tr><th>Texture</th><th>Size</th><th>Read as</th><th>Copies</th><th>Used</th><th>Memory</th></tr></thead><tbody>${textures.join('\n')}</tbody></table>
</body></html>
`;
}
