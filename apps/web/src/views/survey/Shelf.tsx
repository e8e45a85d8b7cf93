import { useMemo, useState } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { selectSlots, useModel, useSelection } from '../../project/selection.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { bytes, count } from '../../ui/format.ts';
import { ObjectMenu, objectAt } from '../../ui/ObjectMenu.tsx';
import { modelMenu } from './model-menu.ts';
import css from './Shelf.module.css';

const COSTS = {
  drawCalls: { label: 'draw calls', shown: count, said: (n: number) => (n === 1 ? 'draw call' : 'draw calls') },
  bytes: { label: 'texture memory', shown: bytes, said: () => 'texture memory' },
  triangles: { label: 'triangles', shown: count, said: (n: number) => (n === 1 ? 'triangle' : 'triangles') },
} as const;
type Cost = keyof typeof COSTS;

interface ShelfProps {
  project: ProjectView;
  survey: SurveyView;
  /** Colour of a model's board; null leaves it plain. */
  colour: ((model: number) => string | null) | null;
  go: ViewProps['go'];
}

/** Models stand in the order of what they cost, each above its figures. */
export function Shelf({ project, survey, colour, go }: ShelfProps) {
  const [cost, setCost] = useState<Cost>('drawCalls');
  const [oneScale, setOneScale] = useState(false);
  const model = useModel(survey);
  const hidden = useSelection((selection) => selection.hidden.models);
  const slots = useSelection((selection) => selection.slots);
  /** Models that hold selected slots. */
  const touched = useMemo(() => new Set([...slots].map((i) => survey.slots[i]?.model)), [slots, survey]);
  const standing = useMemo(() => {
    const byPath = new Map(survey.files.map((file) => [file.path, file]));
    return survey.models
      .map((model, i) => {
        const report = byPath.get(model.path);
        return {
          ...model,
          i,
          drawCalls: report?.drawCalls ?? 0,
          bytes: report?.textureBytes?.bc7 ?? 0,
          triangles: report?.triangles ?? 0,
        };
      })
      .filter((m) => !hidden.has(m.i))
      .sort((a, b) => b[cost] - a[cost] || a.i - b.i);
  }, [survey, cost, hidden]);
  const widest = Math.max(...survey.models.map((model) => model.span), 1e-9);
  const most = Math.max(1, standing[0]?.[cost] ?? 1);
  return (
    <section className={css.shelf} aria-label="Models by cost">
      <header className={css.head}>
        <label>
          Sort by{' '}
          <select value={cost} onChange={(event) => setCost(event.target.value as Cost)}>
            {Object.entries(COSTS).map(([k, c]) => (
              <option key={k} value={k}>
                {c.label}
              </option>
            ))}
          </select>
        </label>
        <label>
          <input type="checkbox" checked={oneScale} onChange={(event) => setOneScale(event.target.checked)} /> Same
          scale
        </label>
      </header>
      <ObjectMenu entries={(target) => modelMenu(objectAt(target, 'model'), { project, survey, go })}>
        <ul className={css.rows}>
          {standing.map((m) => (
            <li key={m.path} data-model={m.i}>
              <button
                type="button"
                className={`${css.stand} ${m.i === model ? css.chosen : ''} ${touched.has(m.i) ? css.touched : ''}`}
                aria-pressed={m.i === model}
                onClick={() => {
                  useSelection.setState({ model: m.i });
                  selectSlots([]);
                }}
              >
                <span className={css.picture}>
                  {project.surveyJob && (
                    <img
                      src={`/api/jobs/${project.surveyJob}/files/thumbs/model-${m.i}.png`}
                      alt=""
                      loading="lazy"
                      style={oneScale ? { width: `${Math.max(4, (100 * m.span) / widest)}%` } : undefined}
                    />
                  )}
                </span>
                <span
                  className={css.line}
                  style={{
                    inlineSize: `${Math.max(2, (100 * m[cost]) / most)}%`,
                    ...(colour?.(m.i) ? { background: colour(m.i) ?? '', blockSize: 8 } : {}),
                  }}
                />
                <span className={css.figure}>
                  {COSTS[cost].shown(m[cost])} <em>{COSTS[cost].said(m[cost])}</em>
                </span>
                <span className={css.name} title={m.path}>
                  {m.path.split('/').pop()}
                </span>
                <span className={css.span}>{m.span < 10 ? m.span.toFixed(2) : m.span.toFixed(1)} m</span>
              </button>
            </li>
          ))}
        </ul>
      </ObjectMenu>
    </section>
  );
}
