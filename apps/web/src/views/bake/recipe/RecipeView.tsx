import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { LookSource } from '@wembrel/core/decisions/recipe/look';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import { type KeyboardEvent, type ReactNode, useCallback, useEffect, useMemo, useState } from 'react';
import type { LiveSide, LiveSubject } from '../../../contract/live-recipe.ts';
import type { JobKind } from '../../../contract/project.ts';
import { startDecided } from '../../../project/edits.ts';
import { modelAddress } from '../../../project/model-address.ts';
import { RunningJob } from '../../../project/RunningJob.tsx';
import { useModel, useSelection } from '../../../project/selection.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { Button } from '../../../ui/Button.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { percent } from '../../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import frame from '../../../ui/View.module.css';
import { Begin } from './Begin.tsx';
import { decalFrame } from './decal.ts';
import { Here } from './Here.tsx';
import { LineTools } from './LineTools.tsx';
import { askLive } from './live-client.ts';
import { strokesIn } from './places.ts';
import css from './Recipe.module.css';
import { RecipeHead } from './RecipeHead.tsx';
import { RecipeLines } from './RecipeLines.tsx';
import { RecipePicture } from './RecipePicture.tsx';
import { RecipeResult, recipeJobs } from './RecipeResult.tsx';
import { RecipeSheet } from './RecipeSheet.tsx';
import { RecipeAskContext, type RecipeNames, RecipeNamesContext } from './recipe-context.ts';
import { type Shown, shownRecipe, withMovedLine, withNewLine, withNewRecipe, withoutLines } from './recipe-edits.ts';
import { andAlso, NEW_LINES } from './recipe-options.ts';
import { useByHand } from './use-by-hand.ts';
import { useCoverage } from './use-coverage.ts';
import { useLaid } from './use-laid.ts';
import { useLiveModel } from './use-live-model.ts';
import { useReading } from './use-reading.ts';
import { useRecipe } from './use-recipe.ts';
import { useSlabs } from './use-slabs.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';

/** From this share of the surface on a hatch would only hide it. */
const ALL_OF_IT = 0.97;

const ALL: Shown = { kind: 'all' };
const PICTURES = /\.(png|jpe?g|webp|tga|tiff?|exr|dds|ktx2?)$/i;

