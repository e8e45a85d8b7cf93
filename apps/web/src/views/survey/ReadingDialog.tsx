import type { ReadingDecisions, SourceOptions, TextureNaming } from '@wembrel/core/decisions/reading';
import { assignTextures, mapsOf } from '@wembrel/core/survey/assign-textures';
import { useMemo, useState } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import css from './ReadingDialog.module.css';

const PLAIN: SourceOptions = { unit: null, up: null, normalY: 'up', gloss: false, colour: 'srgb' };
const UNITS: [number, string][] = [
  [1, 'metres'],
  [0.01, 'centimetres'],
  [0.001, 'millimetres'],
  [0.0254, 'inches'],
];
const stem = (path: string) => path.replace(/^.*\//, '').replace(/\.[^.]+$/, '');
const isModel = (path: string) => /\.(glb|gltf|obj|ply|stl)$/i.test(path);
const isFree = (path: string) => /\.(obj|ply|stl)$/i.test(path);

/** How sources are read: unit and axis, directions and colour spaces, and the names by which loose textures find their slots. */
export function ReadingDialog({
  project,
  survey,
  edit,
  onClose,
}: {
  project: ProjectView;
  survey: SurveyView;
  edit: ViewProps['edit'];
  onClose: () => void;
}) {
  const [draft, setDraft] = useState<ReadingDecisions>(project.decisions.reading);
  const loose = useMemo(() => new Set(survey.loose.map((looseTexture) => looseTexture.path)), [survey]);
  const rows = project.sources.filter((source) => isModel(source.path) || loose.has(source.path));
  const set = (paths: string[], part: Partial<SourceOptions>) =>
    setDraft((d) => ({
      ...d,
      sources: {
        ...d.sources,
        ...Object.fromEntries(paths.map((path) => [path, { ...(d.sources[path] ?? PLAIN), ...part }])),
      },
    }));
  return (
    <Dialog
      open
      title="Import settings"
      about="Where a format does not say it, you do. Everything is read again when this is taken over."
      onClose={onClose}
    >
      <div className={css.body}>
        <div className={css.scroll}>
          <table className={css.table}>
            <thead>
              <tr>
                <th>Source</th>
                <th>Unit</th>
                <th>Up</th>
                <th>Normal maps</th>
                <th>Roughness</th>
                <th>Colours</th>
              </tr>
            </thead>
            <tbody>
              {rows.length > 1 && (
                <OptionRow
                  name={`All ${rows.length}`}
                  options={PLAIN}
                  free={rows.some((row) => isFree(row.path))}
                  set={(part) =>
                    set(
                      rows.map((row) => row.path),
                      part,
                    )
                  }
                />
              )}
              {rows.slice(0, 300).map((row) => (
                <OptionRow
                  key={row.path}
                  name={row.path}
                  options={draft.sources[row.path] ?? PLAIN}
                  free={isFree(row.path)}
                  set={(part) => set([row.path], part)}
                />
              ))}
            </tbody>
          </table>
        </div>
        <Naming survey={survey} naming={draft.naming} onChange={(naming) => setDraft((d) => ({ ...d, naming }))} />
        <footer className={css.foot}>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            tone="main"
            onClick={() => {
              edit('Import settings', (decisions) => ({ ...decisions, reading: draft }));
              onClose();
            }}
          >
            Apply and re-read
          </Button>
        </footer>
      </div>
    </Dialog>
  );
}

function OptionRow({
  name,
  options: o,
  free,
  set,
}: {
  name: string;
  options: SourceOptions;
  /** The format says neither unit nor axis. */
  free: boolean;
  set: (part: Partial<SourceOptions>) => void;
}) {
  return (
    <tr>
      <td className={css.name} title={name}>
        {name}
      </td>
      <td>
        {free ? (
          <select
            aria-label={`Unit of ${name}`}
            value={o.unit ?? ''}
            onChange={(event) => set({ unit: event.target.value === '' ? null : Number(event.target.value) })}
          >
            <option value="">by format</option>
            {UNITS.map(([v, t]) => (
              <option key={v} value={v}>
                {t}
              </option>
            ))}
          </select>
        ) : (
          'metres'
        )}
      </td>
      <td>
        {free ? (
          <select
            aria-label={`Up axis of ${name}`}
            value={o.up ?? ''}
            onChange={(event) => set({ up: event.target.value === '' ? null : (event.target.value as 'y' | 'z') })}
          >
            <option value="">by format</option>
            <option value="y">Y</option>
            <option value="z">Z</option>
          </select>
        ) : (
          'Y'
        )}
      </td>
      <td>
        <select
          aria-label={`Normal maps of ${name}`}
          value={o.normalY}
          onChange={(event) => set({ normalY: event.target.value as 'up' | 'down' })}
        >
          <option value="up">Y up</option>
          <option value="down">Y down</option>
        </select>
      </td>
      <td>
        <select
          aria-label={`Roughness of ${name}`}
          value={o.gloss ? 'gloss' : 'rough'}
          onChange={(event) => set({ gloss: event.target.value === 'gloss' })}
        >
          <option value="rough">roughness</option>
          <option value="gloss">gloss</option>
        </select>
      </td>
      <td>
        <select
          aria-label={`Colours of ${name}`}
          value={o.colour}
          onChange={(event) => set({ colour: event.target.value as 'srgb' | 'linear' })}
        >
          <option value="srgb">sRGB</option>
          <option value="linear">linear</option>
        </select>
      </td>
    </tr>
  );
}

const MAP_TITLES: Record<string, string> = {
  baseColor: 'base colour',
  opacity: 'opacity',
  metallic: 'metallic',
  roughness: 'roughness',
  gloss: 'gloss',
  normal: 'normal',
  occlusion: 'AO',
  emissive: 'emissive',
};

const lines = (text: string) =>
  text
    .split(/[\n,]/)
    .map((text) => text.trim())
    .filter(Boolean);

/** Patterns and endings, and what they match among the loose textures right now. */
function Naming({
  survey,
  naming,
  onChange,
}: {
  survey: SurveyView;
  naming: TextureNaming;
  onChange: (n: TextureNaming) => void;
}) {
  const preview = useMemo(() => {
    const count = new Map<number, number>();
    for (const slot of survey.slots) count.set(slot.model, (count.get(slot.model) ?? 0) + 1);
    const slots = survey.slots.map((slot) => ({
      model: stem(survey.models[slot.model].path),
      slot: slot.name,
      siblings: count.get(slot.model) ?? 1,
    }));
    const patterns = naming.patterns.filter((pattern) => pattern.includes('{map}'));
    const out = assignTextures(
      survey.loose.map((looseTexture) => stem(looseTexture.path)),
      slots,
      { ...naming, patterns },
    );
    return survey.loose.map((looseTexture, i) => {
      const assignment = out.assignments.find((x) => x.file === i);
      return {
        path: looseTexture.path,
        text: assignment
          ? `${mapsOf(assignment.holds)
              .map((channel) => MAP_TITLES[channel])
              .join(
                ', ',
              )} of ${[...new Set(assignment.slots.map((slot) => `${slots[slot].model}: ${slots[slot].slot}`))].join('; ')}`
          : (out.unmatched.find((u) => u.file === i)?.reason ?? ''),
        good: assignment !== undefined,
      };
    });
  }, [survey, naming]);
  return (
    <section className={css.naming}>
      <div>
        <h3>Names of loose textures</h3>
        <label>
          Patterns, one a line
          <textarea
            rows={3}
            value={naming.patterns.join('\n')}
            onChange={(event) => onChange({ ...naming, patterns: event.target.value.split('\n') })}
            onBlur={() =>
              onChange({ ...naming, patterns: naming.patterns.filter((pattern) => pattern.includes('{map}')) })
            }
          />
        </label>
        <div className={css.endings}>
          {Object.keys(MAP_TITLES).map((name) => {
            const map = name as keyof TextureNaming['endings'];
            return (
              <label key={name}>
                {MAP_TITLES[name]}
                <input
                  defaultValue={(naming.endings[map] ?? []).join(', ')}
                  onBlur={(event) =>
                    onChange({ ...naming, endings: { ...naming.endings, [map]: lines(event.target.value) } })
                  }
                />
              </label>
            );
          })}
        </div>
        <h3>Packed channels</h3>
        {naming.packed.map((p, i) => (
          <div key={p.ending} className={css.packed}>
            <code>{p.ending}</code>
            {(['r', 'g', 'b', 'a'] as const).map((c) => (
              <label key={c}>
                {c.toUpperCase()}
                <select
                  value={p[c] ?? ''}
                  onChange={(event) =>
                    onChange({
                      ...naming,
                      packed: naming.packed.map((x, k) =>
                        k === i ? { ...x, [c]: (event.target.value || null) as (typeof x)[typeof c] } : x,
                      ),
                    })
                  }
                >
                  <option value="">–</option>
                  {Object.entries(MAP_TITLES).map(([v, t]) => (
                    <option key={v} value={v}>
                      {t}
                    </option>
                  ))}
                </select>
              </label>
            ))}
          </div>
        ))}
      </div>
      <div>
        <h3>What they match now</h3>
        {preview.length === 0 && <p className={css.none}>There are no loose textures in this project.</p>}
        <ul className={css.matches} data-testid="texture-matches">
          {preview.map((p) => (
            <li key={p.path} className={p.good ? '' : css.bad}>
              <b>{p.path}</b> {p.text}
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
