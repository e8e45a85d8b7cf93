import type { TextureFormat } from '@wembrel/core/image/texture-memory';
import type { ProjectView, SurveyView } from '../../../contract/project.ts';
import { bytes, count, percent } from '../../../ui/format.ts';
import type { Column } from '../../../ui/table/column.ts';

/** One row of an account: it belongs to a slot or a texture, and its figures add up to the total. */
export interface CostRow {
  key: string;
  name: string;
  where: string;
  /** Position in the survey's slots, or −1. */
  slot: number;
  picture: string | null;
  figures: (number | null)[];
}

export interface Account {
  title: string;
  /** What the rows are, and what they add up to. */
  about: string;
  heads: { title: string; show: (v: number) => string; adds: boolean }[];
  rows: CostRow[];
}

export const COSTS = {
  drawCalls: 'draw calls',
  bytes: 'texture memory',
  gpuVertices: 'GPU vertices',
  triangles: 'triangles',
  blended: 'alpha-blended area',
  density: 'density and stretch',
  area: 'unused texture area',
} as const;
export type CostName = keyof typeof COSTS;

const m2 = (v: number) => `${v.toFixed(v < 10 ? 2 : 0)} m²`;
const px = (v: number) => `${Math.round(v)} px/m`;

type SurveyedSlot = SurveyView['slots'][number];
type SurveyedPart = SurveyedSlot['parts'][number];
type Head = Account['heads'][number];
type Figures = (number | null)[];

/** The rows that a figure is the sum of. */
export function accountOf(name: CostName, project: ProjectView, survey: SurveyView): Account {
  return { title: COSTS[name], ...ACCOUNTS[name](survey, project.decisions.budget.format) };
}

const head = (title: string, show: Head['show'], adds: boolean): Head => ({ title, show, adds });

const ACCOUNTS: Record<CostName, (survey: SurveyView, format: TextureFormat) => Omit<Account, 'title'>> = {
  drawCalls: (survey) => ({
    about: 'One row for each part: its placings in the scene are its draw calls; GPU-instanced copies count once.',
    heads: [
      head('Placings', count, true),
      head('Could be joined', (v) => (v ? 'yes' : ''), false),
      head('Draw calls', count, true),
    ],
    rows: partRows(survey, (part) => [part.copies, Number(part.joinable && !part.apart), part.drawCalls]),
  }),
  triangles: (survey) => {
    const total = survey.slots.reduce(
      (sum, slot) => sum + slot.parts.reduce((below, part) => below + part.triangles, 0),
      0,
    );
    return {
      about: 'Triangles of one copy × copies in the scene.',
      heads: [
        head('One copy', count, false),
        head('Copies', count, false),
        head('Share', (v) => percent(v, 1), true),
        head('Triangles', count, true),
      ],
      rows: partRows(survey, (part) => [part.own, part.copies, total > 0 ? part.triangles / total : 0, part.triangles]),
    };
  },
  gpuVertices: (survey) => ({
    about:
      'Points, and what splits them: first UVs, then normals where the UVs agree, tangents, colours, the rest; in all the GPU vertices.',
    heads: ['Points', 'UVs', 'Normals', 'Tang.', 'Colours', 'Rest', 'Total'].map((title) => head(title, count, true)),
    rows: partRows(survey, ({ splits, gpuVertices }) => [
      splits.points,
      splits.uvs,
      splits.normals,
      splits.tangents,
      splits.colours,
      splits.other,
      gpuVertices,
    ]),
  }),
  bytes: (survey) => ({
    about:
      'All copies with all mips, as if everything were stored in one format. BC5 and ASTC 4×4 take as much as BC7, BC4 as much as BC1.',
    heads: [
      head('Copies', count, true),
      ...['RGBA16F', 'RGBA8', 'BC7', 'BC1', 'ASTC 6×6'].map((title) => head(title, bytes, true)),
    ],
    rows: pictureRows(survey, (picture) => [
      picture.copies,
      ...(['rgba16f', 'rgba8', 'bc7', 'bc1', 'astc6x6'] as const).map(
        (format) => picture.bytes[format] * picture.copies,
      ),
    ]),
  }),
  blended: (survey) => ({
    about: 'Surface of all copies of the slots that blend: what may be drawn over and over.',
    heads: [head('Draw calls', count, true), head('Area', m2, true)],
    rows: slotRows(survey, (slot) =>
      slot.alphaMode === 'BLEND' ? [slot.parts.reduce((sum, part) => sum + part.drawCalls, 0), slot.surface] : null,
    ),
  }),
  density: (survey) => ({
    about: 'Weighted by area. Stretch is how much longer a texel is than wide on the surface.',
    heads: [
      head('Lowest 5 %', px, false),
      head('Median', px, false),
      head('Stretch', (v) => `${v.toFixed(2)} : 1`, false),
      head('Stretch, 95 %', (v) => `${v.toFixed(2)} : 1`, false),
      head('Area', m2, true),
    ],
    rows: slotRows(survey, ({ density, uv, surface }) =>
      density ? [density.p5, density.median, uv?.stretch?.median ?? null, uv?.stretch?.p95 ?? null, surface] : null,
    ),
  }),
  area: (survey, format) => ({
    about: 'What no UV of any slot touches, counted on a grid of 512 × 512 a texture.',
    heads: [head('Used', (v) => percent(v), false), head('Memory', bytes, true), head('Of it unused', bytes, true)],
    rows: pictureRows(survey, (picture) => {
      const memory = picture.bytes[format] * picture.copies;
      return [picture.used, memory, Math.round(memory * (1 - picture.used))];
    }),
  }),
};

