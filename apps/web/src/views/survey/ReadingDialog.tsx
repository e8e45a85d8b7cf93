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
const isModel = (p: string) => /\.(glb|gltf|obj|ply|stl)$/i.test(p);
const isFree = (p: string) => /\.(obj|ply|stl)$/i.test(p);

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
  const loose = useMemo(() => new Set(survey.loose.map((l) => l.path)), [survey]);
  const rows = project.sources.filter((s) => isModel(s.path) || loose.has(s.path));
  const set = (paths: string[], part: Partial<SourceOptions>) =>
    setDraft((d) => ({
      ...d,
      sources: {
        ...d.sources,
        ...Object.fromEntries(paths.map((p) => [p, { ...(d.sources[p] ?? PLAIN), ...part }])),
      },
    }));
  return (
    <Dialog
      open
      title="How files are read"
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
                  free={rows.some((r) => isFree(r.path))}
                  set={(part) =>
                    set(
                      rows.map((r) => r.path),
                      part,
                    )
                  }
                />
              )}
              {rows.slice(0, 300).map((r) => (
                <OptionRow
                  key={r.path}
                  name={r.path}
                  options={draft.sources[r.path] ?? PLAIN}
                  free={isFree(r.path)}
                  set={(part) => set([r.path], part)}
                />
              ))}
            </tbody>
          </table>
        </div>
        <Naming survey={survey} naming={draft.naming} onChange={(naming) => setDraft((d) => ({ ...d, naming }))} />
        <footer className={css.foot}>
          <Button onClick={onClose}>Leave it as it was</Button>
          <Button
            tone="main"
            onClick={() => {
              edit('How files are read', (d) => ({ ...d, reading: draft }));
              onClose();
            }}
          >
            Read like this
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
            onChange={(e) => set({ unit: e.target.value === '' ? null : Number(e.target.value) })}
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
            onChange={(e) => set({ up: e.target.value === '' ? null : (e.target.value as 'y' | 'z') })}
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
          onChange={(e) => set({ normalY: e.target.value as 'up' | 'down' })}
        >
          <option value="up">Y up</option>
          <option value="down">Y down</option>
        </select>
      </td>
      <td>
        <select
          aria-label={`Roughness of ${name}`}
          value={o.gloss ? 'gloss' : 'rough'}
          onChange={(e) => set({ gloss: e.target.value === 'gloss' })}
        >
          <option value="rough">roughness</option>
          <option value="gloss">gloss</option>
        </select>
      </td>
      <td>
        <select
          aria-label={`Colours of ${name}`}
          value={o.colour}
          onChange={(e) => set({ colour: e.target.value as 'srgb' | 'linear' })}
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
    .map((s) => s.trim())
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
    for (const s of survey.slots) count.set(s.model, (count.get(s.model) ?? 0) + 1);
    const slots = survey.slots.map((s) => ({
      model: stem(survey.models[s.model].path),
      slot: s.name,
      siblings: count.get(s.model) ?? 1,
    }));
    const patterns = naming.patterns.filter((p) => p.includes('{map}'));
    const out = assignTextures(
      survey.loose.map((l) => stem(l.path)),
      slots,
      { ...naming, patterns },
    );
    return survey.loose.map((l, i) => {
      const a = out.assignments.find((x) => x.file === i);
      return {
        path: l.path,
        text: a
          ? `${mapsOf(a.holds)
              .map((m) => MAP_TITLES[m])
              .join(', ')} of ${[...new Set(a.slots.map((s) => `${slots[s].model}: ${slots[s].slot}`))].join('; ')}`
          : (out.unmatched.find((u) => u.file === i)?.reason ?? ''),
        good: a !== undefined,
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
            onChange={(e) => onChange({ ...naming, patterns: e.target.value.split('\n') })}
            onBlur={() => onChange({ ...naming, patterns: naming.patterns.filter((p) => p.includes('{map}')) })}
          />
        </label>
        <div className={css.endings}>
          {Object.keys(MAP_TITLES).map((m) => {
            const map = m as keyof TextureNaming['endings'];
            return (
              <label key={m}>
                {MAP_TITLES[m]}
                <input
                  defaultValue={(naming.endings[map] ?? []).join(', ')}
                  onBlur={(e) => onChange({ ...naming, endings: { ...naming.endings, [map]: lines(e.target.value) } })}
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
                  onChange={(e) =>
                    onChange({
                      ...naming,
                      packed: naming.packed.map((x, k) =>
                        k === i ? { ...x, [c]: (e.target.value || null) as (typeof x)[typeof c] } : x,
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
