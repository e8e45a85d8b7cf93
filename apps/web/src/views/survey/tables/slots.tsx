import type { ProjectView, SurveyView } from '../../../contract/project.ts';
import { Swatch } from '../../../project/Swatch.tsx';
import { count } from '../../../ui/format.ts';
import type { Column } from '../../../ui/table/column.ts';
import css from '../SurveyTables.module.css';

export type SlotRow = SurveyView['slots'][number] & { at: number; path: string };

const sum = (slotRow: SlotRow, key: 'drawCalls' | 'triangles') =>
  slotRow.parts.reduce((sum, part) => sum + part[key], 0);

const ALPHA = { OPAQUE: 'opaque', MASK: 'tested', BLEND: 'blended' } as const;

export function slotColumns(project: ProjectView): Column<SlotRow>[] {
  const target = project.decisions.budget.density;
  return [
    {
      key: 'name',
      title: 'Slot',
      width: 'minmax(140px, 1.4fr)',
      value: (slotRow) => slotRow.name,
      cell: (slotRow) => (
        <>
          <Swatch project={project} picture={slotRow.images.baseColor} factor={slotRow.factor} /> {slotRow.name}
        </>
      ),
    },
    { key: 'path', title: 'Model', width: 'minmax(120px, 1fr)', value: (slotRow) => slotRow.path },
    { key: 'alpha', title: 'Alpha', width: '72px', value: (slotRow) => ALPHA[slotRow.alphaMode] },
    {
      key: 'drawCalls',
      title: 'Draw calls',
      width: '88px',
      value: (slotRow) => sum(slotRow, 'drawCalls'),
      cell: (slotRow) => count(sum(slotRow, 'drawCalls')),
    },
    {
      key: 'triangles',
      title: 'Triangles',
      width: '88px',
      value: (slotRow) => sum(slotRow, 'triangles'),
      cell: (slotRow) => count(sum(slotRow, 'triangles')),
    },
    {
      key: 'repeats',
      title: 'Repeats',
      width: '76px',
      value: (slotRow) => slotRow.repeats,
      cell: (slotRow) => (slotRow.repeats > 1.001 ? `${slotRow.repeats.toFixed(1)} ×` : '–'),
    },
    {
      key: 'density',
      title: 'Median density',
      width: '118px',
      value: (slotRow) => slotRow.density?.median ?? 0,
      cell: (slotRow) =>
        slotRow.density ? (
          <span className={target !== null && slotRow.density.median < target / 2 ? css.over : ''}>
            {Math.round(slotRow.density.median)} px/m
          </span>
        ) : (
          '–'
        ),
    },
  ];
}

export const SLOT_GROUPS: Record<string, (slotRow: SlotRow) => string> = {
  model: (slotRow) => slotRow.path,
  'same look': (slotRow) => `${slotRow.name} and identical ones`,
  alpha: (slotRow) => ALPHA[slotRow.alphaMode],
};
