import { routeSlots, routeTo } from '@wembrel/core/decisions/routes';
import { plainSheet } from '@wembrel/core/decisions/sheets';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import type { Flow } from '@wembrel/core/predict/predict';
import { uncoloured } from '@wembrel/core/predict/vertex-colours';
import { useMemo } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { nextSheetId, withRoutes } from '../../project/change-plan.ts';
import { type Forecast, forecastOf } from '../../project/prediction.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count } from '../../ui/format.ts';
import css from './SlotCard.module.css';

/** One way that a slot can go. */
interface Way {
  key: string;
  title: string;
  about: string;
  apply: (d: MergeDecisions) => MergeDecisions;
  /** The plan is like that already. */
  here: (d: MergeDecisions, flow: Flow) => boolean;
}

const without = (list: readonly string[], name: string) => list.filter((n) => n !== name);

/** Decisions in which nothing is said of how a slot's repeats are treated. */
function undecided(decisions: MergeDecisions, name: string): MergeDecisions {
  const to = routeTo(decisions.routes, name);
  const kind = decisions.sheets.find((sheet) => sheet.id === to)?.kind;
  const routes = to === 'apart' || kind === 'trim' ? routeSlots(decisions.routes, [name], null) : decisions.routes;
  return {
    ...decisions,
    routes,
    bakeRepeats: without(decisions.bakeRepeats, name),
    cutRepeats: without(decisions.cutRepeats, name),
  };
}

const kindOf = (decisions: MergeDecisions, flow: Flow) => (flow.sheet < 0 ? null : decisions.sheets[flow.sheet].kind);

/** Ways for a slot that has a colour, or a picture of its colour and no other: on the sheet, or in its vertices. */
function colourWays({ name, flat }: PlanSlot): Way[] {
  const own = (decisions: MergeDecisions) => ({ ...decisions, vertexColours: without(decisions.vertexColours, name) });
  return [
    {
      key: 'sheet',
      title: flat ? 'A swatch' : 'On the sheet',
      about: flat ? 'its faces shrink onto one colour of the sheet' : 'its picture is baked like any other',
      apply: own,
      here: (decisions) => !decisions.vertexColours.includes(name),
    },
    {
      key: 'vertices',
      title: 'In its vertices',
      about: flat
        ? 'a colour for each vertex; all such slots share one white swatch'
        : 'read at each vertex and interpolated between: a gradient stays one where vertices stand along it, a picture is lost',
      apply: (decisions) => ({ ...own(decisions), vertexColours: [...without(decisions.vertexColours, name), name] }),
      here: (decisions) => decisions.vertexColours.includes(name),
    },
  ];
}

/** What a slot can be asked, and the ways that it can go; null where there is only one. */
export function waysOf(planSlot: PlanSlot): { title: string; ways: Way[] } | null {
  if (planSlot.obstacle) return null;
  if (planSlot.repeats > 1.001) return { title: 'Its texture repeats', ways: tilingWays(planSlot) };
  return uncoloured(planSlot.alphaMode, Object.keys(planSlot.images), planSlot.obstacle) === null
    ? { title: 'Its colour', ways: colourWays(planSlot) }
    : null;
}

