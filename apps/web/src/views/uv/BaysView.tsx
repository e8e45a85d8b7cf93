import { withSearches } from '@wembrel/core/layout/planned-searches';
import { type ReactNode, useCallback, useEffect, useMemo, useState } from 'react';
import { Panel, Separator } from 'react-resizable-panels';
import { newest, useResult } from '../../project/api.ts';
import { modelAddress, useExact } from '../../project/model-address.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import { publishPacked } from '../../project/packed.ts';
import { useIslands } from '../../project/packing/use-islands.ts';
import { usePacking } from '../../project/packing/use-packing.ts';
import { useModel, useSelection } from '../../project/selection.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { missingIn } from '../../project/view-state.ts';
import { ModelView } from '../../stage/ModelView.tsx';
import type { PickedFace } from '../../stage/model-stage.ts';
import type { LitFaces } from '../../stage/placed.ts';
import { SheetStage } from '../../stage/SheetStage.tsx';
import { Check } from '../../ui/Field.tsx';
import { count, counted, percent } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Panels } from '../../ui/Panels.tsx';
import ramps from '../../ui/ramps.module.css';
import { Segments } from '../../ui/Segments.tsx';
import separators from '../../ui/separators.module.css';
import frame from '../../ui/View.module.css';
import css from './BaysView.module.css';
import { bayLayers, baysOfFaces, facesOfBays, ofSameParts } from './bay-faces.ts';
import { BAY_TINTS, type BayTint, bayScale } from './bay-tints.ts';
import { HandPanel } from './HandPanel.tsx';
import {
  apart,
  caught,
  changedPlaces,
  type HandPlace,
  type HandPlot,
  keptTogether,
  mirrored,
  pinFor,
  withFlips,
  withoutPins,
  withPins,
} from './hand.ts';
import { SheetSettings } from './SheetSettings.tsx';
import { useBayPaints } from './use-bay-paints.ts';

/** Maps of a baked sheet, in words. */
const MAP_TITLES: Record<string, string> = {
  baseColor: 'baked base colour',
  orm: 'baked occlusion, roughness, metallic',
  normal: 'baked normals',
  emissive: 'baked emissive',
};

/** What dragging does, as a step of the history. */
const DRAGGED = { move: 'Move', scale: 'Scale', turn: 'Turn' } as const;

/** What islands show besides maps. */
const SOURCES = 'sources';
const NOTHING = 'nothing';

