import { useEffect, useRef, useState } from 'react';
import { TwinStage } from '../../stage/twin-stage.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import frame from '../../ui/View.module.css';
import { call, droppedFiles, failedLast, newest, running, startJob, upload } from '../workbench/api.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import css from './SurveyView.module.css';

/** What the files cost. Files are dropped anywhere on the view. */
export function SurveyView({ project }: ViewProps) {
  const picker = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<string | null>(null);
  const [problems, setProblems] = useState<string[]>([]);
  const [selected, setSelected] = useState<string | null>(null);

  const take = async (files: { path: string; file: File }[]) => {
    if (files.length === 0) return;
    setProblems([]);
    const bad = await upload(project.id, files, (i, name) =>
      setSending(`Sending ${i + 1} of ${files.length}: ${name}`),
    );
    setSending(null);
    setProblems(bad);
    if (bad.length === files.length) return;
    try {
      await startJob(project.id, 'survey');
    } catch (e) {
      setProblems([...bad, (e as Error).message]);
    }
  };

  const survey = project.survey;
  const failed = failedLast(project, 'survey');
  const reading = running(project, 'survey');
  const largest = Math.max(1, ...(survey?.files ?? []).map((f) => f.textureBytes?.bc7 ?? 0));
  const picture = newest(project, 'survey');
  const models = project.sources.filter((s) => /\.(glb|gltf)$/i.test(s.path));
  const readable = (survey?.files ?? []).filter((f) => f.ok);
  const chosen =
    readable.find((f) => f.path === selected) ?? [...readable].sort((a, b) => b.drawCalls - a.drawCalls)[0];
  const index = models.findIndex((m) => m.path === chosen?.path);
  const rows = [...(survey?.files ?? [])].sort((a, b) => Number(b.ok) - Number(a.ok) || b.drawCalls - a.drawCalls);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping files is an extra; the button does the same
    <section
      className={`${frame.view} ${over ? css.over : ''}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void droppedFiles(e.dataTransfer.items).then(take);
      }}
    >
      <header className={frame.head}>
        <h1>Survey</h1>
        {sending && <p>{sending}</p>}
        <input
          ref={picker}
          type="file"
          multiple
          hidden
          accept=".glb,.gltf,.bin,.png,.jpg,.jpeg,.webp,.zip"
          data-testid="files"
          onChange={(e) => {
            void take([...(e.target.files ?? [])].map((file) => ({ path: file.name, file })));
            e.target.value = '';
          }}
        />
        {project.sources.length > 0 && (
          <Button onClick={() => void startJob(project.id, 'survey')} disabled={Boolean(reading)}>
            Read again
          </Button>
        )}
        <Button tone="main" onClick={() => picker.current?.click()}>
          Add files
        </Button>
      </header>
      <div className={`${frame.body} ${css.body}`}>
        {problems.map((p) => (
          <ErrorLine key={p}>{p}</ErrorLine>
        ))}
        {failed?.message && <ErrorLine>{failed.message}</ErrorLine>}
        {project.sources.length === 0 && (
          <EmptyState title="Drop models here">
            GLB files, glTF with their side files, folders, or a ZIP of them. Sources are never changed.
          </EmptyState>
        )}
        {project.sources.length > 0 && !survey && (
          <EmptyState title={reading ? 'Reading the files …' : 'Not read yet'}>
            {reading
              ? 'The figures appear here as soon as every file has been read.'
              : 'Press “Read again” to see what the files cost.'}
          </EmptyState>
        )}
        {survey && (
          <>
            <table className={css.files} data-testid="files-table">
              <thead>
                <tr>
                  <th>Model</th>
                  <th>Draw calls</th>
                  <th>Slots</th>
                  <th>Textures</th>
                  <th>Texture memory (BC7)</th>
                  <th>Triangles</th>
                  <th>GPU vertices</th>
                  <th aria-label="remove" />
                </tr>
              </thead>
              <tbody>
                {rows.map((f) => (
                  <tr key={f.path} className={f.ok ? '' : css.bad}>
                    <td>
                      {f.ok ? (
                        <button
                          type="button"
                          className={`${css.path} ${f === chosen ? css.chosen : ''}`}
                          aria-pressed={f === chosen}
                          onClick={() => setSelected(f.path)}
                        >
                          {f.path}
                        </button>
                      ) : (
                        <span className={css.path}>{f.path}</span>
                      )}
                      {f.error && <span className={css.reason}>{f.error}</span>}
                      {f.slotNames && <span className={css.slots}>{f.slotNames.join(' · ')}</span>}
                      {f.notes?.map((n) => (
                        <span key={n} className={css.slots}>
                          {n}
                        </span>
                      ))}
                    </td>
                    {f.ok ? (
                      <>
                        <td>{count(f.drawCalls)}</td>
                        <td>{count(f.slots)}</td>
                        <td>{count(f.textures)}</td>
                        <td className={css.memory}>
                          <span>{bytes(f.textureBytes?.bc7 ?? 0)}</span>
                          <span
                            className={css.bar}
                            style={{ width: `${((f.textureBytes?.bc7 ?? 0) / largest) * 100}%` }}
                          />
                        </td>
                        <td>{count(f.triangles)}</td>
                        <td>{count(f.gpuVertices)}</td>
                      </>
                    ) : (
                      <td colSpan={6} className={css.notRead}>
                        not read
                      </td>
                    )}
                    <td>
                      <Button
                        tone="quiet"
                        aria-label={`Take ${f.path} out of the project`}
                        onClick={() =>
                          void call(`/api/projects/${project.id}/sources?path=${encodeURIComponent(f.path)}`, {
                            method: 'DELETE',
                          }).then(() => startJob(project.id, 'survey').catch(() => undefined))
                        }
                      >
                        Take out
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
              <tfoot>
                <tr>
                  <td>In all</td>
                  <td data-testid="total-drawcalls">{count(survey.totals.drawCalls)}</td>
                  <td>{count(survey.totals.slots)}</td>
                  <td>{count(survey.totals.textures)}</td>
                  <td>{bytes(survey.totals.textureBytes.bc7)}</td>
                  <td>{count(survey.totals.triangles)}</td>
                  <td>{count(survey.totals.gpuVertices)}</td>
                  <td />
                </tr>
              </tfoot>
            </table>
            {picture && <Picture job={picture.id} index={index} name={chosen?.path ?? ''} />}
            <div className={css.more}>
              <section>
                <h2>Texture memory, all mips</h2>
                <table>
                  <thead>
                    <tr>
                      <th>As</th>
                      <th>stored</th>
                      <th>twins shared</th>
                    </tr>
                  </thead>
                  <tbody>
                    {(['rgba8', 'bc7', 'bc1', 'astc6x6'] as const).map((k) => (
                      <tr key={k}>
                        <td>{{ rgba8: 'RGBA8', bc7: 'BC7', bc1: 'BC1', astc6x6: 'ASTC 6×6' }[k]}</td>
                        <td>{bytes(survey.totals.textureBytes[k])}</td>
                        <td>{bytes(survey.totals.distinctTextureBytes[k])}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </section>
              <section>
                <h2>In the whole pile</h2>
                <table>
                  <tbody>
                    <tr>
                      <td>Materials, of them distinct</td>
                      <td>
                        {count(survey.totals.materials)}, {count(survey.totals.distinctMaterials)}
                      </td>
                    </tr>
                    <tr>
                      <td>Textures, of them distinct</td>
                      <td>
                        {count(survey.totals.textures)}, {count(survey.totals.distinctTextures)}
                      </td>
                    </tr>
                    <tr>
                      <td>Instances</td>
                      <td>{count(survey.totals.instances)}</td>
                    </tr>
                    <tr>
                      <td>Points, GPU vertices</td>
                      <td>
                        {count(survey.totals.positions)}, {count(survey.totals.gpuVertices)}
                      </td>
                    </tr>
                  </tbody>
                </table>
              </section>
              <section>
                <h2>Findings</h2>
                {survey.findings.length === 0 && <p className={css.none}>No twins among textures or materials.</p>}
                {survey.findings.map((f) => (
                  <p key={f.code} className={css.finding}>
                    {f.message}
                    {f.saves.bytes ? ` (${bytes(f.saves.bytes)} as RGBA8)` : ''}.
                  </p>
                ))}
              </section>
            </div>
          </>
        )}
      </div>
    </section>
  );
}

/** The chosen model, alone. */
function Picture({ job, index, name }: { job: string; index: number; name: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    if (!canvas.current || index < 0) return;
    let stage: TwinStage | null = null;
    try {
      stage = new TwinStage(canvas.current);
      stage.show('one', 1);
      stage.load(0, `/api/jobs/${job}/files/views/${index}.glb`).then(
        () => setProblem(null),
        (e: Error) => setProblem(`the model could not be shown: ${e.message}`),
      );
    } catch {
      setProblem('this browser gives no 3D picture (WebGL 2 is needed)');
    }
    return () => stage?.dispose();
  }, [job, index]);
  return (
    <div className={css.picture}>
      {problem && <ErrorLine>{problem}</ErrorLine>}
      <canvas ref={canvas} aria-label={`3D picture of ${name}`} key={`${job} ${index}`} />
    </div>
  );
}
