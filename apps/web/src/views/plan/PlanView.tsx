import {
  DndContext,
  DragOverlay,
  MeasuringStrategy,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { APART } from '@wembrel/core/decisions/rules';
import type { SheetDecision } from '@wembrel/core/decisions/sheets';
import { objectPattern, objectsOf, type SceneObject } from '@wembrel/core/plan/sheet-for-each';
import { useCallback, useMemo, useState } from 'react';
import type { PackedSheet } from '../../contract/plots.ts';
import type { SurveyView } from '../../contract/project.ts';
import { newest } from '../../project/api.ts';
import { routeLabel, withHeldBays, withNewSheet, withRoutes } from '../../project/change-plan.ts';
import { modelAddress, useExact } from '../../project/model-address.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import { notify } from '../../project/notices.ts';
import { showPlanPicture, usePlanPicture } from '../../project/plan-picture.ts';
import { setHover, useSelection } from '../../project/selection.ts';
import { useFindings } from '../../project/use-findings.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { missingIn } from '../../project/view-state.ts';
import { ModelView } from '../../stage/ModelView.tsx';
import type { PickedFace } from '../../stage/model-stage.ts';
import type { LitFaces } from '../../stage/placed.ts';
import { Button } from '../../ui/Button.tsx';
import type { MenuEntry } from '../../ui/ObjectMenu.tsx';
import { SearchField } from '../../ui/SearchField.tsx';
import { Segments } from '../../ui/Segments.tsx';
import frame from '../../ui/View.module.css';
import type { BayPaint } from '../../workers/bay-pictures.worker.ts';
import { Alternatives } from './Alternatives.tsx';
import { type Carried, FlowBands } from './FlowBands.tsx';
import { GROUPINGS, type Grouping, listRows, slotTitle } from './list-rows.ts';
import { Making } from './Making.tsx';
import { Objects } from './Objects.tsx';
import { PlannedDialog } from './PlannedDialog.tsx';
import css from './PlanView.module.css';
import { ProposePanel } from './ProposePanel.tsx';
import { Required } from './Required.tsx';
import { Rules } from './Rules.tsx';
import { SheetList } from './SheetList.tsx';
import { SlotCard } from './SlotCard.tsx';
import { SlotList } from './SlotList.tsx';
import { useBoardTexels } from './use-board-texels.ts';
import { usePackedForecast } from './use-packed.ts';

const CARRIED: { value: Carried; label: string }[] = [
  { value: 'drawCalls', label: 'draw calls' },
  { value: 'memory', label: 'memory' },
  { value: 'texels', label: 'texels' },
];

// Sheets grow and shrink when a packing arrives; what was measured before would send a slot elsewhere.
const MEASURED_ALWAYS = { droppable: { strategy: MeasuringStrategy.Always, frequency: 100 } };

/** The plan: its flow board, its alternatives, and proposals. */
export function PlanView(props: ViewProps) {
  const { project, forecast: estimate, edit } = props;
  const { survey, decisions } = project;
  const picture = usePlanPicture();
  const [planning, setPlanning] = useState<string | null | false>(false);
  const { forecast, packed, islands } = usePackedForecast(project, estimate);
  const paints = useBoardTexels(survey, project.surveyJob, islands);
  const [carried, setCarried] = useState<Carried>('texels');
  const dialog = planning !== false && (
    <PlannedDialog project={project} id={planning} edit={edit} onClose={() => setPlanning(false)} />
  );
  if (!forecast)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Plan</h1>
          <Button onClick={() => setPlanning(null)}>Plan a surface</Button>
        </header>
        <NothingYet {...props} view="plan" missing={missingIn(project, 'survey') ?? 'predicting'} />
        {dialog}
      </section>
    );
  const merged = forecast.flows.filter((flow) => flow.sheet >= 0).length;
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Plan</h1>
        <p className={css.sum}>
          {merged} of {forecast.planSlots.length} slots go onto{' '}
          {decisions.sheets.length === 1 ? 'one sheet' : `${decisions.sheets.length} sheets`}
        </p>
        {picture === 'board' && (
          <>
            <span className={css.carry}>Flows carry</span>
            <Segments label="Flows carry" value={carried} options={CARRIED} onChange={setCarried} />
          </>
        )}
        <Segments
          label="Picture of the plan"
          value={picture}
          options={[
            { value: 'board', label: 'board' },
            { value: 'alternatives', label: `alternatives ${decisions.alternatives.length + 1}` },
            { value: 'proposal', label: 'proposal' },
          ]}
          onChange={showPlanPicture}
        />
      </header>
      {picture === 'board' && (
        <Board
          {...props}
          forecast={forecast}
          packed={packed}
          paints={paints}
          carried={carried}
          onPlan={(id) => setPlanning(id)}
        />
      )}
      {picture === 'alternatives' && <Alternatives survey={survey} decisions={decisions} edit={edit} />}
      {picture === 'proposal' && (
        <ProposePanel survey={survey} decisions={decisions} edit={edit} onClose={() => showPlanPicture('board')} />
      )}
      {dialog}
    </section>
  );
}

