import type { ProjectView, SurveyView } from '../../../contract/project.ts';
import type { Column } from '../../../ui/column.ts';
import { bytes, count, percent } from '../../../ui/format.ts';

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

/** The rows that a figure is the sum of. */
export function accountOf(name: CostName, project: ProjectView, survey: SurveyView): Account {
  const { slots, models, pictures } = survey;
  const where = (m: number) => models[m]?.path.split('/').pop() ?? '';
  const parts = slots.flatMap((s, slot) => s.parts.map((part) => ({ s, slot, part })));
  const partRows = (figures: (p: (typeof parts)[number]) => (number | null)[]): CostRow[] =>
    parts.map((part) => ({
      key: `${part.s.model} ${part.part.part}`,
      name: `${part.part.name} · ${part.s.name}`,
      where: where(part.s.model),
      slot: part.slot,
      picture: null,
      figures: figures(part),
    }));
  const slotRows = (list: number[], figures: (s: SurveyView['slots'][number]) => (number | null)[]): CostRow[] =>
    list.map((i) => ({
      key: `slot ${i}`,
      name: slots[i].name,
      where: where(slots[i].model),
      slot: i,
      picture: null,
      figures: figures(slots[i]),
    }));
  const all = slots.map((_, i) => i);
  if (name === 'drawCalls')
    return {
      title: COSTS[name],
      about: 'One row for each part: its placings in the scene are its draw calls; GPU-instanced copies count once.',
      heads: [
        { title: 'Placings', show: count, adds: true },
        { title: 'Could be joined', show: (v) => (v ? 'yes' : ''), adds: false },
        { title: 'Draw calls', show: count, adds: true },
      ],
      rows: partRows(({ part }) => [part.copies, Number(part.joinable && !part.apart), part.drawCalls]),
    };
  if (name === 'triangles') {
    const total = parts.reduce((sum, part) => sum + part.part.triangles, 0);
    return {
      title: COSTS[name],
      about: 'Triangles of one copy × copies in the scene.',
      heads: [
        { title: 'One copy', show: count, adds: false },
        { title: 'Copies', show: count, adds: false },
        { title: 'Share', show: (v) => percent(v, 1), adds: true },
        { title: 'Triangles', show: count, adds: true },
      ],
      rows: partRows(({ part }) => [part.own, part.copies, total > 0 ? part.triangles / total : 0, part.triangles]),
    };
  }
  if (name === 'gpuVertices')
    return {
      title: COSTS[name],
      about:
        'Points, and what splits them: first UVs, then normals where the UVs agree, tangents, colours, the rest; in all the GPU vertices.',
      heads: ['Points', 'UVs', 'Normals', 'Tang.', 'Colours', 'Rest', 'In all'].map((title) => ({
        title,
        show: count,
        adds: true,
      })),
      rows: partRows(({ part: { splits: x, gpuVertices } }) => [
        x.points,
        x.uvs,
        x.normals,
        x.tangents,
        x.colours,
        x.other,
        gpuVertices,
      ]),
    };
  if (name === 'bytes') {
    const formats = ['rgba16f', 'rgba8', 'bc7', 'bc1', 'astc6x6'] as const;
    const titles = ['RGBA16F', 'RGBA8', 'BC7', 'BC1', 'ASTC 6×6'];
    return {
      title: COSTS[name],
      about:
        'All copies with all mips, as if everything were stored in one format. BC5 and ASTC 4×4 take as much as BC7, BC4 as much as BC1.',
      heads: [
        { title: 'Copies', show: count, adds: true },
        ...titles.map((title) => ({ title, show: bytes, adds: true })),
      ],
      rows: pictures.map((picture) => ({
        key: `${picture.key}${picture.colour}`,
        name: picture.name,
        where: `${picture.width} × ${picture.height}`,
        slot: -1,
        picture: picture.key,
        figures: [picture.copies, ...formats.map((format) => picture.bytes[format] * picture.copies)],
      })),
    };
  }
  if (name === 'blended')
    return {
      title: COSTS[name],
      about: 'Surface of all copies of the slots that blend: what may be drawn over and over.',
      heads: [
        { title: 'Draw calls', show: count, adds: true },
        { title: 'Area', show: m2, adds: true },
      ],
      rows: slotRows(
        all.filter((i) => slots[i].alphaMode === 'BLEND'),
        (facts) => [facts.parts.reduce((sum, part) => sum + part.drawCalls, 0), facts.surface],
      ),
    };
  if (name === 'density')
    return {
      title: COSTS[name],
      about: 'Weighted by area. Stretch is how much longer a texel is than wide on the surface.',
      heads: [
        { title: 'Lowest 5 %', show: px, adds: false },
        { title: 'Median', show: px, adds: false },
        { title: 'Stretch', show: (v) => `${v.toFixed(2)} : 1`, adds: false },
        { title: 'Stretch, 95 %', show: (v) => `${v.toFixed(2)} : 1`, adds: false },
        { title: 'Area', show: m2, adds: true },
      ],
      rows: slotRows(
        all.filter((i) => slots[i].density),
        (facts) => [
          facts.density?.p5 ?? null,
          facts.density?.median ?? null,
          facts.uv?.stretch?.median ?? null,
          facts.uv?.stretch?.p95 ?? null,
          facts.surface,
        ],
      ),
    };
  const { format } = project.decisions.budget;
  return {
    title: COSTS.area,
    about: 'What no UV of any slot touches, counted on a grid of 512 × 512 a texture.',
    heads: [
      { title: 'Used', show: (v) => percent(v), adds: false },
      { title: 'Memory', show: bytes, adds: true },
      { title: 'Of it unused', show: bytes, adds: true },
    ],
    rows: pictures.map((picture) => ({
      key: `${picture.key}${picture.colour}`,
      name: picture.name,
      where: `${picture.width} × ${picture.height}`,
      slot: -1,
      picture: picture.key,
      figures: [
        picture.used,
        picture.bytes[format] * picture.copies,
        Math.round(picture.bytes[format] * picture.copies * (1 - picture.used)),
      ],
    })),
  };
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
  const out: Record<string, string> = { name: 'In all' };
  account.heads.forEach((head, i) => {
    if (head.adds) out[`figure ${i}`] = head.show(account.rows.reduce((sum, row) => sum + (row.figures[i] ?? 0), 0));
  });
  return out;
}
