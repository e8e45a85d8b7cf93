import { type BudgetLine, LINE_TITLES } from '@wembrel/core/decisions/budget';
import { sheetSides } from '@wembrel/core/decisions/sheets';
import { plannedName } from '@wembrel/core/predict/planned';
import type { Proposal } from '@wembrel/core/predict/propose/propose';
import { takeProposal } from '@wembrel/core/predict/propose/take';
import { useMemo, useState } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { sheetTitle } from '../../project/change-plan.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count, counted, percent } from '../../ui/format.ts';
import { ErrorLine } from '../../ui/Notice.tsx';
import { Progress } from '../../ui/Progress.tsx';
import css from './ProposePanel.module.css';
import { useProposal } from './use-proposal.ts';

/** Asks for a plan and lays it out slot by slot, so that all of it or part of it can be taken. */
export function ProposePanel({
  survey,
  decisions,
  edit,
  onClose,
}: {
  survey: SurveyView | null;
  decisions: MergeDecisions;
  edit: ViewProps['edit'];
  onClose: () => void;
}) {
  const [most, setMost] = useState(4);
  const [keep, setKeep] = useState(false);
  const { share, proposal, problem, ask, stop } = useProposal(survey, decisions);
  const [reduce, setReduce] = useState(true);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const begin = () => {
    setLeft(new Set());
    ask(most, keep);
  };
  const titles = useMemo(
    () => new Map(decisions.planned.map((planned) => [plannedName(planned), planned.name])),
    [decisions.planned],
  );
  const take = () => {
    if (!proposal) return;
    const all = left.size === 0;
    const names = new Set(proposal.routes.map((route) => route.name).filter((name) => !left.has(name)));
    edit(all ? 'Apply the proposed plan' : `Apply ${names.size} of the proposed routes`, (decisions) =>
      takeProposal(decisions, proposal, all ? null : names, reduce),
    );
    onClose();
  };
  return (
    <section className={css.box} aria-label="A proposed plan">
      <header className={css.head}>
        <h2>A proposed plan</h2>
        <label>
          New sheets, at most{' '}
          <select value={most} onChange={(event) => setMost(Number(event.target.value))} disabled={keep}>
            {[1, 2, 3, 4, 6, 8].map((n) => (
              <option key={n} value={n}>
                {n}
              </option>
            ))}
          </select>
        </label>
        <label title="Only routes are proposed.">
          <input type="checkbox" checked={keep} onChange={(event) => setKeep(event.target.checked)} /> Keep the sheets
          as they are
        </label>
        <span className={css.gap} />
        <Button tone={proposal ? 'plain' : 'main'} onClick={begin} aria-disabled={share !== null}>
          {proposal ? 'Propose again' : 'Propose'}
        </Button>
        <Button
          tone="quiet"
          onClick={() => {
            stop();
            onClose();
          }}
        >
          Back to the board
        </Button>
      </header>
      {share !== null && <Progress share={share} doing="trying plans" left={null} onCancel={stop} />}
      {problem && <ErrorLine>{problem}</ErrorLine>}
      {!proposal && share === null && (
        <p className={css.about}>
          Looks for the slots that share a sheet and for the size of each sheet: the budget first, then the fewest draw
          calls, then the sharpest result, then the least memory. Routes and rules of your own stay as they are, and so
          do importance and what is kept apart. Nothing changes until you take it.
        </p>
      )}
      {proposal && (
        <>
          <Figures proposal={proposal} decisions={decisions} />
          <div className={css.list}>
            <table>
              <thead>
                <tr>
                  <th scope="col">
                    <input
                      type="checkbox"
                      aria-label="All of it"
                      checked={left.size === 0}
                      onChange={(event) =>
                        setLeft(event.target.checked ? new Set() : new Set(proposal.routes.map((route) => route.name)))
                      }
                    />
                  </th>
                  <th scope="col">Slot</th>
                  <th scope="col">goes to</th>
                  <th scope="col">because</th>
                </tr>
              </thead>
              <tbody>
                {proposal.routes.map((route) => (
                  <tr key={route.name}>
                    <td>
                      <input
                        type="checkbox"
                        aria-label={`Apply the route of ${titles.get(route.name) ?? route.name}`}
                        checked={!left.has(route.name)}
                        onChange={(event) => {
                          const next = new Set(left);
                          if (event.target.checked) next.delete(route.name);
                          else next.add(route.name);
                          setLeft(next);
                        }}
                      />
                    </td>
                    <th scope="row">{titles.get(route.name) ?? route.name}</th>
                    <td>{sheetTitle(proposal.decisions, route.to)}</td>
                    <td>{route.why}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {proposal.reductions.length > 0 && (
            <label className={css.reduce}>
              <input type="checkbox" checked={reduce} onChange={(event) => setReduce(event.target.checked)} /> Reduce
              what is too heavy:{' '}
              {proposal.reductions
                .map(
                  (reduction) =>
                    `${reduction.name} from ${count(reduction.from)} to ${count(reduction.to)} triangles, ${count(reduction.copies)} ×`,
                )
                .join('; ')}
            </label>
          )}
          <footer className={css.foot}>
            <em>
              {count(proposal.scored)} plans scored{proposal.exhaustive ? ': all that there are' : ''}
            </em>
            <Button tone="main" onClick={take} aria-disabled={left.size === proposal.routes.length}>
              {left.size === 0 ? 'Apply plan' : `Apply ${counted(proposal.routes.length - left.size, 'route')}`}
            </Button>
          </footer>
        </>
      )}
    </section>
  );
}

function Figures({ proposal, decisions }: { proposal: Proposal; decisions: MergeDecisions }) {
  const { format } = decisions.budget;
  const density = (v: number | null) => (v === null ? '–' : `${count(v)} px/m`);
  const over = (line: BudgetLine) => proposal.over[line] !== undefined;
  const rows: [string, string, string, BudgetLine | null][] = [
    ['Draw calls', count(proposal.before.drawCalls), count(proposal.after.drawCalls), 'drawCalls'],
    ['Texture memory', bytes(proposal.before.bytes[format]), bytes(proposal.after.bytes[format]), 'textureBytes'],
    ['Textures', count(proposal.before.textures), count(proposal.after.textures), null],
    [
      'Largest texture',
      `${proposal.before.largestTexture} px`,
      `${proposal.after.largestTexture} px`,
      'largestTexture',
    ],
    ['Lowest density', density(proposal.before.lowestDensity), density(proposal.after.lowestDensity), null],
    ['Share of target density', percent(proposal.kept.before), percent(proposal.kept.after), 'density'],
    ['Triangles', count(proposal.before.triangles), count(proposal.after.triangles), 'triangles'],
  ];
  return (
    <div className={css.figures}>
      <table>
        <thead>
          <tr>
            <td />
            <th scope="col">present plan</th>
            <th scope="col">proposed</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([title, before, after, line]) => (
            <tr key={title}>
              <th scope="row">{title}</th>
              <td>{before}</td>
              <td className={line && over(line) ? css.over : ''}>
                {after}
                {line && over(line) && <span>, {(proposal.over[line] as number).toFixed(2)} × over</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div>
        <ul className={css.sheets}>
          {proposal.decisions.sheets.map((sheet, i) => (
            <li key={sheet.id}>
              <b>{sheet.name}</b> {sheet.kind}, {sheetSides(sheet).join(' × ')} px,{' '}
              {count(proposal.after.sheets[i].slots)} slots, {Math.round(proposal.after.sheets[i].coverage * 100)} %
              covered
            </li>
          ))}
        </ul>
        {proposal.inTheWay && (
          <p className={css.over}>
            No plan meets the budget: {LINE_TITLES[proposal.inTheWay.line]} is in the way, by{' '}
            {proposal.inTheWay.by.toFixed(2)} × at the least.
          </p>
        )}
      </div>
    </div>
  );
}
