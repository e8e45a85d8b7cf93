import type { ProjectView, SurveyView } from '../../../contract/project.ts';
import { Swatch } from '../../../project/Swatch.tsx';
import type { Column } from '../../../ui/column.ts';
import { count } from '../../../ui/format.ts';
import css from '../SurveyTables.module.css';

export type SlotRow = SurveyView['slots'][number] & { at: number; path: string };

const sum = (s: SlotRow, key: 'drawCalls' | 'triangles') => s.parts.reduce((n, p) => n + p[key], 0);

const ALPHA = { OPAQUE: 'opaque', MASK: 'tested', BLEND: 'blended' } as const;

export function slotColumns(project: ProjectView): Column<SlotRow>[] {
  const target = project.decisions.budget.density;
  return [
    {
      key: 'name',
      title: 'Slot',
      width: 'minmax(140px, 1.4fr)',
      value: (r) => r.name,
      cell: (r) => (
        <>
          <Swatch project={project} picture={r.images.baseColor} factor={r.factor} /> {r.name}
        </>
      ),
    },
    { key: 'path', title: 'Model', width: 'minmax(120px, 1fr)', value: (r) => r.path },
    { key: 'alpha', title: 'Alpha', width: '72px', value: (r) => ALPHA[r.alphaMode] },
    {
      key: 'drawCalls',
      title: 'Draw calls',
      width: '88px',
      value: (r) => sum(r, 'drawCalls'),
      cell: (r) => count(sum(r, 'drawCalls')),
    },
    {
      key: 'triangles',
      title: 'Triangles',
      width: '88px',
      value: (r) => sum(r, 'triangles'),
      cell: (r) => count(sum(r, 'triangles')),
    },
    {
      key: 'repeats',
      title: 'Repeats',
      width: '76px',
      value: (r) => r.repeats,
      cell: (r) => (r.repeats > 1.001 ? `${r.repeats.toFixed(1)} ×` : '–'),
    },
    {
      key: 'density',
      title: 'Median density',
      width: '118px',
      value: (r) => r.density?.median ?? 0,
      cell: (r) =>
        r.density ? (
          <span className={target !== null && r.density.median < target / 2 ? css.over : ''}>
            {Math.round(r.density.median)} px/m
          </span>
        ) : (
          '–'
        ),
    },
  ];
}

export const SLOT_GROUPS: Record<string, (r: SlotRow) => string> = {
  model: (r) => r.path,
  'same look': (r) => `${r.name} and its twins`,
  alpha: (r) => ALPHA[r.alphaMode],
};
