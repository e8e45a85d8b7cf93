import { csvCell } from '@wembrel/core/survey/csv';
import { type ReactNode, useMemo, useRef, useState } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { changeSources } from '../../project/api.ts';
import { notify } from '../../project/notices.ts';
import { selectSlots, setHover, useSelection } from '../../project/selection.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count, counted } from '../../ui/format.ts';
import { SearchField } from '../../ui/SearchField.tsx';
import { Segments } from '../../ui/Segments.tsx';
import type { Column } from '../../ui/table/column.ts';
import { DataTable } from '../../ui/table/DataTable.tsx';
import { choosePicture } from './choose-picture.ts';
import css from './SurveyTables.module.css';
import { accountOf, COSTS, type CostName, costColumns, costFooter } from './tables/costs.ts';
import { SOURCE_COLUMNS, SOURCE_GROUPS } from './tables/files.tsx';
import { MODEL_GROUPS, modelColumns } from './tables/models.tsx';
import { SLOT_GROUPS, type SlotRow, slotColumns } from './tables/slots.tsx';
import { sourceRows } from './tables/source-rows.ts';
import { PICTURE_GROUPS, pictureColumns } from './tables/textures.tsx';

type Sort = { key: string; down: boolean };
export type TableName = 'models' | 'slots' | 'textures' | 'costs' | 'files';

const FIRST_SORT: Record<TableName, Sort> = {
  models: { key: 'drawCalls', down: true },
  slots: { key: 'drawCalls', down: true },
  textures: { key: 'bytes', down: true },
  costs: { key: '', down: true },
  files: { key: 'path', down: false },
};

const GROUPS: Record<TableName, Record<string, (r: never) => string>> = {
  models: MODEL_GROUPS,
  slots: SLOT_GROUPS,
  textures: PICTURE_GROUPS,
  costs: {},
  files: SOURCE_GROUPS,
};

function download(name: string, text: string): void {
  const a = document.createElement('a');
  a.href = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  a.download = name;
  a.click();
  URL.revokeObjectURL(a.href);
}