/** A recipe: written, tried and tuned on the model. */
export function RecipeView({ project, live, edit, add, switcher }: ViewProps & { switcher: ReactNode }) {
  const model = useModel(project.survey);
  const models = project.survey?.models ?? [];
  const path = models[model]?.path ?? '';
  const handle = useRecipe({ project, edit }, path);
  const { recipe, use } = handle;
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [pointed, setPointed] = useState<string | null>(null);
  const [shown, setShown] = useState<Shown>(ALL);
  const [place, setPlace] = useState<[number, number] | null>(null);
  const [side, setSide] = useState<LiveSide>(512);
  const [other, setOther] = useState<string | null>(null);
  const [before, setBefore] = useState(false);
  const [only] = selected.size === 1 ? [...selected] : [null];
  const line = recipe?.lines.find((one) => one.name === only) ?? null;
  const on = useMemo<LiveSubject | null>(() => (path === '' ? null : { model: path }), [path]);
  const stamp = `${project.sourcesStamp} ${JSON.stringify([...highsOfModel(project.decisions.rays.pairings, path)])}`;
  const modelState = useLiveModel(project.id, path === '' || !use ? null : path, stamp);
  const drawn = useMemo(
    () => recipe && shownRecipe(recipe, before ? { kind: 'before' } : shown),
    [recipe, before, shown],
  );
  const ready = modelState.url !== null;
  const { laid, busy, problem, stop } = useLaid(project.id, on, drawn, { side, stamp, active: ready });
  const rival = handle.uses.find((one) => one.recipe.name === other && one !== use) ?? null;
  const rivalLaid = useLaid(project.id, on, rival?.recipe ?? null, { side, stamp, active: ready && !busy });
  const hand = useByHand({ line, change: handle.changeLine });
  const coverage = useCoverage(project.id, on, recipe, hand.mode ? null : pointed, laid ? side : 512);
  const { reading, waiting } = useReading(project.id, on, drawn, place, side);
  const reached = useMemo(() => new Map(reading?.lines.map((one) => [one.line, one.amount])), [reading]);
  const slabOf = useSlabs(project.id, on, recipe, stamp);
  const names = useNamesOf(project, model, laid?.view.ids[''] ?? [], slabOf, recipe?.conditions ?? {});
  const asking = useMemo(
    () => ({
      histogram: async (where: Condition, signal: AbortSignal) => {
        if (!on || !recipe) return null;
        const { head } = await askLive<'histogram'>(
          project.id,
          on,
          { ask: 'histogram', recipe, side: 512, where },
          signal,
        );
        return head.histogram;
      },
    }),
    [project.id, on, recipe],
  );
  const jobs = recipeJobs(project, use?.recipe.name ?? null);
  const start = (kind: JobKind) => use && void startDecided(project.id, kind, use.recipe.name);

  // B shows what is there before the recipe, as long as it is held.
  useEffect(() => {
    const key = (down: boolean) => (event: globalThis.KeyboardEvent) => {
      const { target } = event;
      const typed = target instanceof HTMLElement && target.closest('input, textarea, select');
      if (event.key.toLowerCase() === 'b' && !typed && !event.ctrlKey && !event.metaKey) setBefore(down);
    };
    const [down, up] = [key(true), key(false)];
    const leave = () => setBefore(false);
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    window.addEventListener('blur', leave);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
      window.removeEventListener('blur', leave);
    };
  }, []);

  const create = useCallback(
    (from: Parameters<typeof withNewRecipe>[2]) => {
      const { name } = withNewRecipe(project.decisions, path, from);
      edit(`New recipe ${name}`, (decisions) => withNewRecipe(decisions, path, from).decisions);
      handle.choose(name);
      setSelected(new Set());
      setShown(ALL);
    },
    [project.decisions, path, edit, handle.choose],
  );
  const addLine = (wanted: { name: string; what: unknown; where?: Condition | null }) => {
    if (!recipe) return;
    const at = line ? recipe.lines.indexOf(line) + 1 : recipe.lines.length;
    const { name } = withNewLine(recipe, wanted, at);
    handle.change(`Line ${name}`, (now) => withNewLine(now, { ...wanted, name }, at).recipe);
    setSelected(new Set([name]));
  };
  const addKind = (kind: string) => {
    const found = NEW_LINES.find((one) => one.value === kind);
    if (found) addLine({ name: found.name, what: found.what });
  };
  const like = (condition: Condition) => {
    if (line)
      handle.changeLine(
        line.name,
        (now) => ({ ...now, where: andAlso(now.where, condition) }),
        'Where it is like here',
      );
    else addLine({ name: 'like here', what: { change: 'darken', by: 0.3 }, where: condition });
  };
  const remove = (list: ReadonlySet<string>) => {
    handle.change(list.size === 1 ? `Remove ${[...list][0]}` : `Remove ${list.size} lines`, (now) =>
      withoutLines(now, list),
    );
    setSelected(new Set());
  };
  const onKey = (event: KeyboardEvent, name: string) => {
    const { target } = event;
    const typed = target instanceof HTMLElement && target.closest('input, select, [role="slider"]');
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault();
      const by = event.key === 'ArrowUp' ? -1 : 1;
      handle.change(`Move ${name}`, (now) => withMovedLine(now, name, by));
    } else if (typed || event.ctrlKey || event.metaKey || event.altKey) return;
    else if (event.key === 'Delete') remove(selected.has(name) ? selected : new Set([name]));
    else if (event.key.toLowerCase() === 'o')
      handle.changeLine(name, (now) => ({ ...now, off: !now.off }), 'On or off');
    else if (event.key.toLowerCase() === 'a')
      setShown((now) => (now.kind === 'alone' ? ALL : { kind: 'alone', line: name }));
    else if (event.key === 'Escape') {
      setSelected(new Set());
      setShown(ALL);
    } else return;
    event.preventDefault();
  };
  const drop = (file: File, face: { first: { point: number[]; normal: number[] } }) => {
    add([{ path: file.name, file }]);
    const { point, normal } = face.first;
    addLine({
      name: file.name.replace(/\.[^.]+$/, ''),
      what: {
        look: { from: 'files', names: file.name },
        lay: { by: 'side', at: point, direction: normal, width: 0.2, height: 0.2, depth: 0.05 },
      },
    });
  };
  const marks = useMemo(() => {
    if (!line) return [];
    const frames = 'look' in line.what && line.what.lay.by === 'side' ? [decalFrame(line.what.lay, '#ffd84a')] : [];
    const points = hand.mode === 'places' ? (strokesIn(line.where)?.points ?? []) : [];
    const rings = points.slice(-400).map((p) => ({ at: p.at, radius: p.radius / 1000, colour: '#ffd84a' }));
    return [...frames, ...rings];
  }, [line, hand.mode]);

  return (
    <RecipeNamesContext value={names}>
      <RecipeAskContext value={asking}>
        <section className={frame.view}>
          <header className={frame.head}>
            <h1>Bake</h1>
            {switcher}
            <Button onClick={() => start('recipe-proof')} disabled={!use || Boolean(jobs.running)}>
              Proof
            </Button>
            <Button tone="main" onClick={() => start('recipe-final')} disabled={!use || Boolean(jobs.running)}>
              Final
            </Button>
          </header>
          {path === '' ? (
            <EmptyState title="No model yet">Drop models into the window, or open the demo.</EmptyState>
          ) : (
            <div className={css.body}>
              <div className={css.text}>
                <div>
                  {models.length > 1 && (
                    <p className={css.which}>
                      Model{' '}
                      <ChoiceWord
                        label="Model"
                        value={String(model)}
                        options={models.map((one, i) => ({ value: String(i), label: one.path }))}
                        onChange={(v) => useSelection.setState({ model: Number(v) })}
                      />
                    </p>
                  )}
                  {use && (
                    <RecipeHead
                      project={project}
                      use={use}
                      uses={handle.uses}
                      onChoose={handle.choose}
                      onRename={(name) => {
                        handle.change('Name of the recipe', (now) => ({ ...now, name }));
                        handle.choose(name);
                      }}
                      onUse={handle.changeUse}
                      onNew={create}
                      onRemove={() => {
                        const gone = use.recipe.name;
                        edit(`Remove the recipe ${gone}`, (decisions) => ({
                          ...decisions,
                          recipes: decisions.recipes.filter((one) => one.recipe.name !== gone),
                        }));
                        handle.choose(null);
                      }}
                    />
                  )}
                </div>
                <div className={css.scroll}>
                  {use && recipe ? (
                    <RecipeLines
                      recipe={recipe}
                      view={laid?.view ?? null}
                      selected={selected}
                      shown={shown}
                      reached={reached}
                      onSelect={(name, more) =>
                        setSelected((now) =>
                          name === null ? new Set() : more ? new Set([...now, name]) : new Set([name]),
                        )
                      }
                      onPoint={setPointed}
                      onLine={(name, change, label, trial) => {
                        const renamed = recipe.lines.find((one) => one.name === name);
                        const to = renamed && change(renamed).name;
                        handle.changeLine(name, change, label, trial);
                        if (to && to !== name) setSelected(new Set([to]));
                      }}
                      onAdd={addKind}
                      onKey={onKey}
                      onMark={hand.markPlaces}
                    />
                  ) : (
                    <Begin
                      others={project.decisions.recipes}
                      onNew={create}
                      onUse={(name) => {
                        edit(`${name} for ${path}`, (decisions) => ({
                          ...decisions,
                          recipes: decisions.recipes.map((one) =>
                            one.recipe.name === name ? { ...one, models: [...one.models, path] } : one,
                          ),
                        }));
                        handle.choose(name);
                      }}
                    />
                  )}
                </div>
                <div>
                  {recipe && selected.size > 0 && (
                    <LineTools
                      recipe={recipe}
                      selected={selected}
                      shown={shown}
                      hand={hand}
                      onShown={setShown}
                      onChange={handle.change}
                      onRemove={() => remove(selected)}
                    />
                  )}
                  {use && (
                    <RecipeSheet
                      use={use}
                      layout={modelState.layout}
                      apart={modelState.apart}
                      onUse={handle.changeUse}
                    />
                  )}
                </div>
              </div>
              <div className={css.side}>
                {(modelState.problem ?? problem ?? jobs.failed?.message) && !jobs.running && (
                  <ErrorLine>{modelState.problem ?? problem ?? jobs.failed?.message}</ErrorLine>
                )}
                {jobs.running && (
                  <div className={css.settings}>
                    <RunningJob job={jobs.running} live={live} />
                  </div>
                )}
                <RecipePicture
                  name={path}
                  url={modelState.url ?? modelAddress(project, model, false)}
                  laidOut={ready}
                  maps={laid?.maps ?? null}
                  px={side}
                  other={rival ? (rivalLaid.laid?.maps ?? null) : null}
                  otherName={rival?.recipe.name ?? null}
                  mask={coverage && coverage.share < ALL_OF_IT ? coverage.mask : null}
                  marks={marks}
                  place={place}
                  onPlace={setPlace}
                  onBrush={hand.onBrush}
                  onDropPicture={drop}
                  onKey={hand.onKey}
                />
                {place && (
                  <Here
                    reading={reading}
                    waiting={waiting}
                    place={place}
                    maps={laid?.maps ?? null}
                    onLike={like}
                    onLine={(name) => setSelected(new Set([name]))}
                    onClose={() => setPlace(null)}
                  />
                )}
                <p className={css.state} role="status" data-state={busy || !laid ? 'busy' : 'laid'}>
                  <StateText
                    busy={busy || (use !== null && !ready && !modelState.problem)}
                    live={live.live ?? null}
                    coverage={coverage}
                    laid={laid ? { side: laid.view.width, ms: laid.view.milliseconds } : null}
                    hand={hand.hint}
                  />
                  {busy && (
                    <Button tone="quiet" onClick={stop}>
                      Stop
                    </Button>
                  )}
                  {handle.uses.length > 1 && (
                    <Choice
                      label="Beside it"
                      value={other ?? ''}
                      options={[
                        { value: '', label: 'nothing' },
                        ...handle.uses
                          .filter((one) => one !== use)
                          .map((one) => ({ value: one.recipe.name, label: one.recipe.name })),
                      ]}
                      onChange={(v) => setOther(v || null)}
                    />
                  )}
                  <Choice
                    label="Tuned at"
                    value={String(side)}
                    options={[256, 512, 1024].map((px) => ({ value: String(px), label: `${px} px` }))}
                    onChange={(px) => setSide(Number(px) as LiveSide)}
                  />
                </p>
                {jobs.last && recipe && !jobs.running && (
                  <RecipeResult job={jobs.last} recipe={use?.recipe ?? recipe} stamp={project.recipeStamp} />
                )}
              </div>
            </div>
          )}
        </section>
      </RecipeAskContext>
    </RecipeNamesContext>
  );
}

