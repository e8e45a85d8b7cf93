import type { Finding, FindingAction } from '@wembrel/core/findings/finding';
import { useMemo, useState } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { FINDING_TITLES } from '../../project/finding-titles.ts';
import { notify } from '../../project/notices.ts';
import { selectSlots, useSelection } from '../../project/selection.ts';
import { changesDecisions, isTaken, taken, takenBack } from '../../project/use-findings.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { bytes, count } from '../../ui/format.ts';
import css from './Findings.module.css';

interface Group {
  code: string;
  list: Finding[];
  saves: Finding['saves'];
  severity: Finding['severity'];
}

const RANK = { fault: 0, warning: 1, info: 2 };

function grouped(findings: Finding[]): Group[] {
  const out = new Map<string, Group>();
  for (const f of findings) {
    const g = out.get(f.code) ?? { code: f.code, list: [], saves: {}, severity: f.severity };
    out.set(f.code, g);
    g.list.push(f);
    if (RANK[f.severity] < RANK[g.severity]) g.severity = f.severity;
    for (const k of ['drawCalls', 'bytes', 'triangles', 'vertices'] as const)
      if (f.saves[k]) g.saves[k] = (g.saves[k] ?? 0) + f.saves[k];
  }
  return [...out.values()].sort(
    (a, b) =>
      Number(b.severity === 'fault') - Number(a.severity === 'fault') ||
      (b.saves.drawCalls ?? 0) - (a.saves.drawCalls ?? 0) ||
      (b.saves.bytes ?? 0) - (a.saves.bytes ?? 0) ||
      RANK[a.severity] - RANK[b.severity],
  );
}

function savings(s: Finding['saves']): string {
  return [
    s.drawCalls ? `−${count(s.drawCalls)} draw calls` : '',
    s.bytes ? `−${bytes(s.bytes)}` : '',
    s.triangles ? `−${count(s.triangles)} triangles` : '',
    s.vertices ? `−${count(s.vertices)} vertices` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** What the survey noticed, biggest saving first; each remark selects what it is about and can be acted on at once. */
export function Findings({
  project,
  survey,
  findings,
  edit,
  lead,
}: {
  project: ProjectView;
  survey: SurveyView;
  findings: Finding[];
  edit: ViewProps['edit'];
  /** Goes where an action leads to. */
  lead: (to: Extract<FindingAction, { do: 'go' }>['to']) => void;
}) {
  const groups = useMemo(() => grouped(findings), [findings]);
  const [open, setOpen] = useState<string | null>(null);
  const { decisions } = project;
  const act = (a: FindingAction, list: FindingAction[], title: string) => {
    if (a.do === 'go') {
      lead(a.to);
      return;
    }
    const merged = !decisions.keepAll && taken(decisions, list).keepAll;
    edit(`${a.label}: ${title}`.slice(0, 120), (d) => taken(d, list));
    if (merged)
      notify({
        tone: 'plain',
        text: 'One copy is shared now, and models keep their own materials: nothing is merged. The plan can merge again.',
      });
  };
  return (
    <aside className={css.box} aria-label="Findings">
      <h2>
        Findings <em>{findings.length}</em>
      </h2>
      {groups.length === 0 && <p className={css.none}>Nothing to mend was found.</p>}
      <ul className={css.groups}>
        {groups.map((g) => {
          const actions = g.list.flatMap((f) => (changesDecisions(f.action) ? [f.action] : []));
          const done = actions.length > 0 && actions.every((a) => isTaken(a, decisions));
          const [first] = actions;
          const back = actions.every((a) => a.do === 'repair' || a.do === 'join');
          const title = FINDING_TITLES[g.code] ?? g.code;
          return (
            <li key={g.code} className={css[g.severity]}>
              <div className={css.line}>
                <button
                  type="button"
                  className={css.title}
                  aria-expanded={open === g.code}
                  onClick={() => {
                    setOpen(open === g.code ? null : g.code);
                    choose(g.list);
                  }}
                >
                  <span>{title}</span> <em>{g.list.length}</em>
                  {done && <b className={css.done}>done</b>}
                  <span className={css.saves}>{savings(g.saves)}</span>
                </button>
                {first && (g.list.length > 1 || open !== g.code) && (!done || back) && (
                  <button
                    type="button"
                    className={css.act}
                    onClick={() =>
                      done ? edit(`Take back: ${title}`, (d) => takenBack(d, actions)) : act(first, actions, title)
                    }
                  >
                    {done ? 'Take back' : (sameLabel(actions) ?? 'Do all')}
                  </button>
                )}
              </div>
              {open === g.code && (
                <ol className={css.rows}>
                  {g.list.slice(0, 200).map((f) => (
                    <li key={f.message}>
                      <button type="button" className={css.message} onClick={() => choose([f])}>
                        {f.message}
                        {savings(f.saves) && <span className={css.saves}> {savings(f.saves)}</span>}
                      </button>
                      {f.code === 'twin-textures' && <Copies survey={survey} finding={f} />}
                      {f.action &&
                        (isTaken(f.action, decisions) ? (
                          <>
                            <b className={css.done}>done</b>
                            {(f.action.do === 'repair' || f.action.do === 'join') && (
                              <button
                                type="button"
                                className={css.act}
                                onClick={() =>
                                  f.action &&
                                  edit(`Take back: ${f.subject}`.slice(0, 120), (d) =>
                                    takenBack(d, [f.action as FindingAction]),
                                  )
                                }
                              >
                                Take back
                              </button>
                            )}
                          </>
                        ) : (
                          <button
                            type="button"
                            className={css.act}
                            onClick={() => f.action && act(f.action, [f.action], f.subject)}
                          >
                            {f.action.label}
                          </button>
                        ))}
                    </li>
                  ))}
                </ol>
              )}
            </li>
          );
        })}
      </ul>
    </aside>
  );
}

/** The one label of several actions, or null when they differ. */
function sameLabel(actions: FindingAction[]): string | null {
  return actions.every((a) => a.label === actions[0].label) ? actions[0].label : null;
}

/** Selects what findings are about, and shows the first model of it. */
function choose(list: Finding[]): void {
  selectSlots([...new Set(list.flatMap((f) => f.objects.slots ?? []))]);
  const model = list.flatMap((f) => f.objects.models ?? [])[0];
  if (model !== undefined) useSelection.setState({ model });
}

/** Every copy of a texture, one by one. */
function Copies({ survey, finding }: { survey: SurveyView; finding: Finding }) {
  const p = survey.pictures.find((x) => x.key === finding.objects.pictures?.[0]);
  if (!p) return null;
  return (
    <ul className={css.copies} aria-label={`Copies of ${p.name}`}>
      {p.places.map((x, i) => (
        <li key={`${x.model} ${x.name}`}>
          <button type="button" onClick={() => useSelection.setState({ model: x.model })}>
            {survey.models[x.model].path}: {x.name}
          </button>
          {i === 0 ? ' stays' : ''}
        </li>
      ))}
    </ul>
  );
}
