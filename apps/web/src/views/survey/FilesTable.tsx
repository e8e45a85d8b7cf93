import { useMemo, useState } from 'react';
import type { FileRow, ProjectView, SurveyView } from '../../contract/project.ts';
import { Button } from '../../ui/Button.tsx';
import { type Column, DataTable } from '../../ui/DataTable.tsx';
import { bytes, count } from '../../ui/format.ts';
import { Segments } from '../../ui/Segments.tsx';
import { changeSources } from '../workbench/api.ts';
import { tell } from '../workbench/notices.ts';
import { selectSlots, setHover, useSelection } from '../workbench/selection.ts';
import css from './FilesTable.module.css';

type Sort = { key: string; down: boolean };

const FILES: Column<FileRow>[] = [
  {
    key: 'path',
    title: 'Model',
    width: 'minmax(180px, 2.4fr)',
    value: (r) => `${r.path} ${r.error ?? ''}`,
    cell: (r) =>
      r.ok ? (
        <span title={[r.path, ...(r.notes ?? [])].join('\n')}>
          {r.path}
          {r.notes?.map((n) => (
            <em key={n} className={css.note}>
              {n}
            </em>
          ))}
        </span>
      ) : (
        <span className={css.bad} title={`${r.path}: ${r.error}`}>
          {r.path}: {r.error}
        </span>
      ),
  },
  {
    key: 'drawCalls',
    title: 'Draw calls',
    width: '88px',
    value: (r) => r.drawCalls,
    cell: (r) => figure(r, count(r.drawCalls)),
  },
  { key: 'slots', title: 'Slots', width: '62px', value: (r) => r.slots, cell: (r) => figure(r, count(r.slots)) },
  {
    key: 'textures',
    title: 'Textures',
    width: '76px',
    value: (r) => r.textures,
    cell: (r) => figure(r, count(r.textures)),
  },
  {
    key: 'bytes',
    title: 'Memory, BC7',
    width: '100px',
    value: (r) => r.textureBytes?.bc7 ?? 0,
    cell: (r) => figure(r, bytes(r.textureBytes?.bc7 ?? 0)),
  },
  {
    key: 'triangles',
    title: 'Triangles',
    width: '88px',
    value: (r) => r.triangles,
    cell: (r) => figure(r, count(r.triangles)),
  },
  {
    key: 'gpuVertices',
    title: 'GPU vertices',
    width: '98px',
    value: (r) => r.gpuVertices,
    cell: (r) => figure(r, count(r.gpuVertices)),
  },
];

function figure(r: FileRow, text: string) {
  return r.ok ? text : '–';
}

type SlotRow = SurveyView['slots'][number] & { at: number; path: string };
type PictureRow = SurveyView['pictures'][number];

