import { type FaceEdit, type FaceEditKind, type FaceGroup, slotsNamedBy } from '@wembrel/core/decisions/face-decisions';
import type { ProjectedPart } from '@wembrel/core/select/outline';
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Panel, Separator } from 'react-resizable-panels';
import type { SurveyView } from '../../../contract/project.ts';
import { failedLast, running } from '../../../project/api.ts';
import { NothingYet } from '../../../project/NothingYet.tsx';
import { notify } from '../../../project/notices.ts';
import { SCALES } from '../../../project/scale-titles.ts';
import { useModel, useSelection } from '../../../project/selection.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { missingIn } from '../../../project/view-state.ts';
import { checkerPicture } from '../../../stage/checker.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import type { ModelReader, PickedFace } from '../../../stage/model-stage.ts';
import type { FaceLayer } from '../../../stage/placed.ts';
import type { DrawnOutline } from '../../../stage/use-outline.ts';
import { counted } from '../../../ui/format.ts';
import { ErrorLine } from '../../../ui/Notice.tsx';
import { Panels } from '../../../ui/Panels.tsx';
import separators from '../../../ui/separators.module.css';
import frame from '../../../ui/View.module.css';
import type { Take } from '../../../workers/faces.worker.ts';
import type { Combine } from './combine-faces.ts';
import { withComing } from './coming.ts';
import { EditList } from './EditList.tsx';
import { freshEdit, freshId, titleOf } from './edit-kinds.ts';
import css from './Faces.module.css';
import { FaceTools } from './FaceTools.tsx';
import { CUTS, LOOKS, type Look, layersOf, repeatsOf } from './face-looks.ts';
import { amountOf, type FaceTable, faceTable, groupOfFaces, litBy, regrouped, tilesOfSlot } from './face-table.ts';
import { cutPrice, reportsOf, slotNames } from './face-words.ts';
import { GroupList } from './GroupList.tsx';
import { gatherColours } from './gather.ts';
import { PaletteBox } from './PaletteBox.tsx';
import { freshGroup } from './palette-colours.ts';
import { TileTable } from './TileTable.tsx';
import { UvPicture } from './UvPicture.tsx';
import { useFaceSelection } from './use-face-selection.ts';
import { usePainting } from './use-painting.ts';
import { usePreview } from './use-preview.ts';

/** Side of the texture that the checker stands for, px. */
const CHECKER = 1024;
/** Names that a list offers at most. */
const MOST_NAMES = 400;
/** Slots over more UV tiles than this are taken to tile. */
const MOST_TILES = 40;