interface StateTextProps {
  busy: boolean;
  live: { share: number; doing: string } | null;
  coverage: { line: string; share: number } | null;
  laid: { side: number; ms: number } | null;
  hand: string | null;
}

function StateText({ busy, live, coverage, laid, hand }: StateTextProps) {
  if (hand) return <strong>{hand}</strong>;
  if (busy) return <span>{live?.doing ? `${live.doing} …` : 'laying its lines …'}</span>;
  if (coverage)
    return (
      <span>
        <strong>{coverage.line}</strong> covers {percent(coverage.share)} of the surface
      </span>
    );
  if (!laid) return <span />;
  return (
    <span>
      laid at {laid.side} px in {(laid.ms / 1000).toFixed(2)} s; click a place to see through it, hold B to see it
      without the recipe
    </span>
  );
}

function useNamesOf(
  project: ViewProps['project'],
  model: number,
  ids: readonly { name: string | null }[],
  slabOf: (look: LookSource) => string | null,
  shared: Readonly<Record<string, unknown>>,
): RecipeNames {
  const { survey, decisions, sources } = project;
  return useMemo(() => {
    const unique = (list: readonly string[]) => [...new Set(list)].sort();
    return {
      slots: unique(survey?.slots.flatMap((slot) => (slot.model === model ? [slot.name] : [])) ?? []),
      parts: unique(survey?.models[model]?.parts.map(({ name }) => name) ?? []),
      groups: decisions.faces.groups.map(({ name }) => name),
      ids: unique(ids.flatMap(({ name }) => name ?? [])),
      pictures: [
        ...sources.map(({ path }) => path).filter((path) => PICTURES.test(path)),
        ...decisions.planned.flatMap((one) => (one.picture && one.linked ? [`planned picture of ${one.linked}`] : [])),
      ],
      shared: Object.keys(shared),
      slabOf,
    };
  }, [survey, decisions.faces, decisions.planned, sources, model, ids, slabOf, shared]);
}
