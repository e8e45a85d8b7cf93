import type { StandInResultView } from '../../../contract/project.ts';
import { bytes, count, decibels, percent } from '../../../ui/format.ts';
import { LevelCurve } from './LevelCurve.tsx';
import css from './StandInView.module.css';

export interface StandInFiguresProps {
  result: StandInResultView;
  /** The level in sight, and how another one is put there; null: the distance decides. */
  level: number;
  onLevel: (level: number | null) => void;
}

const metres = (m: number): string => (m < 10 ? `${m.toFixed(2)} m` : `${Math.round(m)} m`);

/** What was gained, how alike it is, and its levels of detail. */
export function StandInFigures({ result, level, onLevel }: StandInFiguresProps) {
  const { model } = result;
  const rows = [
    ['Triangles', count(model.before.triangles), count(model.after.triangles)],
    ['Slots', count(model.before.slots), count(model.after.slots)],
    ['Draw calls', count(model.before.drawCalls), count(model.after.drawCalls)],
  ];
  return (
    <>
      <table>
        <thead>
          <tr>
            <th>Figure</th>
            <th>source</th>
            <th>{result.proof ? 'proof' : 'stand-in'}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([title, before, after]) => (
            <tr key={title}>
              <td>{title}</td>
              <td>{before}</td>
              <td className={css.after}>{after}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Likeness result={result} />
      {model.lods.length > 1 && (
        <section className={css.levels}>
          <h2>Levels of detail</h2>
          <LevelCurve levels={model.lods} level={level} />
          <table>
            <thead>
              <tr>
                <th>Level</th>
                <th>triangles</th>
                <th>from</th>
                <th>file</th>
              </tr>
            </thead>
            <tbody>
              {model.lods.map((lod, i) => (
                <tr key={lod.path} aria-current={i === level}>
                  <td>
                    <button type="button" onClick={() => onLevel(i)}>
                      {lod.card ? 'card' : i === 0 ? 'full' : i}
                    </button>
                  </td>
                  <td>{count(lod.triangles)}</td>
                  <td>{metres(lod.distance)}</td>
                  <td>{bytes(result.sizes[lod.path] ?? 0)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className={css.note}>
            From each distance on, 99 % of the outline is within one px of the full model’s, on a screen 1080 px high.
            {model.lods.some(({ card }) => card) && ' A card is drawn once the model is 64 px high.'}
          </p>
        </section>
      )}
      <Notes result={result} />
    </>
  );
}

function Likeness({ result: { model, proof } }: { result: StandInResultView }) {
  const { fidelity } = model;
  return (
    <section className={css.likeness}>
      <h2>Alike?</h2>
      <dl>
        <dt>Outline off by</dt>
        <dd>
          {model.outlinePx.toFixed(1)} px from {metres(model.distance)}
        </dd>
        {fidelity && (
          <>
            <dt>Outline within 1 px</dt>
            <dd>{percent(fidelity.outline, 1)} at least</dd>
            <dt>Base colour</dt>
            <dd>{decibels(fidelity.base)} at least</dd>
            <dt>Lit</dt>
            <dd>{decibels(fidelity.lit)} at least</dd>
          </>
        )}
      </dl>
      {fidelity ? (
        <p className={css.note}>
          {fidelity.alike
            ? 'From all twelve views it is alike, or as near to the truth as the source itself.'
            : `${fidelity.views.filter((view) => view.base !== null && view.own.base !== null && view.base < view.own.base).length} of twelve views lose more than the source itself does; ${fidelity.worstView} is worst.`}
        </p>
      ) : (
        proof && <p className={css.note}>A proof is not held against its source.</p>
      )}
    </section>
  );
}

/** What else is to be known, in sentences. */
function Notes({ result: { model } }: { result: StandInResultView }) {
  const notes = [
    model.hidden > 0 && `${count(model.hidden)} triangles that nothing from outside sees were left out.`,
    model.watertight &&
      model.volume.after !== null &&
      `It is watertight and encloses ${model.volume.after.toPrecision(3)} m³.`,
    model.apart.length > 0 &&
      `${model.apart.join(', ')} ${model.apart.length === 1 ? 'stays as it is' : 'stay as they are'}.`,
    model.texelsPerPx < 0.75 &&
      `From ${metres(model.distance)} the screen shows finer detail than the sheet holds: ${model.density.toFixed(0)} px a metre.`,
    model.texels.missed > 0 &&
      `${percent(model.texels.missed / model.texels.all, 2)} of the texels met nothing and were filled from beside.`,
  ].filter((note): note is string => typeof note === 'string');
  return notes.length > 0 ? (
    <ul className={css.notes}>
      {notes.map((note) => (
        <li key={note}>{note}</li>
      ))}
    </ul>
  ) : null;
}
