import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import { type ReactNode, useMemo, useState } from 'react';
import type { LiveSide, LiveSubject } from '../../../contract/live-recipe.ts';
import type { JobKind } from '../../../contract/project.ts';
import { useAddress } from '../../../project/address.ts';
import { startDecided } from '../../../project/edits.ts';
import { modelAddress } from '../../../project/model-address.ts';
import { RunningJob } from '../../../project/RunningJob.tsx';
import { useModel, useSelection } from '../../../project/selection.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { Button } from '../../../ui/Button.tsx';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import frame from '../../../ui/View.module.css';
import { CellPicture } from './CellPicture.tsx';
import { decalFrame } from './decal.ts';
import { Here } from './Here.tsx';
import { strokesIn } from './places.ts';
import css from './Recipe.module.css';
import { RecipePicture } from './RecipePicture.tsx';
import { RecipeResult, recipeJobs } from './RecipeResult.tsx';
import { RecipeState } from './RecipeState.tsx';
import { RecipeText } from './RecipeText.tsx';
import { RecipeAskContext, RecipeNamesContext } from './recipe-context.ts';
import { shownRecipe } from './recipe-edits.ts';
import { useAsking } from './use-asking.ts';
import { useByHand } from './use-by-hand.ts';
import { useCoverage } from './use-coverage.ts';
import { useHeldKey } from './use-held-key.ts';
import { useLaid } from './use-laid.ts';
import { useLiveModel } from './use-live-model.ts';
import { useNamesOf } from './use-names-of.ts';
import { useReading } from './use-reading.ts';
import { useRecipe } from './use-recipe.ts';
import { useRecipeActions } from './use-recipe-actions.ts';
import { useSlabs } from './use-slabs.ts';

/** From this share of the surface on a hatch would only hide it. */
const ALL_OF_IT = 0.97;
/** A cell that nobody has given a size. */
const NEW_CELL: NonNullable<RecipeUse['cell']> = { metres: [2, 2], px: 512 };
const MARKS = '#ffd84a';
const NO_IDS: never[] = [];
const NO_USES: never[] = [];

