import { DndContext, DragOverlay, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { APART } from '@wembrel/core/plan/decisions';
import { useCallback, useMemo, useState } from 'react';
import { ModelView } from '../../stage/ModelView.tsx';
import type { LitFaces } from '../../stage/model-stage.ts';
import { EmptyState } from '../../ui/Notice.tsx';
import { Segments } from '../../ui/Segments.tsx';
import frame from '../../ui/View.module.css';
import { modelAddress, useExact } from '../workbench/model-address.ts';
import { setHover, useSelection } from '../workbench/selection.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import { type Carried, FlowBands } from './FlowBands.tsx';
import { Making } from './Making.tsx';
import css from './PlanView.module.css';
import { routeLabel, withNewSheet, withRoutes } from './routes.ts';
import { SheetList } from './SheetList.tsx';
import { SlotList } from './SlotList.tsx';

const CARRIED: { value: Carried; label: string }[] = [
  { value: 'drawCalls', label: 'draw calls' },
  { value: 'memory', label: 'memory' },
  { value: 'texels', label: 'texels' },
];

/** The flow board: slots on the left, sheets drawn to scale on the right, between them a flow for each slot. */
export function PlanView({ project, forecast, edit }: ViewProps) {
  const [carried, setCarried] = useState<Carried>('texels');
  const [dragged, setDragged] = useState<number[]>([]);
  const [scroll, setScroll] = useState(0);
  const slots = useSelection((s) => s.slots);
  const hover = useSelection((s) => s.hover);
  const exact = useExact((s) => s.exact);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const { survey, decisions } = project;

  const route = useCallback(
    (which: number[], to: string | null) => {
      if (!survey || which.length === 0) return;
      const names = [...new Set(which.map((i) => survey.slots[i].name))];
      edit(routeLabel(decisions, names, to), (d) => withRoutes(d, names, to));
    },
    [survey, decisions, edit],
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
  // The inset shows the model of the slot under the pointer, else of the first selected one.
  const first = hover ?? [...slots][0] ?? 0;
  const inset = survey?.slots[first]?.model ?? 0;
  const lit = useMemo<LitFaces | null>(() => {
    if (!survey) return null;
    const which = hover === null ? [...slots] : [hover];
    const out = new Map<number, 'all'>();
    for (const i of which)
      if (survey.slots[i]?.model === inset) for (const p of survey.slots[i].parts) out.set(p.part, 'all');
    return out;
  }, [survey, slots, hover, inset]);
  if (!survey || !forecast)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Plan</h1>
        </header>
        <EmptyState title="No slots yet">Add models on Survey; their slots are routed here.</EmptyState>
      </section>
    );
  const merged = forecast.flows.filter((f) => f.sheet >= 0).length;
  const shown = survey.models[inset];
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Plan</h1>
        <p>
          {merged} of {survey.slots.length} slots go onto{' '}
          {decisions.sheets.length === 1 ? 'one sheet' : `${decisions.sheets.length} sheets`}
        </p>
        <span className={css.carry}>Flows carry</span>
        <Segments label="Flows carry" value={carried} options={CARRIED} onChange={setCarried} />
      </header>
      <DndContext
        sensors={sensors}
        onDragStart={(e) => {
          const i = Number(e.active.id);
          const many = useSelection.getState().slots;
          setDragged(many.has(i) ? [...many] : [i]);
          setHover(null);
        }}
        onDragCancel={() => setDragged([])}
        onDragEnd={(e) => {
          if (e.over) route(dragged, String(e.over.id));
          setDragged([]);
        }}
      >
        <div className={css.page}>
          <div className={css.board}>
            <div className={css.left}>
              <SlotList
                project={project}
                survey={survey}
                forecast={forecast}
                carried={carried}
                onScroll={setScroll}
                onKey={key}
              />
              <div className={css.inset}>
                <ModelView
                  label={shown ? `3D picture of ${shown.path}` : '3D picture'}
                  url={modelAddress(project, inset, exact)}
                  lit={lit}
                />
              </div>
            </div>
            <FlowBands survey={survey} forecast={forecast} carried={carried} scroll={scroll} />
            <SheetList
              survey={survey}
              decisions={decisions}
              forecast={forecast}
              edit={edit}
              onAdd={() => edit('Add a sheet', withNewSheet)}
              onRoute={(to) => route([...slots], to)}
              selected={slots.size}
            />
          </div>
          <Making decisions={decisions} edit={edit} />
        </div>
        <DragOverlay dropAnimation={null}>
          {dragged.length > 0 && (
            <span className={css.ghost}>
              {dragged.length === 1 ? survey.slots[dragged[0]].name : `${dragged.length} slots`}
            </span>
          )}
        </DragOverlay>
      </DndContext>
    </section>
  );
}
