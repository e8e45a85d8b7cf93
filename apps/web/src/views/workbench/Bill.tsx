import type { JobView, ProjectView, ResultView } from '../../contract/project.ts';
import { bytes, count, decibels, percent } from '../../ui/format.ts';
import { Progress } from '../../ui/Progress.tsx';
import { cancelJob, failedLast, type Live, newest, running, useResult } from './api.ts';
import css from './Bill.module.css';
import { VIEW_TITLES, VIEWS, type ViewName } from './stages.ts';

interface Line {
  state: string;
  figure: string;
  tone?: 'stale' | 'fault' | 'busy';
}

/** What each stage has to say for itself. */
function lines(p: ProjectView, last: JobView | undefined, result: ResultView | undefined): Record<ViewName, Line> {
  const stale = last !== undefined && last.madeFrom !== p.stamp;
  const busy = running(p, 'proof', 'final');
  const failed = failedLast(p, 'proof', 'final');
  const reading = running(p, 'survey');
  const t = p.survey?.totals;
  const made: Line['tone'] = stale ? 'stale' : undefined;
  return {
    survey: reading
      ? { state: 'reading', figure: '', tone: 'busy' }
      : t
        ? {
            state: t.failed ? `${t.failed} not read` : 'read',
            figure: t.files === 1 ? '1 file' : `${count(t.files)} files`,
            tone: t.failed ? 'fault' : undefined,
          }
        : { state: p.sources.length ? 'not read' : 'empty', figure: '' },
    plan: {
      state: p.decisions.keepApart.length ? `${p.decisions.keepApart.length} kept apart` : 'all merged',
      figure: `${p.decisions.sheets} × ${p.decisions.size} px`,
    },
    bake: busy
      ? { state: busy.kind, figure: 'running', tone: 'busy' }
      : failed
        ? { state: failed.state, figure: '', tone: 'fault' }
        : last
          ? {
              state: stale ? 'out of date' : last.kind,
              figure: result ? `${percent(result.sheets[0]?.coverage ?? 0)} covered` : '',
              tone: made,
            }
          : { state: 'not baked', figure: '' },
    compare: result
      ? { state: stale ? 'out of date' : 'worst view', figure: decibels(result.fidelity.psnr), tone: made }
      : { state: '–', figure: '' },
    handover: result
      ? {
          state: last?.kind === 'final' ? (stale ? 'out of date' : 'checked') : 'proof only',
          figure: `${result.written.length} files`,
          tone: made,
        }
      : { state: '–', figure: '' },
  };
}

/** The running account: before → after, and the stages as its lines. It is also the navigation. */
export function Bill({ project, view, live }: { project: ProjectView; view: ViewName; live: Record<string, Live> }) {
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last?.id);
  const t = project.survey?.totals;
  const stage = lines(project, last, result);
  const job = running(project, 'survey', 'proof', 'final');
  const a = result?.after;
  const rows: [string, string, string | null][] = [
    ['Draw calls', t ? count(t.drawCalls) : '–', a ? count(a.drawCalls) : null],
    ['Slots', t ? count(t.slots) : '–', a ? count(a.slots) : null],
    ['Texture memory', t ? bytes(t.textureBytes.bc7) : '–', a ? bytes(a.distinctTextureBytes.bc7) : null],
    ['GPU vertices', t ? count(t.gpuVertices) : '–', a ? count(a.gpuVertices) : null],
    ['Triangles', t ? count(t.triangles) : '–', a ? count(a.triangles) : null],
    ['Lowest density', '–', result?.density ? `${Math.round(result.density.p5)} px/m` : null],
  ];
  return (
    <aside className={css.bill} aria-label="The bill">
      <a className={css.home} href="/">
        Wembrel
      </a>
      <p className={css.project}>{project.name}</p>
      <table className={css.account}>
        <thead>
          <tr>
            <th aria-label="figure" />
            <th>before</th>
            <th>{last?.kind === 'proof' ? 'proof' : 'after'}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([label, before, after]) => (
            <tr key={label}>
              <th scope="row">{label}</th>
              <td>{before}</td>
              <td className={css.after}>{after ?? '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={css.unit}>Memory as BC7 with mips.</p>
      <nav className={css.stages} aria-label="Stages">
        {VIEWS.map((v) => (
          <a
            key={v}
            href={`/p/${project.id}/${v}`}
            className={`${css.stage} ${v === view ? css.here : ''}`}
            aria-current={v === view ? 'page' : undefined}
          >
            <span className={css.name}>{VIEW_TITLES[v]}</span>
            <span className={css.figure}>{stage[v].figure}</span>
            <span className={`${css.state} ${stage[v].tone ? css[stage[v].tone] : ''}`}>{stage[v].state}</span>
          </a>
        ))}
      </nav>
      <div className={css.foot}>
        {job ? (
          <Progress
            share={live[job.id]?.share ?? job.share}
            doing={live[job.id]?.doing ?? job.doing}
            left={live[job.id]?.left ?? job.left}
            onCancel={() => void cancelJob(job.id)}
          />
        ) : (
          <span>Nothing is running.</span>
        )}
        <button
          type="button"
          className={css.theme}
          onClick={() => {
            const root = document.documentElement;
            root.dataset.theme = root.dataset.theme === 'dark' ? 'light' : 'dark';
            localStorage.setItem('wembrel-theme', root.dataset.theme);
          }}
        >
          Light or dark
        </button>
      </div>
    </aside>
  );
}
