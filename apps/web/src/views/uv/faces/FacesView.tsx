import type { FaceEdit, FaceEditKind, FaceGroup } from '@wembrel/core/decisions/face-decisions';
import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import { openSurfaces } from '@wembrel/core/predict/planned';
import { inverted, randomShare } from '@wembrel/core/select/faces';
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Group, Panel, Separator } from 'react-resizable-panels';
import type { MergeDecisions, SurveyView } from '../../../contract/project.ts';
import { failedLast, running } from '../../../project/api.ts';
import { notify } from '../../../project/notices.ts';
import { SCALES } from '../../../project/scale-titles.ts';
import { useModel, useSelection } from '../../../project/selection.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { checkerPicture } from '../../../stage/checker.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import type { ModelReader, PickedFace } from '../../../stage/model-stage.ts';
import type { FaceLayer } from '../../../stage/placed.ts';
import { count } from '../../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import separators from '../../../ui/separators.module.css';
import frame from '../../../ui/View.module.css';
import { withComing } from './coming.ts';
import { EditList } from './EditList.tsx';
import { freshEdit, freshHue, freshId, titleOf } from './edit-kinds.ts';
import css from './Faces.module.css';
import { FaceTools, type HowToTake } from './FaceTools.tsx';
import { CUTS, LOOKS, type Look, layersOf, repeatsOf } from './face-looks.ts';
import { amountOf, type FaceTable, faceTable, groupOfFaces, litBy, regrouped, tilesOfSlot } from './face-table.ts';
import { GroupList } from './GroupList.tsx';
import { gatherColours } from './gather.ts';
import { TileTable } from './TileTable.tsx';
import { UvPicture } from './UvPicture.tsx';
import { useFaceWorker } from './use-face-worker.ts';
import { usePreview } from './use-preview.ts';

/** Side of the texture that the checker stands for, px. */
const CHECKER = 1024;
/** Names that a list offers at most. */
const MOST_NAMES = 400;
/** Slots over more UV tiles than this are taken to tile. */
const MOST_TILES = 40;
const NONE = new Uint8Array(0);