/** The rows behind the shelf: models, slots or textures, each as a table. */
export function FilesTable({ project, survey }: { project: ProjectView; survey: SurveyView }) {
  const [what, setWhat] = useState<'files' | 'slots' | 'textures'>('files');
  const [filter, setFilter] = useState('');
  const [sorts, setSorts] = useState<Record<string, Sort>>({
    files: { key: 'drawCalls', down: true },
    slots: { key: 'drawCalls', down: true },
    textures: { key: 'bytes', down: true },
  });
  const [files, setFiles] = useState<ReadonlySet<string>>(new Set());
  const slots = useSelection((s) => s.slots);
  const slotRows = useMemo<SlotRow[]>(
    () => survey.slots.map((s, at) => ({ ...s, at, path: survey.models[s.model].path })),
    [survey],
  );
  const slotColumns = useMemo<Column<SlotRow>[]>(
    () => [
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
      {
        key: 'alpha',
        title: 'Alpha',
        width: '72px',
        value: (r) => ({ OPAQUE: 'opaque', MASK: 'tested', BLEND: 'blended' })[r.alphaMode],
      },
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
        cell: (r) => (r.density ? `${Math.round(r.density.median)} px/m` : '–'),
      },
    ],
    [project],
  );
  const pictureColumns = useMemo<Column<PictureRow>[]>(
    () => [
      {
        key: 'name',
        title: 'Texture',
        width: 'minmax(160px, 2fr)',
        value: (r) => r.name,
        cell: (r) => (
          <>
            <Swatch project={project} picture={r.key} /> {r.name}
          </>
        ),
      },
      { key: 'space', title: 'Read as', width: '74px', value: (r) => (r.colour ? 'sRGB' : 'linear') },
      {
        key: 'side',
        title: 'Size',
        width: '104px',
        value: (r) => r.width * r.height,
        cell: (r) => `${r.width} × ${r.height}`,
      },
      { key: 'bits', title: 'Bits', width: '52px', value: (r) => r.bits },
      { key: 'flat', title: 'Flat', width: '52px', value: (r) => (r.flat ? 'yes' : '') },
      { key: 'copies', title: 'Copies', width: '70px', value: (r) => r.copies },
      { key: 'models', title: 'Models', width: '70px', value: (r) => r.models },
      {
        key: 'bytes',
        title: 'Memory, BC7',
        width: '104px',
        value: (r) => r.bytes.bc7 * r.copies,
        cell: (r) => bytes(r.bytes.bc7 * r.copies),
      },
    ],
    [project],
  );
  const common = {
    filter,
    sort: sorts[what],
    onSort: (s: Sort) => setSorts((all) => ({ ...all, [what]: s })),
  };
  const t = survey.totals;
  const takeOut = async () => {
    const paths = [...files];
    setFiles(new Set());
    await changeSources(project.id, [], paths).catch((e: Error) => tell({ tone: 'fault', text: e.message }));
  };
  return (
    <section className={css.box}>
      <header className={css.head}>
        <Segments
          label="Rows"
          value={what}
          options={[
            { value: 'files', label: `Models ${count(survey.files.length)}` },
            { value: 'slots', label: `Slots ${count(survey.slots.length)}` },
            { value: 'textures', label: `Textures ${count(survey.pictures.length)}` },
          ]}
          onChange={setWhat}
        />
        <input
          className={css.filter}
          type="search"
          placeholder="Only rows with …"
          aria-label="Only rows with"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
        {what === 'files' && files.size > 0 && (
          <Button onClick={() => void takeOut()}>Take {files.size === 1 ? 'it' : `${files.size}`} out</Button>
        )}
      </header>
      {what === 'files' && (
        <DataTable
          {...common}
          label="Models"
          columns={FILES}
          rows={survey.files}
          rowKey={(r) => r.path}
          selected={files}
          onSelect={(keys, how) => {
            setFiles((s) => next(s, keys, how));
            const m = survey.models.findIndex((x) => x.path === keys[0]);
            if (m >= 0) useSelection.setState({ model: m });
          }}
          footer={{
            path: 'In all',
            drawCalls: <span data-testid="total-drawcalls">{count(t.drawCalls)}</span>,
            slots: <span data-testid="total-slots">{count(t.slots)}</span>,
            textures: <span data-testid="total-textures">{count(t.textures)}</span>,
            bytes: bytes(t.textureBytes.bc7),
            triangles: <span data-testid="total-triangles">{count(t.triangles)}</span>,
            gpuVertices: <span data-testid="total-vertices">{count(t.gpuVertices)}</span>,
          }}
        />
      )}
      {what === 'slots' && (
        <DataTable
          {...common}
          label="Slots"
          columns={slotColumns}
          rows={slotRows}
          rowKey={(r) => String(r.at)}
          selected={new Set([...slots].map(String))}
          onSelect={(keys, how) => {
            selectSlots(keys.map(Number), how);
            useSelection.setState({ model: survey.slots[Number(keys[0])].model });
          }}
          onHover={(k) => setHover(k === null ? null : Number(k))}
        />
      )}
      {what === 'textures' && (
        <DataTable
          {...common}
          label="Textures"
          columns={pictureColumns}
          rows={survey.pictures}
          rowKey={(r) => `${r.key}${r.colour}`}
          selected={new Set()}
          onSelect={(keys) => {
            // A texture stands for the slots that read it.
            const key = keys[0].slice(0, 64);
            const users = survey.slots.flatMap((s, i) => (Object.values(s.images).includes(key) ? [i] : []));
            selectSlots(users);
            if (users.length > 0) useSelection.setState({ model: survey.slots[users[0]].model });
          }}
        />
      )}
    </section>
  );
}

function next(s: ReadonlySet<string>, keys: string[], how: 'only' | 'toggle' | 'add'): ReadonlySet<string> {
  if (how === 'only') return new Set(keys);
  const out = new Set(s);
  for (const k of keys) {
    if (how === 'toggle' && out.has(k)) out.delete(k);
    else out.add(k);
  }
  return out;
}

function sum(s: SurveyView['slots'][number], key: 'drawCalls' | 'triangles'): number {
  return s.parts.reduce((n, p) => n + p[key], 0);
}

/** How a slot or texture looks, small: its picture, or its plain colour. */
export function Swatch({
  project,
  picture,
  factor = [1, 1, 1],
}: {
  project: ProjectView;
  picture: string | undefined;
  factor?: [number, number, number];
}) {
  const shown = factor.map((v) => Math.round(255 * (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)));
  if (!picture || !project.surveyJob)
    return <span className={css.swatch} style={{ background: `rgb(${shown.join(' ')})` }} />;
  return (
    <img
      className={css.swatch}
      alt=""
      loading="lazy"
      src={`/api/jobs/${project.surveyJob}/files/thumbs/${picture}.png`}
    />
  );
}