/** Ways for a slot whose texture repeats. */
function tilingWays(planSlot: PlanSlot): Way[] {
  const { name } = planSlot;
  const ways: Way[] = [
    {
      key: 'apart',
      title: 'Keep it apart',
      about: 'stays sharp and tiling; a draw call and its textures of its own',
      apply: (decisions) => withRoutes(undecided(decisions, name), [name], 'apart'),
      here: (_, flow) => flow.sheet < 0,
    },
  ];
  if (planSlot.uncut === null && planSlot.cut)
    ways.push({
      key: 'cut',
      title: 'Cut at the repeats',
      about: 'its faces are cut where the texture begins anew and share one copy of it: more triangles, full sharpness',
      apply: (decisions) => cutToo(undecided(decisions, name), name),
      here: (decisions, flow) =>
        flow.sheet >= 0 && kindOf(decisions, flow) !== 'trim' && decisions.cutRepeats.includes(name),
    });
  if (!planSlot.unfit.trim)
    ways.push({
      key: 'strip',
      title: 'Put it on a strip',
      about: 'it repeats one way only: a strip of a trim sheet goes on repeating, at no triangle more',
      apply: (decisions) => onStrip(undecided(decisions, name), name),
      here: (decisions, flow) => kindOf(decisions, flow) === 'trim',
    });
  else if (planSlot.uncut === null && planSlot.stripCut)
    ways.push({
      key: 'strip',
      title: 'Cut for a strip',
      about:
        'its faces are cut where the texture begins anew upwards; along the strip it goes on repeating: fewer triangles than cut both ways',
      apply: (decisions) => onStrip(cutToo(undecided(decisions, name), name), name),
      here: (decisions, flow) => kindOf(decisions, flow) === 'trim',
    });
  ways.push({
    key: 'bake',
    title: 'Bake the repeats in',
    about: `${planSlot.repeats.toFixed(1)} repeats side by side: room for each, or softer`,
    apply: (decisions) => ({
      ...undecided(decisions, name),
      bakeRepeats: [...without(decisions.bakeRepeats, name), name],
    }),
    here: (decisions, flow) => kindOf(decisions, flow) === 'atlas' && !decisions.cutRepeats.includes(name),
  });
  return ways;
}

/** Decisions in which a slot of which nothing is said yet is cut. */
const cutToo = (decisions: MergeDecisions, name: string): MergeDecisions => ({
  ...decisions,
  cutRepeats: [...decisions.cutRepeats, name],
});

/** Decisions in which a slot goes to the first trim sheet, or to one that is added. */
function onStrip(decisions: MergeDecisions, name: string): MergeDecisions {
  const trim = decisions.sheets.find((x) => x.kind === 'trim');
  if (trim) return withRoutes(decisions, [name], trim.id);
  const made = { ...plainSheet(nextSheetId(decisions), freeName(decisions, 'trim'), 1024, 12), kind: 'trim' as const };
  return withRoutes({ ...decisions, sheets: [...decisions.sheets, made] }, [name], made.id);
}

function freeName(decisions: MergeDecisions, name: string): string {
  const taken = new Set(decisions.sheets.map((sheet) => sheet.name.toLowerCase()));
  if (!taken.has(name)) return name;
  for (let i = 2; ; i++) if (!taken.has(`${name}_${i}`)) return `${name}_${i}`;
}

/** The ways that a slot can go, each with what the whole plan would cost then. */
export function Ways({
  title,
  ways,
  survey,
  decisions,
  slot,
  now,
  edit,
}: {
  title: string;
  ways: Way[];
  survey: SurveyView | null;
  decisions: MergeDecisions;
  slot: number;
  now: Forecast;
  edit: ViewProps['edit'];
}) {
  const { format } = decisions.budget;
  const planSlot = now.planSlots[slot];
  const prices = useMemo(
    () => ways.map((way) => (way.here(decisions, now.flows[slot]) ? now : forecastOf(survey, way.apply(decisions)))),
    [ways, survey, decisions, now, slot],
  );
  return (
    <table className={css.ways}>
      <thead>
        <tr>
          <th scope="col">{title}</th>
          <th scope="col" title="draw calls">
            calls
          </th>
          <th scope="col">memory</th>
          <th scope="col">triangles</th>
          <th scope="col">density</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {ways.map((way, i) => {
          const forecast = prices[i];
          const flow = forecast.flows[slot];
          return (
            <tr key={way.key}>
              <th scope="row" title={way.about}>
                {way.title}
              </th>
              <td>{count(forecast.drawCalls)}</td>
              <td>{bytes(forecast.bytes[format])}</td>
              <td>{count(forecast.triangles)}</td>
              <td>{flow.density ? `${count(flow.density.median)} px/m` : '–'}</td>
              <td>
                {way.here(decisions, now.flows[slot]) ? (
                  <em>now</em>
                ) : (
                  <Button
                    aria-label={`Use this way: ${way.title}`}
                    onClick={() => edit(`${way.title}: ${planSlot.name}`, way.apply)}
                  >
                    Take
                  </Button>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