/** Faces chosen in 3D, put into groups, and what is done to the groups; UVs beside the model, one selection. */
export function FacesView({ project, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  // While the models are read with a change, what was there stays in sight.
  const last = useRef<{ survey: SurveyView; job: string } | null>(null);
  if (project.survey && project.surveyJob) last.current = { survey: project.survey, job: project.surveyJob };
  const seen = last.current;
  const { faces } = project.decisions;
  const modelAt = useModel(seen?.survey);
  const model = seen?.survey.models[modelAt];
  const preview = usePreview(seen?.survey, seen?.job ?? '', modelAt, faces);
  const { url, changes } = preview;

  const [loaded, setLoaded] = useState<{ reader: ModelReader; table: FaceTable; of: string } | null>(null);
  const [set, setSet] = useState<Uint8Array>(NONE);
  const [hidden, setHidden] = useState<Uint8Array | null>(null);
  const [take, setTake] = useState<HowToTake>({ how: 'face', degrees: 5, range: 4 });
  const [look, setLook] = useState<Look>('groups');
  const [wire, setWire] = useState(false);
  const [open, setOpen] = useState<string | null>(null);
  const [slotInSight, setSlotInSight] = useState(0);
  const [took, setTook] = useState<number | null>(null);
  const table = loaded && loaded.of === url ? loaded.table : null;
  const ask = useFaceWorker(table, loaded?.reader ?? null);

  const path = model?.path ?? '';
  // biome-ignore lint/correctness/useExhaustiveDependencies: another model begins again, the same one read again does not
  useEffect(() => {
    setSet(NONE);
    setHidden(null);
    setSlotInSight(0);
  }, [path]);
  const selected = table && set.length === table.faces ? set : null;
  const onLoaded = useCallback(
    (reader: ModelReader) => {
      if (!model || !url) return;
      const made = faceTable(reader.geometry(), model.parts, changes?.origins ?? null);
      setLoaded({ reader, table: made, of: url });
      setSet((s) => (s.length === made.faces ? s : new Uint8Array(made.faces)));
      setHidden((h) => (h && h.length !== made.faces ? null : h));
    },
    [model, url, changes],
  );
  const groupOf = useMemo(
    () => (table && model ? groupOfFaces(table, model.path, model.parts, faces.groups) : null),
    [table, model, faces.groups],
  );
  const counts = useMemo(() => {
    const out = new Array<number>(faces.groups.length + 1).fill(0);
    for (const g of groupOf ?? []) out[g < 0 ? faces.groups.length : g]++;
    return out;
  }, [groupOf, faces.groups.length]);
  const reader = loaded?.reader ?? null;
  const painted = useMemo(() => {
    if (!table || !groupOf) return { layers: [], ends: null };
    return layersOf(look, table, faces.groups, groupOf, hidden, (slot) => {
      const p = reader?.picture(slot);
      return p ? [p.width, p.height] : [1, 1];
    });
  }, [look, table, faces.groups, groupOf, hidden, reader]);
  const axes = CUTS[look];
  const repeats = useMemo(() => (axes && table ? repeatsOf(table, hidden, axes) : null), [axes, table, hidden]);
  const tiles = useMemo(() => {
    const p = reader?.picture(slotInSight);
    const all = table ? tilesOfSlot(table, slotInSight, p ? [p.width, p.height] : [1, 1]) : [];
    // A tiling texture is no row of tiles.
    return all.length <= MOST_TILES ? all : [];
  }, [table, slotInSight, reader]);
  const layers = useMemo<FaceLayer[]>(() => {
    if (!table || !selected) return [];
    return [
      ...painted.layers,
      {
        faces: litBy(table, (f) => selected[f] === 1 && !hidden?.[f]),
        colour: '#0f7c8a',
        opacity: look === 'own' ? 0.62 : 0.8,
      },
    ];
  }, [table, selected, painted, look, hidden]);
  const hiddenFaces = useMemo(() => (table && hidden ? litBy(table, (f) => hidden[f] === 1) : null), [table, hidden]);

  const combine = useCallback((next: Uint8Array, how: { add: boolean; remove: boolean }) => {
    setSet((old) => {
      if (old.length !== next.length || (!how.add && !how.remove)) return next;
      return next.map((v, i) => (how.remove ? old[i] & ~v & 1 : old[i] | v));
    });
  }, []);
  const pickFace = useCallback(
    async (face: number | null, side: number, how: { add: boolean; remove: boolean }, whole?: HowToTake['how']) => {
      if (!table) return;
      if (face === null) {
        if (!how.add && !how.remove) setSet(new Uint8Array(table.faces));
        return;
      }
      setSlotInSight(table.slots[face]);
      const facesAnswer = await ask({
        type: 'take',
        how: whole ?? take.how,
        face,
        side,
        degrees: take.degrees,
        range: take.range,
      });
      setTook(facesAnswer.took);
      combine(facesAnswer.set, how);
    },
    [table, ask, take, combine],
  );
  const pick = useCallback(
    (pickedFace: PickedFace | null, how: { add: boolean; remove: boolean }) => {
      const face = pickedFace
        ? (table?.shown.find((s) => s.part === pickedFace.part)?.faces[pickedFace.triangle] ?? null)
        : null;
      void pickFace(face, pickedFace?.side ?? 0, how);
    },
    [table, pickFace],
  );

  if (!seen || !model)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>UV layout</h1>
          {switcher}
        </header>
        <EmptyState title="No faces yet">Add models on Survey; their faces are chosen and changed here.</EmptyState>
      </section>
    );
  const slotsThere = new Set(seen.survey.slots.map((slot) => slot.name));
  const change = (label: string, next: Partial<typeof faces>) =>
    edit(label, (decisions) => withComing({ ...decisions, faces: { ...decisions.faces, ...next } }, slotsThere));
  const withGroup = (next: FaceGroup) => faces.groups.map((group) => (group.id === next.id ? next : group));
  const busy = running(project, 'survey') !== undefined;
  const failed = failedLast(project, 'survey');
  const reports = reportsOf(seen.survey, modelAt, changes?.reports ?? []);
  const sources = seen.survey.models.flatMap((model) => model.parts);
  const wholes = {
    slots: [...new Set(sources.map((source) => source.slot))].slice(0, MOST_NAMES),
    parts: [...new Set(sources.map((source) => source.name))].slice(0, MOST_NAMES),
  };
  const slots = slotNames(seen.survey, project.decisions);
  const slotName = loaded?.reader.slotName(slotInSight) ?? 'no slot';
  const amount = table && selected ? amountOf(table, selected) : { faces: 0, area: 0 };
  const make = () => {
    if (!table || !selected) return;
    const id = freshId('g', faces.groups);
    const names = new Set(faces.groups.map((group) => group.name));
    const name = [slotName, ...Array.from({ length: 200 }, (_, i) => `${slotName} ${i + 2}`)].find(
      (name) => !names.has(name),
    );
    const fresh: FaceGroup = {
      id,
      name: (name ?? id).slice(0, 60),
      hue: freshHue(faces.groups),
      note: '',
      faces: {},
      parts: [],
      slots: [],
    };
    change(`Group ${fresh.name} of ${amount.faces} faces`, {
      groups: regrouped([...faces.groups, fresh], id, model.path, table, selected, 'in'),
    });
    setOpen(id);
  };
  /** A group of the whole slot in sight, and a slot for each of its UV tiles. */
  const splitTiles = () => {
    const known = faces.groups.find((group) => group.slots.includes(slotName));
    const name = `${slotName.slice(0, 50)}, tiles`;
    const id = known?.id ?? freshId('g', faces.groups);
    const fresh: FaceGroup = {
      id,
      name,
      hue: freshHue(faces.groups),
      note: '',
      faces: {},
      parts: [],
      slots: [slotName],
    };
    const groups = known ? faces.groups : [...faces.groups, fresh];
    const added = freshEdit('tiles', freshId('e', faces.edits), [id], slotName);
    change(titleOf(added, groups), { groups, edits: [...faces.edits, added] });
  };
  const onSelection = (q: 'grow' | 'shrink') => {
    if (selected) void ask({ type: q, set: selected }).then((facesAnswer) => setSet(facesAnswer.set));
  };
  const opened = faces.groups.find((group) => group.id === open) ?? null;
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>UV layout</h1>
        <p role="status">
          {preview.busy
            ? 'Applying the changes …'
            : `${count(table?.faces ?? 0)} faces${took === null ? '' : `, taken in ${took.toFixed(0)} ms`}${busy ? '; the plan is being told' : ''}`}
        </p>
        {switcher}
      </header>
      <div className={css.page}>
        <Group orientation="horizontal">
          <Panel defaultSize="60%" minSize="260px">
            <div className={css.model}>
              <FaceTools
                take={take}
                setTake={setTake}
                some={amount.faces > 0}
                hiding={hidden !== null}
                grow={() => onSelection('grow')}
                shrink={() => onSelection('shrink')}
                invert={() => selected && setSet(inverted(selected))}
                all={() => table && setSet(new Uint8Array(table.faces).fill(1))}
                none={() => table && setSet(new Uint8Array(table.faces))}
                share={(s) => selected && setSet(randomShare(selected, s, 1))}
                hide={() => {
                  if (!selected) return;
                  setHidden((h) => selected.map((v, f) => v | (h?.[f] ?? 0)));
                  setSet(new Uint8Array(selected.length));
                }}
                hideOthers={() => selected && setHidden(inverted(selected))}
                showAll={() => setHidden(null)}
              />
              <div className={css.picture}>
                {(preview.problem ?? (failed && !busy)) && (
                  <ErrorLine>{preview.problem ?? failed?.message ?? 'The models could not be read.'}</ErrorLine>
                )}
                <ModelView
                  label={`3D picture of ${model.path}; a click takes faces`}
                  url={url}
                  wire={wire}
                  layers={layers}
                  lines={repeats?.lines ?? null}
                  map={look === 'checker' ? checkerPicture(CHECKER) : null}
                  hiddenFaces={hiddenFaces}
                  onPick={pick}
                  onLoaded={onLoaded}
                />
                <div className={css.looks}>
                  <label>
                    Coloured by{' '}
                    <select value={look} onChange={(event) => setLook(event.target.value as Look)}>
                      {Object.entries(LOOKS).map(([k, title]) => (
                        <option key={k} value={k}>
                          {title}
                        </option>
                      ))}
                    </select>
                  </label>
                  <label>
                    <input type="checkbox" checked={wire} onChange={(event) => setWire(event.target.checked)} /> wires
                  </label>
                  {repeats && (
                    <span>
                      {repeats.count === 0
                        ? 'no texture begins anew inside a face'
                        : `${count(repeats.count)} lines; ${cutPrice(seen.survey, modelAt, axes === 'v')}`}
                    </span>
                  )}
                  {painted.ends && (
                    <span>
                      {painted.ends[0]} – {painted.ends[1]}
                    </span>
                  )}
                </div>
                {seen.survey.models.length > 1 && (
                  <label className={css.which}>
                    Model{' '}
                    <select
                      value={modelAt}
                      onChange={(event) => useSelection.setState({ model: Number(event.target.value) })}
                    >
                      {seen.survey.models.map((model, i) => (
                        <option key={model.path} value={i}>
                          {model.path}
                        </option>
                      ))}
                    </select>
                  </label>
                )}
                <p className={css.amount} role="status">
                  {amount.faces === 0
                    ? 'nothing selected'
                    : `${count(amount.faces)} faces, ${Number(amount.area.toPrecision(3))} m² selected`}
                </p>
              </div>
            </div>
          </Panel>
          <Separator className={separators.across} />
          <Panel minSize="200px">
            {table && selected && (
              <div className={css.uvs}>
                <UvPicture
                  table={table}
                  slot={slotInSight}
                  picture={reader?.picture(slotInSight) ?? null}
                  selected={selected}
                  hidden={hidden}
                  caption={`${slotName}${reader?.picture(slotInSight) ? '' : ', no picture'}`}
                  onPick={(face, how) => void pickFace(face, 0, how, take.how === 'face' ? 'face' : 'island')}
                />
                {tiles.length > 1 && (
                  <TileTable
                    tiles={tiles}
                    even={project.decisions.scale === 'even'}
                    split={splitTiles}
                    evenOut={() => edit(SCALES.even.done, (decisions) => ({ ...decisions, scale: 'even' }))}
                  />
                )}
              </div>
            )}
          </Panel>
        </Group>
        <aside className={css.side}>
          <GroupList
            groups={faces.groups}
            counts={counts}
            inNone={counts[faces.groups.length]}
            chosen={open}
            selected={amount.faces}
            wholes={wholes}
            choose={setOpen}
            select={(id, add) => {
              if (!groupOf) return;
              const at = id === null ? -1 : faces.groups.findIndex((group) => group.id === id);
              combine(
                Uint8Array.from(groupOf, (g) => Number(g === at)),
                { add, remove: false },
              );
            }}
            make={make}
            put={(id, how) => {
              if (!table || !selected) return;
              const name = faces.groups.find((group) => group.id === id)?.name;
              change(how === 'in' ? `${amount.faces} faces into ${name}` : `Faces out of ${name}`, {
                groups: regrouped(faces.groups, id, model.path, table, selected, how),
              });
            }}
            change={(label, next) => change(label, { groups: withGroup(next) })}
            remove={(id) => {
              const name = faces.groups.find((group) => group.id === id)?.name;
              // Changes of this group alone go with it.
              const edits = faces.edits
                .map((edit) => ({ ...edit, groups: edit.groups.filter((group) => group !== id) }))
                .filter((e) => e.groups.length > 0);
              change(`Remove group ${name}`, { groups: faces.groups.filter((group) => group.id !== id), edits });
              setOpen(null);
            }}
          />
          <EditList
            edits={faces.edits}
            groups={faces.groups}
            slots={slots}
            reports={reports}
            forGroup={opened}
            busy={preview.busy || busy}
            gather={async (e, most, by) => {
              try {
                const name = faces.groups.find((group) => group.id === e.groups[0])?.name ?? 'Colour';
                const found = await gatherColours(seen.survey, seen.job, { faces, groups: e.groups, most, by, name });
                const next = { ...e, swatches: found.swatches };
                change(`${found.swatches.length} colours of ${name}`, {
                  edits: faces.edits.map((x) => (x.id === e.id ? next : x)),
                });
                notify({
                  tone: 'plain',
                  text: `${found.swatches.length} colours, off by ΔE ${found.maxError.toFixed(1)} at most, ${found.meanError.toFixed(2)} in the mean`,
                });
              } catch (error) {
                notify({ tone: 'fault', text: (error as Error).message });
              }
            }}
            add={(kind: FaceEditKind) => {
              if (!opened) return;
              const fresh = freshEdit(kind, freshId('e', faces.edits), [opened.id], opened.name);
              change(titleOf(fresh, faces.groups), { edits: [...faces.edits, fresh] });
            }}
            change={(label, next: FaceEdit) =>
              change(label, { edits: faces.edits.map((edit) => (edit.id === next.id ? next : edit)) })
            }
            move={(id, by) => {
              const edits = [...faces.edits];
              const at = edits.findIndex((edit) => edit.id === id);
              const [moved] = edits.splice(at, 1);
              edits.splice(at + by, 0, moved);
              change(`${by < 0 ? 'Earlier' : 'Later'}: ${titleOf(moved, faces.groups)}`, { edits });
            }}
            remove={(id) => {
              const gone = faces.edits.find((edit) => edit.id === id);
              if (gone)
                change(`Remove: ${titleOf(gone, faces.groups)}`, {
                  edits: faces.edits.filter((edit) => edit.id !== id),
                });
            }}
          />
        </aside>
      </div>
    </section>
  );
}

