import type { Finding, FindingAction } from '@wembrel/core/findings/finding';
import { useEffect, useMemo, useRef } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { useAddress } from '../../project/address.ts';
import { FINDING_TITLES } from '../../project/finding-titles.ts';
import { notify } from '../../project/notices.ts';
import { selectSlots, useSelection } from '../../project/selection.ts';
import { changesDecisions, isTaken, taken, takenBack } from '../../project/use-findings.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { bytes, count, counted } from '../../ui/format.ts';
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
  for (const finding of findings) {
    const group = out.get(finding.code) ?? { code: finding.code, list: [], saves: {}, severity: finding.severity };
    out.set(finding.code, group);
    group.list.push(finding);
    if (RANK[finding.severity] < RANK[group.severity]) group.severity = finding.severity;
    for (const k of ['drawCalls', 'bytes', 'triangles', 'vertices'] as const)
      if (finding.saves[k]) group.saves[k] = (group.saves[k] ?? 0) + finding.saves[k];
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
    s.drawCalls ? `−${counted(s.drawCalls, 'draw call')}` : '',
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
  lead: (action: Extract<FindingAction, { do: 'go' }>) => void;
}) {
  const groups = useMemo(() => grouped(findings), [findings]);
  const codes = useMemo(() => ['', ...groups.map((group) => group.code)], [groups]);
  const [open, setOpen] = useAddress('survey', 'finding', codes, '');
  const box = useRef<HTMLElement>(null);
  // Opened from elsewhere it may lie below the end of the list.
  useEffect(() => {
    if (open) box.current?.querySelector('[aria-expanded="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [open]);
  const { decisions } = project;
  const act = (findingAction: FindingAction, list: FindingAction[], title: string) => {
    if (findingAction.do === 'go') {
      lead(findingAction);
      return;
    }
    const merged = !decisions.keepAll && taken(decisions, list).keepAll;
    edit(`${findingAction.label}: ${title}`.slice(0, 120), (decisions) => taken(decisions, list));
    if (merged)
      notify({
        tone: 'plain',
        text: 'One copy is shared now, and models keep their own materials: nothing is merged. The plan can merge again.',
      });
  };
  return (
    <aside ref={box} className={css.box} aria-label="Findings">
      <h2>
        Findings <em>{findings.length}</em>
      </h2>
      {groups.length === 0 && <p className={css.none}>Nothing to mend was found.</p>}
      <ul className={css.groups}>
        {groups.map((group) => {
          const actions = group.list.flatMap((finding) => (changesDecisions(finding.action) ? [finding.action] : []));
          const done = actions.length > 0 && actions.every((action) => isTaken(action, decisions));
          const [first] = actions;
          const back = actions.every((action) => action.do === 'repair' || action.do === 'join');
          const title = FINDING_TITLES[group.code] ?? group.code;
          return (
            <li key={group.code} className={css[group.severity]}>
              <div className={css.line}>
                <button
                  type="button"
                  className={css.title}
                  aria-expanded={open === group.code}
                  onClick={() => {
                    setOpen(open === group.code ? '' : group.code);
                    choose(group.list);
                  }}
                >
                  <span>{title}</span> <em>{group.list.length}</em>
                  {done && <b className={css.done}>done</b>}
                  <span className={css.saves}>{savings(group.saves)}</span>
                </button>
                {first && (group.list.length > 1 || open !== group.code) && (!done || back) && (
                  <button
                    type="button"
                    className={css.act}
                    onClick={() =>
                      done
                        ? edit(`Undo: ${title}`, (decisions) => takenBack(decisions, actions))
                        : act(first, actions, title)
                    }
                  >
                    {done ? 'Undo' : (sameLabel(actions) ?? 'Do all')}
                  </button>
                )}
              </div>
              {open === group.code && (
                <ol className={css.rows}>
                  {group.list.slice(0, 200).map((finding) => (
                    <li key={finding.message}>
                      <button type="button" className={css.message} onClick={() => choose([finding])}>
                        {finding.message}
                        {savings(finding.saves) && <span className={css.saves}> {savings(finding.saves)}</span>}
                      </button>
                      {finding.why && <p className={css.none}>Nothing to do: {finding.why}.</p>}
                      {finding.code === 'duplicate-textures' && <Copies survey={survey} finding={finding} />}
                      {finding.action &&
                        (isTaken(finding.action, decisions) ? (
                          <>
                            <b className={css.done}>done</b>
                            {(finding.action.do === 'repair' || finding.action.do === 'join') && (
                              <button
                                type="button"
                                className={css.act}
                                onClick={() =>
                                  finding.action &&
                                  edit(`Undo: ${finding.subject}`.slice(0, 120), (decisions) =>
                                    takenBack(decisions, [finding.action as FindingAction]),
                                  )
                                }
                              >
                                Undo
                              </button>
                            )}
                          </>
                        ) : (
                          <button
                            type="button"
                            className={css.act}
                            onClick={() => finding.action && act(finding.action, [finding.action], finding.subject)}
                          >
                            {finding.action.label}
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
  return actions.every((action) => action.label === actions[0].label) ? actions[0].label : null;
}

/** Selects what findings are about, and shows the first model of it. */
function choose(list: Finding[]): void {
  selectSlots([...new Set(list.flatMap((finding) => finding.objects.slots ?? []))]);
  const model = list.flatMap((finding) => finding.objects.models ?? [])[0];
  if (model !== undefined) useSelection.setState({ model });
}

/** Every copy of a texture, one by one. */
function Copies({ survey, finding }: { survey: SurveyView; finding: Finding }) {
  const facts = survey.pictures.find((x) => x.key === finding.objects.pictures?.[0]);
  if (!facts) return null;
  return (
    <ul className={css.copies} aria-label={`Copies of ${facts.name}`}>
      {facts.places.map((x, i) => (
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
