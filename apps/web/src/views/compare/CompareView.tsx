import { type BudgetLine, overBudget } from '@wembrel/core/decisions/budget';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { JobView, ResultView } from '../../contract/project.ts';
import { useAddress } from '../../project/address.ts';
import { newest, useResult } from '../../project/api.ts';
import { FORMAT_TITLES } from '../../project/format-titles.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import { RunningJob } from '../../project/RunningJob.tsx';
import type { ViewProps } from '../../project/view-props.ts';
import { missingIn } from '../../project/view-state.ts';
import { ModelView, type ModelViewHandle } from '../../stage/ModelView.tsx';
import type { StageMode } from '../../stage/model-stage.ts';
import { TwoSides } from '../../stage/TwoSides.tsx';
import { Button } from '../../ui/Button.tsx';
import { Choice } from '../../ui/Field.tsx';
import { bytes, count } from '../../ui/format.ts';
import { Segments } from '../../ui/Segments.tsx';
import frame from '../../ui/View.module.css';
import css from './CompareView.module.css';
import { Fidelity } from './Fidelity.tsx';

const COMPARED_AT = [256, 512, 1024, 2048] as const;

/** How many times a difference can be shown. */
const GAINS = [1, 2, 4, 8, 16, 32] as const;

const MODES: { value: StageMode; label: string }[] = [
  { value: 'side', label: 'side by side' },
  { value: 'wipe', label: 'wipe' },
  { value: 'blink', label: 'blink' },
  { value: 'difference', label: 'difference' },
];

const MODE_NAMES = MODES.map(({ value }) => value);

/** Original and result under one camera and one light, and what the figures say. */
export function CompareView(props: ViewProps) {
  const { project } = props;
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last);
  if (!last || !result)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Compare</h1>
        </header>
        <NothingYet {...props} view="compare" missing={missingIn(project, 'result') ?? 'baking'} />
      </section>
    );
  return <Comparison {...props} bake={last} result={result} stale={last.madeFrom !== project.stamp} />;
}

