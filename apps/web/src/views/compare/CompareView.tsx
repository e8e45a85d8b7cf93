import { useEffect, useRef, useState } from 'react';
import type { ProjectView, ResultView } from '../../contract/project.ts';
import { TwinStage } from '../../stage/twin-stage.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count, decibels } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import frame from '../../ui/View.module.css';
import { newest, useResult } from '../workbench/api.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import css from './CompareView.module.css';

/** Original and result under one camera and one light, and what the figures say. */
export function CompareView({ project }: ViewProps) {
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last?.id);
  if (!last || !result)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Compare</h1>
        </header>
        <EmptyState title="Nothing to compare yet">
          Bake a proof first; original and result then stand side by side here.
        </EmptyState>
      </section>
    );
  return <Comparison project={project} job={last.id} kind={last.kind} result={result} />;
}

function Comparison({
  project,
  job,
  kind,
  result,
}: {
  project: ProjectView;
  job: string;
  kind: string;
  result: ResultView;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<TwinStage | null>(null);
  const [model, setModel] = useState(0);
  const [mode, setMode] = useState<'side' | 'wipe'>('side');
  const [split, setSplit] = useState(0.5);
  const [problem, setProblem] = useState<string | null>(null);
  const [ready, setReady] = useState(false);
  const survey = newest(project, 'survey');
  const shown = result.models[Math.min(model, result.models.length - 1)];

  useEffect(() => {
    if (!canvas.current) return;
    let mine: TwinStage;
    try {
      mine = new TwinStage(canvas.current);
    } catch {
      setProblem('this browser gives no 3D picture (WebGL 2 is needed); the figures on the right stand without it');
      return;
    }
    stage.current = mine;
    return () => {
      stage.current = null;
      mine.dispose();
    };
  }, []);
  useEffect(() => {
    const s = stage.current;
    if (!s || !survey) return;
    setReady(false);
    Promise.all([
      s.load(0, `/api/jobs/${survey.id}/files/views/${shown.source}.glb`),
      s.load(1, `/api/jobs/${job}/files/delivery/${encodeURIComponent(shown.file)}`),
    ]).then(
      () => {
        setProblem(null);
        setReady(true);
      },
      (e: Error) => setProblem(`the models could not be shown: ${e.message}`),
    );
  }, [survey, job, shown]);
  useEffect(() => stage.current?.show(mode, split), [mode, split]);

  const b = result.before;
  const a = result.after;
  const rows: [string, string, string][] = [
    ['Draw calls', count(b.drawCalls), count(a.drawCalls)],
    ['Slots', count(b.slots), count(a.slots)],
    ['Textures', count(b.textures), count(a.distinctTextures)],
    ['Memory, BC7', bytes(b.textureBytes.bc7), bytes(a.distinctTextureBytes.bc7)],
    ['GPU vertices', count(b.gpuVertices), count(a.gpuVertices)],
    ['Triangles', count(b.triangles), count(a.triangles)],
  ];
  const keys: Record<string, [number, number, number]> = {
    ArrowLeft: [-0.15, 0, 1],
    ArrowRight: [0.15, 0, 1],
    ArrowUp: [0, -0.1, 1],
    ArrowDown: [0, 0.1, 1],
    '+': [0, 0, 0.87],
    '=': [0, 0, 0.87],
    '-': [0, 0, 1.15],
  };
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Compare</h1>
        {result.models.length > 1 && (
          <label>
            Model{' '}
            <select value={model} onChange={(e) => setModel(Number(e.target.value))}>
              {result.models.map((m, i) => (
                <option key={m.file} value={i}>
                  {m.name}
                </option>
              ))}
            </select>
          </label>
        )}
        <fieldset className={css.modes}>
          <legend className={css.hidden}>How to compare</legend>
          <label>
            <input type="radio" name="mode" checked={mode === 'side'} onChange={() => setMode('side')} /> side by side
          </label>
          <label>
            <input type="radio" name="mode" checked={mode === 'wipe'} onChange={() => setMode('wipe')} /> wipe
          </label>
        </fieldset>
        <Button onClick={() => stage.current?.frame()}>Show all</Button>
      </header>
      <div className={css.body}>
        <div className={css.picture}>
          {problem && <ErrorLine>{problem}</ErrorLine>}
          <div className={css.stage}>
            <canvas
              ref={canvas}
              data-ready={ready}
              aria-label="Original on the left, result on the right; arrows turn, plus and minus move nearer and farther"
              tabIndex={0}
              onKeyDown={(e) => {
                const move = keys[e.key];
                if (!move) return;
                e.preventDefault();
                stage.current?.nudge(...move);
              }}
            />
            <span className={css.tag} style={{ left: 10 }}>
              Original
            </span>
            <span className={css.tag} style={{ right: 10 }}>
              Result, {kind}
            </span>
            {mode === 'side' && <span className={css.middle} style={{ left: '50%' }} />}
            {mode === 'wipe' && (
              <>
                <span className={css.middle} style={{ left: `${split * 100}%` }} />
                <input
                  className={css.wipe}
                  type="range"
                  min={0}
                  max={1}
                  step={0.01}
                  value={split}
                  aria-label="Where original ends and result begins"
                  onChange={(e) => setSplit(Number(e.target.value))}
                />
              </>
            )}
          </div>
        </div>
        <aside className={css.side}>
          <table>
            <thead>
              <tr>
                <th>Figure</th>
                <th>before</th>
                <th>after</th>
              </tr>
            </thead>
            <tbody>
              {rows.map(([k, x, y]) => (
                <tr key={k}>
                  <td>{k}</td>
                  <td>{x}</td>
                  <td className={css.after}>{y}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2>
            Worst view “{result.fidelity.worstView}”: {decibels(result.fidelity.psnr)}, SSIM{' '}
            {result.fidelity.ssim.toFixed(4)}
          </h2>
          <div className={css.worst}>
            {(['original', 'result', 'difference'] as const).map((k) => (
              <figure key={k}>
                <img src={`/api/jobs/${job}/files/worst-${k}.png`} alt={`${k}, worst view`} />
                <figcaption>{k === 'difference' ? 'difference × 4' : k}</figcaption>
              </figure>
            ))}
          </div>
          <table className={css.views}>
            <thead>
              <tr>
                <th>View</th>
                <th>unlit</th>
                <th>lit</th>
                <th>SSIM</th>
              </tr>
            </thead>
            <tbody>
              {result.fidelity.views.map((v) => (
                <tr key={v.name} className={v.name === result.fidelity.worstView ? css.worstRow : ''}>
                  <td>{v.name}</td>
                  <td>{decibels(v.unlit.psnr)}</td>
                  <td>{decibels(v.lit.psnr)}</td>
                  <td>{Math.min(v.unlit.ssim, v.lit.ssim).toFixed(4)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </aside>
      </div>
    </section>
  );
}