/** A recipe: written, tried and tuned on the model, or on a cell. */
export function RecipeView({ project, live, edit, add, switcher }: ViewProps & { switcher: ReactNode }) {
  const model = useModel(project.survey);
  const [subject, setSubject] = useAddress('bake', 'on', ['model', 'cell'], 'model');
  const path = subject === 'cell' ? null : (project.survey?.models[model]?.path ?? '');
  const handle = useRecipe({ project, edit }, path);
  const { recipe, use } = handle;
  const actions = useRecipeActions(handle, { project, edit, add }, path ?? use?.cell ?? NEW_CELL);
  const { line } = actions;
  const [pointed, setPointed] = useState<string | null>(null);
  const [place, setPlace] = useState<[number, number] | null>(null);
  const [side, setSide] = useState<LiveSide>(512);
  const [other, setOther] = useState<string | null>(null);
  const before = useHeldKey('b');
  const [width, height] = use?.cell?.metres ?? NEW_CELL.metres;
  const on = useMemo<LiveSubject | null>(
    () => (path === null ? { cell: [width, height] } : path === '' ? null : { model: path }),
    [path, width, height],
  );
  const stamp = `${project.sourcesStamp} ${[...highsOfModel(project.decisions.rays.pairings, path ?? '')].join()}`;
  const source = useLiveModel(project.id, path && use ? path : null, stamp);
  const ready = path === null || source.url !== null;
  const { shown } = actions;
  const drawn = useMemo(
    () => recipe && shownRecipe(recipe, before ? { kind: 'before' } : shown),
    [recipe, before, shown],
  );
  const laying = { side, stamp, active: ready };
  const state = useLaid(project.id, on, drawn, laying);
  const { laid } = state;
  const others = handle.uses.filter((one) => one !== use);
  const rival = (path !== null && others.find((one) => one.recipe.name === other)) || null;
  const rivalState = useLaid(project.id, on, rival?.recipe ?? null, { ...laying, active: ready && !state.busy });
  const rivalMaps = rival ? (rivalState.laid?.maps ?? null) : null;
  const asked = { project: project.id, on, side, stamp };
  const hand = useByHand({ line, change: handle.changeLine }, asked, recipe);
  const coverage = useCoverage(asked, recipe, hand.mode ? null : pointed);
  const { reading, waiting } = useReading(asked, drawn, place);
  const reached = useMemo(() => new Map(reading?.lines.map((one) => [one.line, one.amount])), [reading]);
  const slabOf = useSlabs(project.id, on, recipe, stamp);
  const names = useNamesOf(project, path === null ? null : model, recipe, laid?.view.ids[''] ?? NO_IDS, slabOf);
  const asking = useAsking(project.id, on, recipe);
  const jobs = recipeJobs(project, use?.recipe.name ?? null);
  const start = (kind: JobKind) => use && void startDecided(project.id, kind, use.recipe.name);
  const problem = source.problem ?? state.problem ?? jobs.failed?.message;
  const mask = coverage && coverage.share < ALL_OF_IT ? coverage.mask : null;
  const marks = useMemo(() => {
    if (!line) return [];
    const frames = 'look' in line.what && line.what.lay.by === 'side' ? [decalFrame(line.what.lay, MARKS)] : [];
    const points = hand.mode === 'places' ? (strokesIn(line.where)?.points ?? []) : [];
    return [
      ...frames,
      ...points.slice(-400).map((point) => ({ at: point.at, radius: point.radius / 1000, colour: MARKS })),
    ];
  }, [line, hand.mode]);
  if (path === '')
    return (
      <section className={frame.view}>
        <Head switcher={switcher} />
        <EmptyState title="No model yet">Drop models into the window, or open the demo.</EmptyState>
      </section>
    );
  return (
    <RecipeNamesContext value={names}>
      <RecipeAskContext value={asking}>
        <section className={frame.view}>
          <Head switcher={switcher}>
            <Button onClick={() => start('recipe-proof')} disabled={!use || Boolean(jobs.running)}>
              Proof
            </Button>
            <Button tone="main" onClick={() => start('recipe-final')} disabled={!use || Boolean(jobs.running)}>
              Final
            </Button>
          </Head>
          <div className={css.body}>
            <RecipeText
              project={project}
              edit={edit}
              path={path}
              model={model}
              onSubject={(chosen) => {
                setPlace(null);
                actions.select(null);
                setSubject(chosen === null ? 'cell' : 'model');
                if (chosen !== null) useSelection.setState({ model: chosen });
              }}
              handle={handle}
              actions={actions}
              hand={hand}
              laid={laid}
              live={source}
              reached={reached}
              onPoint={setPointed}
            />
            <div className={css.side}>
              {problem && !jobs.running && <ErrorLine>{problem}</ErrorLine>}
              {jobs.running && (
                <div className={css.settings}>
                  <RunningJob job={jobs.running} live={live} />
                </div>
              )}
              {path === null ? (
                <CellPicture
                  project={project.id}
                  on={on}
                  name={use?.recipe.name ?? 'cell'}
                  metres={[width, height]}
                  maps={laid?.maps ?? null}
                  others={others}
                  laying={{ ...laying, active: !state.busy }}
                  mask={mask}
                  place={place}
                  onPlace={setPlace}
                  onDropPictures={(files) => actions.dropLook(files, width)}
                />
              ) : (
                <RecipePicture
                  name={path}
                  url={source.url ?? modelAddress(project, model, false)}
                  laidOut={ready}
                  maps={laid?.maps ?? null}
                  px={side}
                  other={rivalMaps}
                  otherName={rival?.recipe.name ?? null}
                  mask={mask}
                  marks={marks}
                  place={place}
                  onPlace={setPlace}
                  onBrush={hand.onBrush}
                  onDropPicture={actions.dropDecal}
                  onKey={hand.onKey}
                />
              )}
              {place && (
                <Here
                  reading={reading}
                  waiting={waiting}
                  place={place}
                  maps={laid?.maps ?? null}
                  onLike={actions.like}
                  onLine={(name) => actions.select(name)}
                  onClose={() => setPlace(null)}
                />
              )}
              <RecipeState
                state={state}
                ready={ready || !use}
                opening={source}
                doing={live.live?.doing ?? null}
                coverage={coverage}
                hint={hand.hint}
                side={side}
                onSide={setSide}
                others={path === null ? NO_USES : others}
                other={other}
                onOther={setOther}
              />
              {jobs.last && use && !jobs.running && (
                <RecipeResult job={jobs.last} recipe={use.recipe} stamp={project.recipeStamp} />
              )}
            </div>
          </div>
        </section>
      </RecipeAskContext>
    </RecipeNamesContext>
  );
}

function Head({ switcher, children }: { switcher: ReactNode; children?: ReactNode }) {
  return (
    <header className={frame.head}>
      <h1>Bake</h1>
      {switcher}
      {children}
    </header>
  );
}
