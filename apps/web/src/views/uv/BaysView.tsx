import { marginForMip, protectedMip } from '@wembrel/core/plan/sheets';
import { withSearches } from '@wembrel/core/uv/look-on';
import { type ReactNode, useCallback, useMemo, useState } from 'react';
import { Group, Panel, Separator } from 'react-resizable-panels';
import type { PlotIndex } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import { ModelView } from '../../stage/ModelView.tsx';
import type { PickedFace } from '../../stage/model-stage.ts';
import type { LitFaces } from '../../stage/placed.ts';
import { SheetStage } from '../../stage/SheetStage.tsx';
import { Button } from '../../ui/Button.tsx';
import { Check, Choice, NumberField } from '../../ui/Field.tsx';
import { count, percent } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Segments } from '../../ui/Segments.tsx';
import frame from '../../ui/View.module.css';
import { withSheet } from '../plan/routes.ts';
import panels from '../survey/SurveyView.module.css';
import { twoEnded } from '../survey/tints.ts';
import { newest, useResult } from '../workbench/api.ts';
import { modelAddress, useExact } from '../workbench/model-address.ts';
import { SCALES } from '../workbench/scale-titles.ts';
import { useModel, useSelection } from '../workbench/selection.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import css from './BaysView.module.css';
import { HandPanel, middleDensity } from './HandPanel.tsx';
import {
  apart,
  caught,
  type HandPlace,
  type HandPlot,
  keptTogether,
  mirrored,
  moved,
  pinFor,
  withFlips,
  withoutPins,
  withPins,
} from './hand.ts';
import { useIslands } from './use-islands.ts';
import { usePacking } from './use-packing.ts';

const TURNS: Record<MergeDecisions['rotate'], string> = {
  free: 'Turn islands to any angle',
  quarter: 'Quarter turns',
  none: 'Never turn islands',
};

/** Maps of a baked sheet, in words. */
const MAP_TITLES: Record<string, string> = {
  baseColor: 'base colour',
  orm: 'occlusion, roughness, metallic',
  normal: 'normals',
  emissive: 'emissive',
};

const SIZES = [64, 128, 256, 512, 1024, 2048, 4096, 8192];