function Comparison({
  project,
  edit,
  live,
  bake,
  result,
  stale,
}: ViewProps & { bake: JobView; result: ResultView; stale: boolean }) {
  const { id: job, kind } = bake;
  const picture = useRef<ModelViewHandle>(null);
  const [model, setModel] = useState(0);
  const [mode, setMode] = useAddress('compare', 'mode', MODE_NAMES, 'side');
  const [split, setSplit] = useState(0.5);
  const [gain, setGain] = useState(4);
  const [ready, setReady] = useState(false);
  const [blinked, setBlinked] = useState<0 | 1>(0);
  const [metres, setMetres] = useState<number | null>(null);
  const [text, setText] = useState('');
  const typing = useRef(false);
  const shown = result.models[Math.min(model, result.models.length - 1)];
  const wanted = project.decisions.viewDistance;

  // biome-ignore lint/correctness/useExhaustiveDependencies: side by side has half the width, so the fit changes with the mode
  useEffect(() => {
    if (!ready) return;
    if (wanted !== null) picture.current?.setDistance(wanted);
    else picture.current?.frame();
  }, [ready, wanted, mode === 'side']);
  useEffect(() => {
    if (metres !== null && !typing.current) setText(metres < 10 ? metres.toFixed(2) : metres.toFixed(1));
  }, [metres]);
  // Slow enough not to flicker; B swaps by hand for those who want it stiller still.
  useEffect(() => {
    if (mode !== 'blink') return;
    const still = window.matchMedia('(prefers-reduced-motion: reduce)').matches;
    const timer = still ? 0 : window.setInterval(() => setBlinked((s) => (s === 0 ? 1 : 0)), 700);
    return () => window.clearInterval(timer);
  }, [mode]);
  useEffect(() => picture.current?.blink(blinked), [blinked]);
  const key = useCallback(
    (k: string): boolean => {
      if (k.toLowerCase() === 'v') setMode(MODES[(MODES.findIndex((x) => x.value === mode) + 1) % MODES.length].value);
      else if (k.toLowerCase() === 'b') setBlinked((s) => (s === 0 ? 1 : 0));
      else return false;
      return true;
    },
    [mode, setMode],
  );
  const keepDistance = () => {
    typing.current = false;
    const v = Number(text);
    if (!(v > 0.01) || !Number.isFinite(v)) return setText(metres?.toFixed(2) ?? '');
    picture.current?.setDistance(v);
    if (v !== wanted) edit(`Seen from ${v} m`, (decisions) => ({ ...decisions, viewDistance: v }));
  };

  const totals = result.before;
  const a = result.after;
  const { budget } = project.decisions;
  const { format } = budget;
  const rows: { title: string; line?: BudgetLine; is: [before: number, after: number]; show: (v: number) => string }[] =
    [
      { title: 'Draw calls', line: 'drawCalls', is: [totals.drawCalls, a.drawCalls], show: count },
      { title: 'Slots', is: [totals.slots, a.slots], show: count },
      { title: 'Textures', is: [totals.textures, a.distinctTextures], show: count },
      {
        title: `Memory, ${FORMAT_TITLES[format]}`,
        line: 'textureBytes',
        is: [totals.textureBytes[format], a.textureBytes[format]],
        show: bytes,
      },
      { title: 'GPU vertices', line: 'gpuVertices', is: [totals.gpuVertices, a.gpuVertices], show: count },
      { title: 'Triangles', line: 'triangles', is: [totals.triangles, a.triangles], show: count },
    ];
  const over = (line: BudgetLine | undefined, v: number) =>
    line !== undefined && overBudget(budget, { [line]: v })[line] !== undefined ? css.over : '';
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Compare</h1>
        {stale && <p>out of date: the plan or a source changed since</p>}
        {result.models.length > 1 && (
          <select
            aria-label="Model"
            className={css.model}
            value={model}
            onChange={(event) => setModel(Number(event.target.value))}
          >
            {result.models.map((model, i) => (
              <option key={model.file} value={i}>
                {model.name}
              </option>
            ))}
          </select>
        )}
        <Segments label="How to compare" value={mode} options={MODES} onChange={setMode} />
        <label className={css.distance}>
          from
          <input
            aria-label="Viewing distance, m"
            inputMode="decimal"
            value={text}
            onFocus={() => {
              typing.current = true;
            }}
            onChange={(event) => setText(event.target.value)}
            onBlur={keepDistance}
            onKeyDown={(event) => event.key === 'Enter' && keepDistance()}
          />
          m
        </label>
        <Button onClick={() => picture.current?.frame()}>Fit</Button>
      </header>
      <div className={css.body}>
        <div className={css.picture}>
          <div className={css.stage} data-ready={ready}>
            <ModelView
              ref={picture}
              label={mode === 'side' ? 'Original on the left, result on the right' : `Original and result, ${mode}`}
              url={project.surveyJob ? `/api/jobs/${project.surveyJob}/files/views/${shown.source}.glb` : null}
              second={`/api/jobs/${job}/files/delivery/${encodeURIComponent(shown.file)}`}
              mode={mode}
              split={split}
              onReady={setReady}
              onDistance={setMetres}
              onKey={key}
            />
            {mode === 'blink' ? (
              <span className={css.tag} style={{ left: 10 }}>
                {blinked === 0 ? 'Original' : `Result, ${kind}`}
              </span>
            ) : mode === 'difference' ? (
              <label className={css.tag} style={{ left: 10 }}>
                Difference around grey ×{' '}
                <select
                  aria-label="Gain of the difference"
                  value={gain}
                  onChange={(event) => {
                    setGain(Number(event.target.value));
                    picture.current?.setGain(Number(event.target.value));
                  }}
                >
                  {GAINS.map((times) => (
                    <option key={times}>{times}</option>
                  ))}
                </select>
              </label>
            ) : null}
            <TwoSides
              mode={mode}
              titles={mode === 'side' || mode === 'wipe' ? ['Original', `Result, ${kind}`] : null}
              split={split}
              onSplit={setSplit}
              label="Where original ends and result begins"
            />
          </div>
        </div>
        <aside className={css.side}>
          <table>
            <thead>
              <tr>
                <th>Figure</th>
                <th>before</th>
                <th>{kind === 'proof' ? 'proof' : 'after'}</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.title}>
                  <td>{row.title}</td>
                  <td className={over(row.line, row.is[0])}>{row.show(row.is[0])}</td>
                  <td className={`${css.after} ${over(row.line, row.is[1])}`}>{row.show(row.is[1])}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Choice
            label="Test image size"
            value={String(project.decisions.compareAt)}
            options={COMPARED_AT.map((px) => ({ value: String(px), label: `${px} px` }))}
            note="Side of the pictures of a final; a proof takes half of it. Smaller is quicker."
            onChange={(v) => {
              const compareAt = COMPARED_AT.find((px) => String(px) === v);
              if (compareAt) edit(`Test image size ${v} px`, (decisions) => ({ ...decisions, compareAt }));
            }}
          />
          {result.fidelity ? (
            <Fidelity
              job={job}
              fidelity={result.fidelity}
              onLook={(eye, times) => picture.current?.lookFrom(eye, times)}
            />
          ) : bake.comparing ? (
            <>
              <p>The delivery is complete. It is being compared from twelve views at three distances.</p>
              <RunningJob job={bake} live={live} />
            </>
          ) : (
            <p>The comparison was stopped; the delivery is complete. Bake again to compare it.</p>
          )}
        </aside>
      </div>
    </section>
  );
}