/** What is behind the shelf as rows: models, slots, textures, the accounts of every cost, the files themselves. */
export function SurveyTables({
  project,
  survey,
  what,
  onWhat,
}: {
  project: ProjectView;
  survey: SurveyView;
  what: TableName;
  onWhat: (tableName: TableName) => void;
}) {
  const [filter, setFilter] = useState('');
  const [sorts, setSorts] = useState(FIRST_SORT);
  const [groups, setGroups] = useState<Partial<Record<TableName, string>>>({});
  const [cost, setCost] = useState<CostName>('drawCalls');
  const [files, setFiles] = useState<ReadonlySet<string>>(new Set());
  const slots = useSelection((selection) => selection.slots);
  const shown = useRef<{ columns: Column<never>[]; rows: never[] }>({ columns: [], rows: [] });
  const slotRows = useMemo<SlotRow[]>(
    () => survey.slots.map((slot, at) => ({ ...slot, at, path: survey.models[slot.model].path })),
    [survey],
  );
  const { format } = project.decisions.budget;
  const ofModels = useMemo(() => modelColumns(format), [format]);
  const ofSlots = useMemo(() => slotColumns(project), [project]);
  const ofPictures = useMemo(() => pictureColumns(project), [project]);
  const account = useMemo(() => accountOf(cost, project, survey), [cost, project, survey]);
  const ofCosts = useMemo(() => costColumns(account), [account]);
  const sources = useMemo(() => sourceRows(project, survey), [project, survey]);
  const group = groups[what] ? (GROUPS[what][groups[what]] ?? null) : null;
  const totals = survey.totals;
  const chosen = files.size > 0 && (what === 'models' || what === 'files') ? files : null;
  const takeOut = async () => {
    const paths = [...files];
    setFiles(new Set());
    await changeSources(project.id, [], paths).catch((error: Error) => notify({ tone: 'fault', text: error.message }));
  };
  const table = <Row extends object>(props: {
    label: string;
    columns: Column<Row>[];
    rows: Row[];
    rowKey: (row: Row) => string;
    selected: ReadonlySet<string>;
    onSelect: (keys: string[], how: 'only' | 'toggle' | 'add') => void;
    onHover?: (key: string | null) => void;
    footer?: Record<string, ReactNode>;
  }) => (
    <DataTable<Row>
      {...props}
      filter={filter}
      sort={sorts[what].key === '' ? { key: props.columns[props.columns.length - 1].key, down: true } : sorts[what]}
      onSort={(sort) => setSorts((all) => ({ ...all, [what]: sort }))}
      group={group as ((row: Row) => string) | null}
      onShown={(rows) => {
        shown.current = { columns: props.columns as Column<never>[], rows: rows as never[] };
      }}
    />
  );
  const exportCsv = () => {
    const { columns, rows } = shown.current;
    const lines = [
      columns.map((column) => column.title),
      ...rows.map((row) => columns.map((column) => column.value(row))),
    ];
    download(`${project.name} ${what}.csv`, `${lines.map((line) => line.map(csvCell).join(',')).join('\r\n')}\r\n`);
  };
  return (
    <section className={css.box}>
      <header className={css.head}>
        <Segments
          label="Rows"
          value={what}
          options={[
            { value: 'models', label: `Models ${count(survey.files.length)}` },
            { value: 'slots', label: `Slots ${count(survey.slots.length)}` },
            { value: 'textures', label: `Textures ${count(survey.pictures.length)}` },
            { value: 'costs', label: 'Costs' },
            { value: 'files', label: `Files ${count(project.sources.length)}` },
          ]}
          onChange={onWhat}
        />
        {what === 'costs' ? (
          <select
            className={css.pick}
            aria-label="Cost"
            value={cost}
            onChange={(event) => {
              setCost(event.target.value as CostName);
              setSorts((all) => ({ ...all, costs: FIRST_SORT.costs }));
            }}
          >
            {Object.entries(COSTS).map(([k, v]) => (
              <option key={k} value={k}>
                {v}
              </option>
            ))}
          </select>
        ) : (
          <select
            className={css.pick}
            aria-label="Group by"
            value={groups[what] ?? ''}
            onChange={(event) => setGroups((g) => ({ ...g, [what]: event.target.value }))}
          >
            <option value="">no groups</option>
            {Object.keys(GROUPS[what]).map((k) => (
              <option key={k} value={k}>
                by {k}
              </option>
            ))}
          </select>
        )}
        <SearchField label="Only rows with" value={filter} onChange={setFilter} />
        {chosen && <Button onClick={() => void takeOut()}>Remove {counted(chosen.size, 'file')}</Button>}
        <Button tone="quiet" title="The rows in sight as a CSV file" onClick={exportCsv}>
          CSV
        </Button>
      </header>
      {what === 'models' &&
        table({
          label: 'Models',
          columns: ofModels,
          rows: survey.files,
          rowKey: (report) => report.path,
          selected: files,
          onSelect: (keys, how) => {
            setFiles((s) => next(s, keys, how));
            const m = survey.models.findIndex((x) => x.path === keys[0]);
            if (m >= 0) useSelection.setState({ model: m });
          },
          footer: {
            path: 'Total',
            drawCalls: <span data-testid="total-drawcalls">{count(totals.drawCalls)}</span>,
            slots: <span data-testid="total-slots">{count(totals.slots)}</span>,
            textures: <span data-testid="total-textures">{count(totals.textures)}</span>,
            bytes: bytes(totals.textureBytes[format]),
            triangles: <span data-testid="total-triangles">{count(totals.triangles)}</span>,
            gpuVertices: <span data-testid="total-vertices">{count(totals.gpuVertices)}</span>,
          },
        })}
      {what === 'slots' &&
        table({
          label: 'Slots',
          columns: ofSlots,
          rows: slotRows,
          rowKey: (slotRow) => String(slotRow.at),
          selected: new Set([...slots].map(String)),
          onSelect: (keys, how) => {
            selectSlots(keys.map(Number), how);
            useSelection.setState({ model: survey.slots[Number(keys[0])].model });
          },
          onHover: (k) => setHover(k === null ? null : Number(k)),
        })}
      {what === 'textures' &&
        table({
          label: 'Textures',
          columns: ofPictures,
          rows: survey.pictures,
          rowKey: (facts) => `${facts.key}${facts.colour}`,
          // A texture stands for the slots that read it.
          selected: new Set(
            survey.pictures
              .filter((picture) =>
                [...slots].some((i) => Object.values(survey.slots[i]?.images ?? {}).includes(picture.key)),
              )
              .map((picture) => `${picture.key}${picture.colour}`),
          ),
          onSelect: (keys) => choosePicture(survey, keys[0].slice(0, 64)),
        })}
      {what === 'costs' && (
        <div className={css.account}>
          <p className={css.about}>{account.about}</p>
          {table({
            label: `Account of ${account.title}`,
            columns: ofCosts,
            rows: account.rows,
            rowKey: (costRow) => costRow.key,
            selected: new Set(account.rows.filter((row) => slots.has(row.slot)).map((row) => row.key)),
            onSelect: (keys, how) => {
              const row = account.rows.find((row) => row.key === keys[0]);
              if (row?.picture) choosePicture(survey, row.picture);
              else if (row) {
                const of = new Set(keys);
                selectSlots([...new Set(account.rows.filter((row) => of.has(row.key)).map((row) => row.slot))], how);
                useSelection.setState({ model: survey.slots[row.slot].model });
              }
            },
            footer: costFooter(account),
          })}
        </div>
      )}
      {what === 'files' &&
        table({
          label: 'Files',
          columns: SOURCE_COLUMNS,
          rows: sources,
          rowKey: (sourceRow) => sourceRow.path,
          selected: files,
          onSelect: (keys, how) => setFiles((s) => next(s, keys, how)),
        })}
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