/** Faces chosen in 3D, put into groups, and what is done to the groups; UVs beside the model, one selection. */
export function FacesView(props: ViewProps & { switcher: ReactNode }) {
  const { project, edit, switcher } = props;
  // While the models are read with a change, what was there stays in sight.
  const last = useRef<{ survey: SurveyView; job: string } | null>(null);
  if (project.survey && project.surveyJob) last.current = { survey: project.survey, job: project.surveyJob };
  const seen = last.current;
  const { faces } = project.decisions;
  const modelAt = useModel(seen?.survey);
  const model = seen?.survey.models[modelAt];
  const preview = usePreview(seen?.survey, seen?.job ?? '', modelAt, faces);
  const { url, changes } = preview;

  const [loaded, setLoaded] = useState<{ reader: ModelReader; table: FaceTable; path: string } | null>(null);
  const [look, setLook] = useState<Look>('groups');
  const [wire, setWire] = useState(false);
  const [open, setOpen] = useState<string | null>(null);
  const [slotInSight, setSlotInSight] = useState(0);
  const path = model?.path ?? '';
  // What is shown stays to be clicked while it is made anew: faces are numbered as in the source, whatever is done to them.
  const table = loaded && loaded.path === path ? loaded.table : null;
  const reader = loaded?.reader ?? null;
  const selection = useFaceSelection(path, table, reader);
  const { selected, hidden, take, combine } = selection;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another model begins again
  useEffect(() => setSlotInSight(0), [path]);
  const onLoaded = useCallback(
    (reader: ModelReader) => {
      if (!model || !url) return;
      const made = faceTable(reader.geometry(), model.parts, changes?.origins ?? null);
      setLoaded({ reader, table: made, path: model.path });
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

  const slotsThere = useMemo(() => new Set(seen?.survey.slots.map((slot) => slot.name)), [seen]);
  const changeFrom = (label: string, next: (now: typeof faces) => Partial<typeof faces>) =>
    edit(label, (decisions) =>
      withComing({ ...decisions, faces: { ...decisions.faces, ...next(decisions.faces) } }, slotsThere),
    );
  const change = (label: string, next: Partial<typeof faces>) => changeFrom(label, () => next);
  const painting = usePainting({ faces, survey: seen?.survey, modelAt, table, change: changeFrom });
  /** What was taken is painted, where a colour is chosen, else selected. */
  const takeOrPaint = async (
    taken: Promise<Uint8Array | null>,
    how: Combine,
    clicked: Parameters<typeof painting.paint>[2],
  ) => {
    if (painting.brush === null) return combine(taken, how);
    const set = await taken;
    if (set) painting.paint(set, how.remove ? 'out' : 'in', clicked);
  };
  const pickFace = (face: number | null, side: number, how: Combine, whole: Take | null = null) => {
    if (!table) return;
    if (face === null) {
      if (!how.add && !how.remove && painting.brush === null) selection.none();
      return;
    }
    setSlotInSight(table.slots[face]);
    void takeOrPaint(selection.taken(face, side, whole), how, { face, take: whole ?? take.how });
  };
  const pick = (picked: PickedFace | null, how: Combine) => {
    const face = picked ? (table?.shown.find((one) => one.part === picked.part)?.faces[picked.triangle] ?? null) : null;
    pickFace(face, picked?.side ?? 0, how);
  };
  const outline = (drawn: DrawnOutline, projected?: ProjectedPart) =>
    void takeOrPaint(selection.outlined(drawn, projected), { add: drawn.add, remove: false }, null);

  if (!seen || !model)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>UV layout</h1>
          {switcher}
        </header>
        <NothingYet {...props} view="uv" missing={missingIn(project, 'survey') ?? 'reading'} />
      </section>
    );
  const withGroup = (next: FaceGroup) => faces.groups.map((group) => (group.id === next.id ? next : group));
  const busy = running(project, 'survey') !== undefined;
  const failed = failedLast(project, 'survey');
  const reports = reportsOf(seen.survey, modelAt, changes?.reports ?? []);
  const sources = seen.survey.models.flatMap((model) => model.parts);
  const wholes = {
    slots: [...new Set(sources.map((source) => source.slot))].slice(0, MOST_NAMES),
    parts: [...new Set(sources.map((source) => source.name))].slice(0, MOST_NAMES),
  };
  const slotsTaken = new Set([...slotsThere, ...slotsNamedBy(faces.edits)]);
  const slots = slotNames(seen.survey, project.decisions);
  const slotName = loaded?.reader.slotName(slotInSight) ?? 'no slot';
  const amount = table && selected ? amountOf(table, selected, selection.partner) : { faces: 0, area: 0, quads: null };
  const make = () => {
    if (!table || !selected) return;
    const fresh = freshGroup(faces.groups, slotName);
    change(`Group ${fresh.name} of ${counted(amount.faces, 'face')}`, {
      groups: regrouped([...faces.groups, fresh], fresh.id, model.path, table, selected, 'in'),
    });
    setOpen(fresh.id);
  };
  /** A group of the whole slot in sight, and a slot for each of its UV tiles. */
  const splitTiles = () => {
    const known = faces.groups.find((group) => group.slots.includes(slotName));
    const fresh = { ...freshGroup(faces.groups, `${slotName.slice(0, 42)}, tiles`), slots: [slotName] };
    const groups = known ? faces.groups : [...faces.groups, fresh];
    const added = freshEdit('tiles', freshId('e', faces.edits), [(known ?? fresh).id], slotName);
    change(titleOf(added, groups), { groups, edits: [...faces.edits, added] });
  };
  const selectGroup = (id: string | null, add: boolean) => {
    if (!groupOf) return;
    const at = id === null ? -1 : faces.groups.findIndex((group) => group.id === id);
    combine(
      Uint8Array.from(groupOf, (g) => Number(g === at)),
      { add, remove: false },
    );
  };
  const opened = faces.groups.find((group) => group.id === open) ?? null;
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>UV layout</h1>
        <p role="status">
          {preview.busy
            ? 'Applying the changes …'
            : `${counted(table?.faces ?? 0, 'face')}${selection.took === null ? '' : `, taken in ${selection.took.toFixed(0)} ms`}${busy ? '; the models are being read again' : ''}`}
        </p>
        {switcher}
      </header>
      <div className={css.page}>
        <Panels id="faces" orientation="horizontal">
          <Panel id="faces-1" defaultSize="60%" minSize="260px">
            <div className={css.model}>
              <FaceTools selection={selection} some={amount.faces > 0} />
              <div className={css.picture}>
                {(preview.problem ?? (failed && !busy)) && (
                  <ErrorLine>{preview.problem ?? failed?.message ?? 'The models could not be read.'}</ErrorLine>
                )}
                <ModelView
                  label={`3D picture of ${model.path}; a click ${painting.brush === null ? 'takes' : 'paints'} faces, a box with Shift or a line with Shift and Alt those within`}
                  url={url}
                  wire={wire}
                  layers={layers}
                  lines={repeats?.lines ?? null}
                  map={look === 'checker' ? checkerPicture(CHECKER) : null}
                  hiddenFaces={hiddenFaces}
                  onPick={pick}
                  onOutline={(drawn) => outline(drawn)}
                  onKey={(key) => {
                    if (key !== 'Escape') return false;
                    if (painting.brush === null) selection.none();
                    else painting.setBrush(null);
                    return true;
                  }}
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
                    <input type="checkbox" checked={wire} onChange={(event) => setWire(event.target.checked)} />{' '}
                    Wireframe
                  </label>
                  {repeats && (
                    <span>
                      {repeats.count === 0
                        ? 'no texture begins anew inside a face'
                        : `${counted(repeats.count, 'line')}; ${cutPrice(seen.survey, modelAt, axes === 'v')}`}
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
                    : `${counted(amount.faces, 'face')}, ${amount.quads === null ? '' : `${counted(amount.quads, 'quad')}, `}${Number(amount.area.toPrecision(3))} m² selected`}
                </p>
              </div>
            </div>
          </Panel>
          <Separator className={separators.across} />
          <Panel id="faces-2" minSize="200px">
            {table && selected && (
              <div className={css.uvs}>
                <UvPicture
                  table={table}
                  slot={slotInSight}
                  picture={reader?.picture(slotInSight) ?? null}
                  selected={selected}
                  hidden={hidden}
                  onOutline={outline}
                  caption={`${slotName}${reader?.picture(slotInSight) ? '' : ', no picture'}`}
                  onPick={(face, how) => pickFace(face, 0, how, take.how === 'face' ? 'face' : 'island')}
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
        </Panels>
        <aside className={css.side}>
          <GroupList
            groups={faces.groups}
            counts={counts}
            inNone={counts[faces.groups.length]}
            chosen={open}
            selected={amount.faces}
            wholes={wholes}
            choose={setOpen}
            select={selectGroup}
            make={make}
            put={(id, how) => {
              if (!table || !selected) return;
              const name = faces.groups.find((group) => group.id === id)?.name;
              change(how === 'in' ? `${counted(amount.faces, 'face')} into ${name}` : `Faces out of ${name}`, {
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
          <PaletteBox
            colours={painting.colours}
            brush={painting.brush}
            setBrush={(slot) => {
              painting.setBrush(slot);
              if (slot !== null) setLook('own');
            }}
            painted={counts[faces.groups.findIndex((group) => group.id === painting.group)] ?? 0}
            everywhere={painting.everywhere}
            setEverywhere={painting.setEverywhere}
            add={() => {
              painting.add();
              setLook('own');
            }}
            change={painting.recolour}
            remove={painting.remove}
            select={() => painting.group !== null && selectGroup(painting.group, false)}
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
              const fresh = freshEdit(kind, freshId('e', faces.edits), [opened.id], opened.name, slotsTaken);
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