/** What each edit did, over all models; the one in sight comes first, as it is now. */
/** What cutting all slots of a model that can be cut would cost, in words. */
function cutPrice(survey: SurveyView, model: number, strip: boolean): string {
  const cuts = survey.slots.flatMap((slot) => (slot.model === model ? ((strip ? slot.stripCut : slot.cut) ?? []) : []));
  if (cuts.length === 0) return 'no slot needs it, or can be cut';
  const more = cuts.reduce((sum, cut) => sum + cut.triangles, 0);
  return `${count(more)} triangles more for ${cuts.length === 1 ? 'one slot' : `${cuts.length} slots`}; chosen in Plan`;
}

function reportsOf(survey: SurveyView, modelAt: number, now: readonly FaceEditReport[]): Map<string, FaceEditReport[]> {
  const out = new Map<string, FaceEditReport[]>();
  const others = survey.models.filter((_, i) => i !== modelAt).flatMap((model) => model.edited?.reports ?? []);
  for (const report of [...now, ...others]) out.set(report.edit, [...(out.get(report.edit) ?? []), report]);
  return out;
}

/** Names that a slot may be given: required ones first, without those that stand for many, then planned surfaces. */
function slotNames(survey: SurveyView, { requiredNames, planned }: MergeDecisions): string[] {
  const names = new Set(requiredNames.filter((requiredName) => !requiredName.includes('*')));
  for (const p of openSurfaces(planned)) names.add(p.name);
  for (const slot of survey.slots) names.add(slot.name);
  return [...names];
}