/** Model and sheet side by side with one selection; packing follows every option at once. */
export function BaysView(props: ViewProps & { switcher: ReactNode }) {
  const { project, edit, switcher } = props;
  const { survey, decisions } = project;
  const { islands, gathering, problem } = useIslands(project);
  const packing = usePacking(islands, decisions, (found) => {
    const names = [...found.keys()].map((key) => decisions.sheets[key].name);
    edit(`Tighter layout of ${names.length === 1 ? names[0] : `${names.length} sheets`}`, (decisions) => ({
      ...decisions,
      sheets: withSearches(decisions.sheets, found),
    }));
  });
  const { sheets: packed, searching: looking } = packing;
  const current = packing.share === null && looking === 0 && packing.key === packing.wantedKey;
  useEffect(() => {
    if (packed && current && islands) publishPacked(project, packed);
  }, [packed, current, islands, project]);
  const [sticky, setSticky] = useState(true);
  const [at, setAt] = useState(0);
  const [lit, setLit] = useState<number | null>(null);
  const [margins, setMargins] = useState(true);
  const [borders, setBorders] = useState(true);
  const [below, setBelow] = useState<string | null>(null);
  const [tint, setTint] = useState<BayTint>('slot');
  const model = useModel(survey);
  const bays = useSelection((selection) => selection.bays);
  const exact = useExact((state) => state.exact);
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last);
  const fresh = last?.madeFrom === project.stamp ? result : undefined;

  const index = Math.min(at, decisions.sheets.length - 1);
  const { paints, problem: unseen } = useBayPaints(project, islands, index);
  const sheet = packing.sheets?.[index] ?? packing.early[index] ?? undefined;
  const decided = decisions.sheets[index];
  const maps = fresh?.sheets.find((sheet) => sheet.name === decided.name)?.maps ?? {};
  const shows =
    below !== null && (maps[below] || below === SOURCES || below === NOTHING)
      ? below
      : maps.baseColor
        ? 'baseColor'
        : SOURCES;
  const baked = maps[shows];
  const image =
    last && baked && fresh?.sizes[baked] !== undefined ? `/api/jobs/${last.id}/files/delivery/${baked}` : null;
  const shown = survey?.models[model];
  const modelAt = shown && survey ? survey.models.indexOf(shown) : 0;
  const reduced = Boolean(shown?.reduced && !exact);

  const scale = useMemo(() => (sheet ? bayScale(tint, sheet) : null), [tint, sheet]);
  const bayOfFace = useMemo(() => baysOfFaces(islands, modelAt), [islands, modelAt]);
  const litFaces = useMemo<LitFaces | null>(
    () => (bays.size === 0 ? null : facesOfBays(islands, modelAt, (s, id) => bays.has(`${s}:${id}`), reduced)),
    [islands, bays, modelAt, reduced],
  );
  // The reduced copy has other triangles: it is shown as it is.
  const layers = useMemo(
    () => (scale && !reduced ? bayLayers(islands, modelAt, index, scale.colour) : undefined),
    [islands, modelAt, index, scale, reduced],
  );
  const select = useCallback(
    (keys: string[], how: 'only' | 'toggle') =>
      useSelection.setState((selection) => {
        if (how === 'only') return { bays: new Set(keys) };
        const out = new Set(selection.bays);
        for (const k of keys) if (!out.delete(k)) out.add(k);
        return { bays: out };
      }),
    [],
  );
  const pick = useCallback(
    (face: PickedFace | null, { add }: { add: boolean }) => {
      const faces = face ? bayOfFace.get(face.part) : undefined;
      const plot = reduced ? faces?.values().next().value : face ? faces?.get(face.triangle) : undefined;
      if (plot) setAt(plot.sheet);
      select(plot ? [`${plot.sheet}:${plot.id}`] : [], add ? 'toggle' : 'only');
    },
    [bayOfFace, select, reduced],
  );
  /** Brings a model into sight that has faces on the bay, or, without one, on a sheet. */
  const showModelOf = (id: number | undefined, sheetAt = index) => {
    const plots = (islands?.index.sheets[sheetAt] ?? []).filter((plotEntry) => id === undefined || plotEntry.id === id);
    if (plots.length > 0 && !plots.some((plot) => plot.islands.some(([m]) => m === modelAt)))
      useSelection.setState({ model: plots[0].islands[0][0] });
  };
  const selected = useMemo(
    () => new Set([...bays].flatMap((bay) => (bay.startsWith(`${index}:`) ? [Number(bay.split(':')[1])] : []))),
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
        <NothingYet {...props} view="uv" missing={missingIn(project, 'survey') ?? 'reading'} />
      </section>
    );
  const trouble = problem ?? packing.problem ?? unseen;
  const chosen = sheet?.plots.filter((plot) => selected.has(plot.id)) ?? [];
  const put = (label: string, plots: readonly HandPlot[], places: readonly HandPlace[]) => {
    if (!sheet) return;
    const pins = plots.map((plot, i) => pinFor(plot, places[i], sheet));
    edit(label, (decisions) => withPins(decisions, decided.id, pins));
  };
  const flip = (plots: readonly HandPlot[], axis: 'x' | 'y') => {
    if (!sheet) return;
    const pins = mirrored(plots, axis).map((place, i) => pinFor(plots[i], place, sheet, axis));
    const what = plots.length === 1 ? plots[0].slot : `${plots.length} bays`;
    edit(`Mirror ${what}`, (decisions) => withFlips(withPins(decisions, decided.id, pins), decided.id, plots));
  };
  const movable = chosen.filter((p) => p.movable);
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>UV layout</h1>
        <p role="status">
          {packing.searching > 0
            ? `Looking for a tighter layout on ${packing.searching === 1 ? 'one thread' : `${packing.searching} threads`} … ${sheet ? `${percent(sheet.coverage, 1)} covered, round ${sheet.search.rounds}` : ''}`
            : packing.share !== null
              ? `Packing … ${percent(packing.share)}`
              : gathering
                ? 'Gathering islands …'
                : sheet
                  ? packing.exhausted
                    ? `${counted(sheet.plots.length, 'bay')}, all as large as they may be`
                    : `${counted(sheet.plots.length, 'bay')} packed in ${packing.seconds.toFixed(1)} s`
                  : ''}
        </p>
        {decisions.sheets.length > 1 && (
          <Segments
            label="Sheet"
            value={String(index)}
            options={decisions.sheets.map((sheet, i) => ({ value: String(i), label: sheet.name }))}
            onChange={(v) => {
              setAt(Number(v));
              showModelOf(undefined, Number(v));
            }}
          />
        )}
        {switcher}
      </header>
      <div className={css.page}>
        <Panels id="bays" orientation="horizontal">
          <Panel id="bays-1" defaultSize="42%" minSize="220px">
            <div className={css.model}>
              <ModelView
                label={shown ? `3D picture of ${shown.path}` : '3D picture'}
                url={modelAddress(project, modelAt, exact)}
                lit={litFaces}
                layers={layers}
                onPick={pick}
              />
              {shown?.reduced && (
                <label className={css.exact}>
                  <input
                    type="checkbox"
                    checked={exact}
                    onChange={(event) => useExact.setState({ exact: event.target.checked })}
                  />{' '}
                  all {count(shown.triangles)} triangles
                </label>
              )}
              {survey.models.length > 1 && (
                <label className={css.which}>
                  Model{' '}
                  <select
                    value={modelAt}
                    onChange={(event) => useSelection.setState({ model: Number(event.target.value) })}
                  >
                    {survey.models.map((model, i) => (
                      <option key={model.path} value={i}>
                        {model.path}
                      </option>
                    ))}
                  </select>
                </label>
              )}
            </div>
          </Panel>
          <Separator className={separators.across} />
          <Panel id="bays-2" minSize="260px">
            <div className={css.sheet}>
              <div className={css.looks}>
                <label>
                  Show{' '}
                  <select value={shows} aria-label="Islands show" onChange={(event) => setBelow(event.target.value)}>
                    <option value={SOURCES}>their sources</option>
                    {Object.keys(maps).map((name) => (
                      <option key={name} value={name}>
                        {MAP_TITLES[name] ?? name}
                      </option>
                    ))}
                    <option value={NOTHING}>nothing</option>
                  </select>
                </label>
                <label>
                  Colour{' '}
                  <select
                    value={tint}
                    aria-label="Islands coloured by"
                    onChange={(event) => setTint(event.target.value as BayTint)}
                  >
                    {Object.entries(BAY_TINTS).map(([value, title]) => (
                      <option key={value} value={value}>
                        {title}
                      </option>
                    ))}
                  </select>
                </label>
                {scale ? (
                  <span className={css.legend}>
                    {scale.ends[0]} <i className={scale.twoEnded ? ramps.twoEnded : ramps.heat} aria-hidden />{' '}
                    {scale.ends[1]}
                  </span>
                ) : (
                  <>
                    <Check label="borders" checked={borders} onChange={setBorders} />
                    <Check label="margin" checked={margins} onChange={setMargins} />
                  </>
                )}
              </div>
              {trouble && <ErrorLine>{trouble}</ErrorLine>}
              {sheet ? (
                <SheetStage
                  sheet={sheet}
                  image={image}
                  paints={shows === SOURCES ? paints : null}
                  showIslands
                  showBorders={borders}
                  showMargin={margins}
                  lit={lit}
                  selected={selected}
                  onHover={setLit}
                  settled={packing.key === packing.wantedKey}
                  scalable={movable.length > 0 && movable.every((p) => p.natural)}
                  turnable={movable.length > 0 && movable.every((p) => p.natural && p.mayTurn)}
                  onChange={
                    movable.length > 0
                      ? (change) => {
                          const what = movable.length === 1 ? movable[0].slot : `${movable.length} bays`;
                          const whole = change.kind === 'move' && decisions.snap;
                          const by = whole
                            ? { ...change, dx: Math.round(change.dx), dy: Math.round(change.dy) }
                            : change;
                          put(`${DRAGGED[change.kind]} ${what}`, movable, changedPlaces(movable, by));
                        }
                      : undefined
                  }
                  catchAt={
                    sticky && sheet
                      ? (dx, dy, reach) => {
                          const others = sheet.plots.filter((plot) => !selected.has(plot.id));
                          return caught(movable, others, [dx, dy], reach, sheet);
                        }
                      : undefined
                  }
                  tint={scale?.colour}
                  faulty={new Set(sheet.tooNear)}
                  onSelect={(ids, how) => {
                    select(
                      ids.map((id) => `${index}:${id}`),
                      how,
                    );
                    if (ids.length > 0) showModelOf(ids[0]);
                  }}
                />
              ) : (
                <EmptyState
                  title={gathering ? 'Gathering islands …' : packing.share !== null ? 'Packing …' : 'Nothing packed'}
                >
                  {gathering
                    ? 'The server reads the models; packing then runs here.'
                    : packing.share !== null
                      ? 'Layouts show as they are found.'
                      : 'No slot goes to this sheet.'}
                </EmptyState>
              )}
            </div>
          </Panel>
        </Panels>
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
                edit(`Let ${plots.length === 1 ? plots[0].slot : `${plots.length} bays`} go`, (decisions) =>
                  withoutPins(decisions, decided.id, new Set(plots.map((plot) => plot.key))),
                )
              }
              rigid={decided.rigid}
              ofPart={samePart}
              together={(plots) =>
                edit(`Keep ${plots.length} bays together`, (decisions) =>
                  keptTogether(decisions, decided.id, plots, sheet),
                )
              }
              apart={(plots) =>
                edit(`Separate ${plots.length === 1 ? plots[0].slot : `${plots.length} bays`}`, (decisions) =>
                  apart(decisions, decided.id, new Set(plots.map((plot) => plot.key))),
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
          <Check label="Snap to neighbours (Alt: off)" checked={sticky} onChange={setSticky} />
          <SheetSettings
            decided={decided}
            index={index}
            sheet={sheet}
            decisions={decisions}
            packing={packing}
            edit={edit}
          />
        </aside>
      </div>
    </section>
  );
}