/** Whether a node stands in an object or below it. */
function isBelow(survey: SurveyView | null, { path, name }: SceneObject, node: string): boolean {
  const chains = survey?.slots.filter((slot) => slot.path === path).flatMap((slot) => slot.objects ?? []) ?? [];
  return chains.some((names) => names.includes(node) && names.includes(name));
}

/** Parts of a model that only chosen objects draw. */
function partsOfObjects(
  survey: SurveyView,
  objects: readonly SceneObject[],
  picked: ReadonlySet<string>,
  model: number,
): LitFaces {
  const names = new Set(
    objects.flatMap((object) => (picked.has(objectPattern(object, objects)) ? [`${object.path}\n${object.name}`] : [])),
  );
  const out = new Map<number, 'all'>();
  for (const slot of survey.slots)
    if (slot.model === model)
      for (const part of slot.parts)
        if ((part.objects ?? []).some((chain) => chain.some((name) => names.has(`${slot.path}\n${name}`))))
          out.set(part.part, 'all');
  return out;
}

/** The flow board: slots on the left, sheets drawn to scale on the right, between them a flow for each slot. */
function Board({
  project,
  forecast,
  packed,
  paints,
  edit,
  go,
  carried,
  onPlan,
}: ViewProps & {
  forecast: NonNullable<ViewProps['forecast']>;
  /** The sheets as they were packed last, and what their bays show. */
  packed: readonly PackedSheet[] | null;
  paints: ReadonlyMap<number, BayPaint>;
  carried: Carried;
  onPlan: (id: string | null) => void;
}) {
  const [dragged, setDragged] = useState<number[]>([]);
  const [scroll, setScroll] = useState(0);
  const [grouping, setGrouping] = useState<Grouping>('model');
  const [filter, setFilter] = useState('');
  const chosen = useSelection((selection) => selection.slots);
  const hover = useSelection((selection) => selection.hover);
  const exact = useExact((state) => state.exact);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const { survey, decisions } = project;
  const findings = useFindings(project);
  const rows = useMemo(
    () => listRows(survey, decisions, forecast, findings, grouping, filter),
    [survey, decisions, forecast, findings, grouping, filter],
  );
  const objects = useMemo(() => objectsOf(survey?.slots.filter((slot) => slot.objects) ?? []), [survey]);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const selected = useMemo(() => [...chosen].filter((i) => i < forecast.planSlots.length), [chosen, forecast]);

  const final = newest(project, 'final');
  const hold = async (sheet: SheetDecision) => {
    try {
      const answer = await fetch(`/api/jobs/${final?.id}/files/delivery/manifest.json`);
      if (!answer.ok) throw new Error('the last final has no manifest; bake it again');
      const manifest: unknown = await answer.json();
      edit(`Hold the bays of ${sheet.name}`, (decisions) => withHeldBays(decisions, sheet.id, manifest));
    } catch (error) {
      notify({ tone: 'fault', text: error instanceof Error ? error.message : String(error) });
    }
  };
  const route = useCallback(
    (which: number[], to: string | null) => {
      const there = which.filter((i) => i < forecast.planSlots.length);
      if (there.length === 0) return;
      const names = [...new Set(there.map((i) => forecast.planSlots[i].name))];
      const titles = [...new Set(there.map((i) => slotTitle(forecast, decisions.planned, i)))];
      edit(routeLabel(decisions, titles, to), (decisions) => withRoutes(decisions, names, to));
    },
    [forecast, decisions, edit],
  );
  const key = useCallback(
    (k: string): boolean => {
      const which = [...useSelection.getState().slots];
      if (/^[1-9]$/.test(k)) {
        const sheet = decisions.sheets[Number(k) - 1];
        if (sheet) route(which, sheet.id);
      } else if (k === '0') route(which, APART);
      else if (k === 'Backspace') route(which, null);
      else return false;
      return true;
    },
    [decisions, route],
  );
  const menu = useCallback((): MenuEntry[] => {
    const which = [...useSelection.getState().slots];
    return [
      ...decisions.sheets.map((sheet, i) => ({
        label: `Route to ${sheet.name}`,
        keys: i < 9 ? String(i + 1) : undefined,
        run: () => route(which, sheet.id),
      })),
      { label: 'Keep apart', keys: '0', run: () => route(which, APART) },
      { label: 'Spread by area', keys: 'Backspace', run: () => route(which, null) },
      'line',
      { label: 'Show on Survey', run: () => go('survey') },
      { label: 'Show on UV layout', run: () => go('uv') },
    ];
  }, [decisions, route, go]);
  // The inset shows the model of the slot under the pointer, else of the first selected one.
  const first = hover ?? selected[0] ?? 0;
  const inset = survey?.slots[first]?.model ?? 0;
  const pick = (face: PickedFace | null, { add }: { add: boolean }) => {
    const path = survey?.models[inset]?.path;
    const object = face && objects.find((one) => one.path === path && isBelow(survey, one, face.node));
    if (!object) return setPicked(new Set());
    const pattern = objectPattern(object, objects);
    const next = new Set(add ? picked : []);
    if (!picked.has(pattern) || !add) next.add(pattern);
    else next.delete(pattern);
    setPicked(next);
  };
  const lit = useMemo<LitFaces | null>(() => {
    if (!survey) return null;
    if (picked.size > 0 && hover === null) return partsOfObjects(survey, objects, picked, inset);
    const which = hover === null ? selected : [hover];
    const out = new Map<number, 'all'>();
    for (const i of which)
      if (survey.slots[i]?.model === inset) for (const part of survey.slots[i].parts) out.set(part.part, 'all');
    return out;
  }, [survey, selected, hover, inset, objects, picked]);
  const shown = survey?.models[inset];
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      measuring={MEASURED_ALWAYS}
      onDragStart={(event) => {
        const i = Number(event.active.data.current?.slot);
        const many = useSelection.getState().slots;
        setDragged(many.has(i) ? [...many] : [i]);
        setHover(null);
      }}
      onDragCancel={() => setDragged([])}
      onDragEnd={(event) => {
        if (event.over) route(dragged, String(event.over.id));
        setDragged([]);
      }}
    >
      <div className={css.page}>
        <div className={css.board}>
          <div className={css.left}>
            <div className={css.tools}>
              <SearchField label="Only slots with" value={filter} onChange={setFilter} />
              <select
                aria-label="Slots by"
                value={grouping}
                onChange={(event) => setGrouping(event.target.value as Grouping)}
              >
                {Object.entries(GROUPINGS).map(([k, t]) => (
                  <option key={k} value={k}>
                    by {t}
                  </option>
                ))}
              </select>
            </div>
            <SlotList
              project={project}
              survey={survey}
              forecast={forecast}
              rows={rows}
              carried={carried}
              onScroll={setScroll}
              onKey={key}
              menu={menu}
            />
            <div className={css.planned}>
              <Button tone="quiet" onClick={() => onPlan(null)}>
                Plan a surface
              </Button>
              {decisions.planned.length > 0 && (
                <a href={`/p/${project.id}/planned`} target="_blank" rel="noreferrer">
                  Print the list
                </a>
              )}
            </div>
            <div className={css.inset}>
              {shown && (
                <ModelView
                  label={`3D picture of ${shown.path}; click an object to choose it`}
                  url={modelAddress(project, inset, exact)}
                  lit={lit}
                  onPick={pick}
                />
              )}
            </div>
          </div>
          <FlowBands survey={survey} forecast={forecast} rows={rows} carried={carried} scroll={scroll} />
          <SheetList
            packed={packed}
            paints={paints}
            decisions={decisions}
            forecast={forecast}
            edit={edit}
            onAdd={() => edit('Add a sheet', withNewSheet)}
            onHold={final ? (sheet) => void hold(sheet) : null}
            onRoute={(to) => route(selected, to)}
            selected={selected.length}
          >
            {selected.length > 0 && (
              <SlotCard
                survey={survey}
                decisions={decisions}
                forecast={forecast}
                selected={selected}
                edit={edit}
                onPlanned={onPlan}
              />
            )}
            {survey && (
              <Objects
                objects={objects}
                survey={survey}
                decisions={decisions}
                chosen={picked}
                choose={setPicked}
                edit={edit}
              />
            )}
            <Rules survey={survey} decisions={decisions} forecast={forecast} edit={edit} />
            <Required decisions={decisions} forecast={forecast} edit={edit} />
          </SheetList>
        </div>
        <Making decisions={decisions} forecast={forecast} findings={findings} edit={edit} />
      </div>
      <DragOverlay dropAnimation={null}>
        {dragged.length > 0 && (
          <span className={css.ghost}>
            {dragged.length === 1 ? slotTitle(forecast, decisions.planned, dragged[0]) : `${dragged.length} slots`}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}
