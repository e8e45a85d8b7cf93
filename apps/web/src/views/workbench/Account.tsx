import { overBudget } from '@wembrel/core/decisions/budget';
import type { ProjectView } from '../../contract/project.ts';
import type { Forecast } from '../../project/prediction.ts';
import { percent } from '../../ui/format.ts';
import { Term } from '../../ui/Term.tsx';
import css from './Account.module.css';
import { type BillRow, useBillRows } from './bill-rows.ts';

/** The figures of the bill, before → after, each held against its line of the budget. */
export function Account({ project, forecast }: { project: ProjectView; forecast: Forecast | null }) {
  const { rows, column } = useBillRows(project, forecast);
  return (
    <table className={css.account}>
      <thead>
        <tr>
          <td />
          <th scope="col">before</th>
          <th scope="col">{column}</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <Row key={row.label} row={row} budget={project.decisions.budget} />
        ))}
      </tbody>
    </table>
  );
}

function Row({ row, budget }: { row: BillRow; budget: ProjectView['decisions']['budget'] }) {
  const limit = row.line ? budget[row.line] : null;
  const over = row.is.map(
    (value) => row.line && value != null && overBudget(budget, { [row.line]: value })[row.line] !== undefined,
  );
  return (
    <tr className={`${limit === null ? '' : css.limited} ${row.lead ? css.lead : ''}`}>
      <th scope="row">
        <Term about={row.formula} side="right">
          {row.label}
        </Term>
        {limit !== null && (
          <small>
            {row.line === 'density' ? 'wanted' : 'of'} {row.limit(limit)}
          </small>
        )}
      </th>
      <td className={over[0] ? css.over : ''}>{row.before ?? '–'}</td>
      <td className={`${css.after} ${row.measured ? '' : css.predicted} ${over[1] ? css.over : ''}`}>
        <Figure text={row.measured ?? row.predicted ?? '–'} />
        {row.measured && row.predicted && row.off !== null && (
          <small title={`${row.predicted.replace('≈ ', '')} was predicted.`}>
            prediction {percent(row.off, row.off < 0.1 ? 1 : 0)} off
          </small>
        )}
      </td>
    </tr>
  );
}

/** A figure whose unit may be smaller than its number. */
function Figure({ text }: { text: string }) {
  const [, number, unit] = /^(.*\d)( [^\d ]+)$/.exec(text) ?? [null, text, ''];
  return (
    <>
      {number}
      <i>{unit}</i>
    </>
  );
}