const fileOf = (survey: SurveyView, model: number): string => survey.models[model]?.path.split('/').pop() ?? '';

function partRows(survey: SurveyView, figures: (part: SurveyedPart) => Figures): CostRow[] {
  return survey.slots.flatMap((slot, i) =>
    slot.parts.map((part) => ({
      key: `${slot.model} ${part.part}`,
      name: `${part.name} · ${slot.name}`,
      where: fileOf(survey, slot.model),
      slot: i,
      picture: null,
      figures: figures(part),
    })),
  );
}

/** A row for each slot that has figures. */
function slotRows(survey: SurveyView, figures: (slot: SurveyedSlot) => Figures | null): CostRow[] {
  return survey.slots.flatMap((slot, i) => {
    const own = figures(slot);
    if (!own) return [];
    const where = fileOf(survey, slot.model);
    return [{ key: `slot ${i}`, name: slot.name, where, slot: i, picture: null, figures: own }];
  });
}

function pictureRows(survey: SurveyView, figures: (picture: SurveyView['pictures'][number]) => Figures): CostRow[] {
  return survey.pictures.map((picture) => ({
    key: `${picture.key}${picture.colour}`,
    name: picture.name,
    where: `${picture.width} × ${picture.height}`,
    slot: -1,
    picture: picture.key,
    figures: figures(picture),
  }));
}

export function costColumns(account: Account): Column<CostRow>[] {
  return [
    { key: 'name', title: 'What', width: 'minmax(110px, 2fr)', value: (costRow) => costRow.name },
    { key: 'where', title: 'Where', width: 'minmax(76px, 1fr)', value: (costRow) => costRow.where },
    ...account.heads.map(
      (head, i): Column<CostRow> => ({
        key: `figure ${i}`,
        title: head.title,
        width: account.heads.length > 6 ? '67px' : account.heads.length > 5 ? '78px' : '94px',
        value: (costRow) => costRow.figures[i] ?? 0,
        cell: (costRow) => {
          const v = costRow.figures[i];
          return v === null ? '–' : head.show(v);
        },
      }),
    ),
  ];
}

/** The sums below the rows. */
export function costFooter(account: Account): Record<string, string> {
  const out: Record<string, string> = { name: 'Total' };
  account.heads.forEach((head, i) => {
    if (head.adds) out[`figure ${i}`] = head.show(account.rows.reduce((sum, row) => sum + (row.figures[i] ?? 0), 0));
  });
  return out;
}