/** Model and sheet side by side with one selection; packing follows every option at once. */
export function BaysView({ project, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  const { survey, decisions } = project;
  const { islands, gathering, problem } = useIslands(project);
  const packing = usePacking(islands, decisions, (found) => {
    const names = [...found.keys()].map((s) => decisions.sheets[s].name);
    edit(`Tighter layout of ${names.length === 1 ? names[0] : `${names.length} sheets`}`, (d) => ({
      ...d,
      sheets: withSearches(d.sheets, found),
    }));
  });
  const [sticky, setSticky] = useState(true);
  const [at, setAt] = useState(0);
  const [lit, setLit] = useState<number | null>(null);
  const [margins, setMargins] = useState(true);
  const [below, setBelow] = useState('baseColor');
  const [tint, setTint] = useState<'slot' | 'density'>('slot');
  const model = useModel(survey);
  const bays = useSelection((s) => s.bays);
  const exact = useExact((s) => s.exact);
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last?.id);
  const fresh = last?.madeFrom === project.stamp ? result : undefined;

  const index = Math.min(at, decisions.sheets.length - 1);
  const sheet = packing.sheets?.[index];
  const decided = decisions.sheets[index];
  const maps = fresh?.sheets.find((s) => s.name === decided.name)?.maps ?? {};
  const baked = maps[below] ?? maps.baseColor;
  const image =
    last && baked && fresh?.sizes[baked] !== undefined ? `/api/jobs/${last.id}/files/delivery/${baked}` : null;
  const shown = survey?.models[model];
  const modelAt = shown && survey ? survey.models.indexOf(shown) : 0;
  const reduced = Boolean(shown?.reduced && !exact);

  /** Plot of each face of the model in sight, by part. */
  const plotOfFace = useMemo(() => {
    const out = new Map<number, Map<number, { sheet: number; id: number }>>();
    islands?.index.sheets.forEach((plots, s) => {
      for (const p of plots)
        for (const [m, part, first, count] of p.islands) {
          if (m !== modelAt) continue;
          let faces = out.get(part);
          if (!faces) {
            faces = new Map();
            out.set(part, faces);
          }
          for (let i = first; i < first + count; i++) faces.set(islands.faces[i], { sheet: s, id: p.id });
        }
    });
    return out;
  }, [islands, modelAt]);
  const litFaces = useMemo<LitFaces | null>(() => {
    if (!islands || bays.size === 0) return null;
    const lists = new Map<number, number[]>();
    islands.index.sheets.forEach((plots, s) => {
      for (const p of plots) {
        if (!bays.has(`${s}:${p.id}`)) continue;
        for (const [m, part, first, count] of p.islands) {
          if (m !== modelAt) continue;
          const list = lists.get(part) ?? [];
          for (let i = first; i < first + count; i++) list.push(islands.faces[i]);
          lists.set(part, list);
        }
      }
    });
    // The reduced copy has other triangles: there the whole part is lit.
    return new Map([...lists].map(([part, list]) => [part, reduced ? 'all' : Uint32Array.from(list)]));
  }, [islands, bays, modelAt, reduced]);
  const select = useCallback(
    (keys: string[], how: 'only' | 'toggle') =>
      useSelection.setState((s) => {
        if (how === 'only') return { bays: new Set(keys) };
        const out = new Set(s.bays);
        for (const k of keys) if (!out.delete(k)) out.add(k);
        return { bays: out };
      }),
    [],
  );
  const pick = useCallback(
    (face: PickedFace | null, { add }: { add: boolean }) => {
      const faces = face ? plotOfFace.get(face.part) : undefined;
      const plot = reduced ? faces?.values().next().value : face ? faces?.get(face.triangle) : undefined;
      if (plot) setAt(plot.sheet);
      select(plot ? [`${plot.sheet}:${plot.id}`] : [], add ? 'toggle' : 'only');
    },
    [plotOfFace, select, reduced],
  );
  /** Brings a model into sight that has faces on the bay. */
  const showModelOf = (id: number | undefined) => {
    const plot = islands?.index.sheets[index]?.find((p) => p.id === id);
    if (plot && !plot.islands.some(([m]) => m === modelAt)) useSelection.setState({ model: plot.islands[0][0] });
  };
  const selected = useMemo(
    () => new Set([...bays].flatMap((b) => (b.startsWith(`${index}:`) ? [Number(b.split(':')[1])] : []))),
    [bays, index],
  );
  /** Bays with faces of a part that the selected ones have faces of. */
  const samePart = useMemo(() => ofSameParts(islands?.index.sheets[index] ?? [], selected), [islands, index, selected]);
  if (!survey)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>UV layout</h1>
          {switcher}
        </header>
        <EmptyState title="No islands yet">Add models on Survey; their islands are packed here.</EmptyState>
      </section>
    );
  const mip = protectedMip(decided.margin);
  const chosen = sheet?.plots.filter((p) => selected.has(p.id)) ?? [];
  const put = (label: string, plots: readonly HandPlot[], places: readonly HandPlace[]) => {
    if (!sheet) return;
    const pins = plots.map((p, i) => pinFor(p, places[i], sheet));
    edit(label, (d) => withPins(d, decided.id, pins));
  };
  const flip = (plots: readonly HandPlot[], axis: 'x' | 'y') => {
    if (!sheet) return;
    const pins = mirrored(plots, axis).map((place, i) => pinFor(plots[i], place, sheet));
    const what = plots.length === 1 ? plots[0].slot : `${plots.length} bays`;
    edit(`Mirror ${what}`, (d) => withFlips(withPins(d, decided.id, pins), decided.id, plots));
  };
  const movable = chosen.filter((p) => p.movable);
  const median = sheet ? middleDensity(sheet) : 0;
  const densities = new Map(sheet?.plots.map((p) => [p.id, p.density]));
  const densityOf = (id: number) => {
    const d = densities.get(id);
    return d ? twoEnded(Math.log2(d / median) / 2) : twoEnded(0);
  };
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>UV layout</h1>
        <p role="status">
          {packing.looking > 0
            ? `Looking for a tighter layout on ${packing.looking === 1 ? 'one thread' : `${packing.looking} threads`} … ${sheet ? `${percent(sheet.coverage, 1)} covered, round ${sheet.search.rounds}` : ''}`
            : packing.share !== null
              ? `Packing … ${percent(packing.share)}`
              : gathering
                ? 'Gathering islands …'
                : sheet
                  ? packing.exhausted
                    ? `${sheet.plots.length} bays, all as large as they may be`
                    : `${sheet.plots.length} bays packed in ${packing.seconds.toFixed(1)} s`
                  : ''}
        </p>
        {decisions.sheets.length > 1 && (
          <Segments
            label="Sheet"
            value={String(index)}
            options={decisions.sheets.map((s, i) => ({ value: String(i), label: s.name }))}
            onChange={(v) => setAt(Number(v))}
          />
        )}
        {switcher}
      </header>
      <div className={css.page}>
        <Group orientation="horizontal">
          <Panel defaultSize="42%" minSize="220px">
            <div className={css.model}>
              <ModelView
                label={shown ? `3D picture of ${shown.path}` : '3D picture'}
                url={modelAddress(project, modelAt, exact)}
                lit={litFaces}
                onPick={pick}
              />
              {shown?.reduced && (
                <label className={css.exact}>
                  <input
                    type="checkbox"
                    checked={exact}
                    onChange={(e) => useExact.setState({ exact: e.target.checked })}
                  />{' '}
                  all {count(shown.triangles)} triangles
                </label>
              )}
              {survey.models.length > 1 && (
                <label className={css.which}>
                  Model{' '}
                  <select value={modelAt} onChange={(e) => useSelection.setState({ model: Number(e.target.value) })}>
                    {survey.models.map((m, i) => (
                      <option key={m.path} value={i}>
                        {m.path}
                      </option>
                    ))}
                  </select>
                </label>
              )}
            </div>
          </Panel>
          <Separator className={panels.across} />
          <Panel minSize="260px">
            <div className={css.sheet}>
              {(problem ?? packing.problem) && <ErrorLine>{problem ?? packing.problem}</ErrorLine>}
              {sheet ? (
                <SheetStage
                  sheet={sheet}
                  image={image}
                  showIslands
                  showMargin={margins}
                  lit={lit}
                  selected={selected}
                  onHover={setLit}
                  onMove={
                    movable.length > 0
                      ? (dx, dy) => {
                          const by = decisions.snap ? [Math.round(dx), Math.round(dy)] : [dx, dy];
                          const what = movable.length === 1 ? movable[0].slot : `${movable.length} bays`;
                          put(`Move ${what}`, movable, moved(movable, by[0], by[1]));
                        }
                      : undefined
                  }
                  catchAt={
                    sticky && sheet
                      ? (dx, dy, reach) => {
                          const others = sheet.plots.filter((p) => !selected.has(p.id));
                          return caught(movable, others, [dx, dy], reach, sheet);
                        }
                      : undefined
                  }
                  tint={tint === 'density' ? densityOf : undefined}
                  faulty={new Set(sheet.tooNear)}
                  onSelect={(ids, how) => {
                    select(
                      ids.map((id) => `${index}:${id}`),
                      how,
                    );
                    showModelOf(ids[0]);
                  }}
                />
              ) : (
                <EmptyState title={gathering ? 'Gathering islands …' : 'Nothing packed'}>
                  {gathering ? 'The server reads the models; packing then runs here.' : 'No slot goes to this sheet.'}
                </EmptyState>
              )}
            </div>
          </Panel>
        </Group>
        <aside className={css.side}>
          <dl className={css.facts}>
            <dt>Covered</dt>
            <dd>{sheet ? percent(sheet.coverage, 1) : '–'}</dd>
            <dt>Sharpness of the sources</dt>
            <dd>{sheet ? percent(sheet.scale, 1) : '–'}</dd>
            <dt>Layouts tried</dt>
            <dd>{sheet?.attempts ?? '–'}</dd>
          </dl>
          {sheet && (
            <HandPanel
              sheet={sheet}
              selected={chosen}
              put={put}
              flip={flip}
              letGo={(plots) =>
                edit(`Let ${plots.length === 1 ? plots[0].slot : `${plots.length} bays`} go`, (d) =>
                  withoutPins(d, decided.id, new Set(plots.map((p) => p.key))),
                )
              }
              rigid={decided.rigid}
              ofPart={samePart}
              together={(plots) =>
                edit(`Keep ${plots.length} bays together`, (d) => keptTogether(d, decided.id, plots, sheet))
              }
              apart={(plots) =>
                edit(`Take ${plots.length === 1 ? plots[0].slot : `${plots.length} bays`} apart`, (d) =>
                  apart(d, decided.id, new Set(plots.map((p) => p.key))),
                )
              }
              select={(ids) =>
                select(
                  ids.map((id) => `${index}:${id}`),
                  'only',
                )
              }
            />
          )}
          <Choice
            label="Side"
            value={String(decided.size)}
            options={SIZES.map((s) => ({ value: String(s), label: `${s} px` }))}
            onChange={(v) => edit(`${decided.name}: ${v} px`, (d) => withSheet(d, decided.id, { size: Number(v) }))}
          />
          <NumberField
            label="Margin"
            unit="px"
            value={decided.margin}
            min={0}
            max={256}
            onCommit={(margin) =>
              edit(`Margin of ${decided.name}: ${margin} px`, (d) => withSheet(d, decided.id, { margin }))
            }
            note={
              mip < 0
                ? `Too small even for mip 0; ${marginForMip(0)} px protects it.`
                : `Keeps islands apart down to mip ${mip}; ${marginForMip(mip + 1)} px would protect mip ${mip + 1}.`
            }
          />
          <Choice
            label="Turn islands"
            value={decisions.rotate}
            options={[
              { value: 'free', label: 'to any angle' },
              { value: 'quarter', label: 'by quarters' },
              { value: 'none', label: 'never' },
            ]}
            onChange={(rotate) => edit(TURNS[rotate], (d) => ({ ...d, rotate }))}
          />
          <Choice
            label="Island size"
            value={decisions.scale}
            options={Object.entries(SCALES).map(([value, { title }]) => ({
              value: value as MergeDecisions['scale'],
              label: title,
            }))}
            onChange={(scale) => edit(SCALES[scale].done, (d) => ({ ...d, scale }))}
          />
          <NumberField
            label="Rounds of search"
            unit="×"
            value={decided.search?.rounds ?? decisions.effort}
            min={0}
            max={100_000}
            onCommit={(effort) =>
              edit(`${effort} packing rounds`, (d) => ({
                ...d,
                effort,
                sheets: d.sheets.map((s) => ({ ...s, search: null })),
              }))
            }
            note={
              decided.search
                ? `Looked for with seed ${decided.search.seed}. A number given here packs every sheet anew.`
                : undefined
            }
          />
          <Button
            onClick={() => (packing.looking > 0 ? packing.stop() : packing.look(index))}
            disabled={!sheet || (packing.looking === 0 && packing.share !== null)}
          >
            {packing.looking > 0 ? 'Tight enough' : 'Look for a tighter one'}
          </Button>
          <Check
            label="on whole texels"
            checked={decisions.snap}
            onChange={(snap) =>
              edit(snap ? 'Islands on whole texels' : 'Islands between texels too', (d) => ({ ...d, snap }))
            }
          />
          <Check label="dragged bays stick to others (not with Alt)" checked={sticky} onChange={setSticky} />
          <Choice
            label="Colour bays by"
            value={tint}
            options={[
              { value: 'slot', label: 'slot' },
              { value: 'density', label: 'density' },
            ]}
            onChange={setTint}
          />
          {Object.keys(maps).length > 1 && (
            <Choice
              label="Map below"
              value={maps[below] ? below : 'baseColor'}
              options={Object.keys(maps).map((m) => ({ value: m, label: MAP_TITLES[m] ?? m }))}
              onChange={setBelow}
            />
          )}
          <label className={css.check}>
            <input type="checkbox" checked={margins} onChange={(e) => setMargins(e.target.checked)} /> show the margin
          </label>
        </aside>
      </div>
    </section>
  );
}

/** Ids of all plots that have faces of a part that some plots have faces of. */
function ofSameParts(plots: PlotIndex['sheets'][number], ids: ReadonlySet<number>): number[] {
  const keys = (p: PlotIndex['sheets'][number][number]) => p.islands.map(([model, part]) => `${model} ${part}`);
  const parts = new Set(plots.filter((p) => ids.has(p.id)).flatMap(keys));
  return plots.filter((p) => keys(p).some((k) => parts.has(k))).map((p) => p.id);
}
