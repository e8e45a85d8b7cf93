import { isWorse } from '@wembrel/core/compare/fidelity';
import { VIEWS } from '@wembrel/core/compare/views';
import type { ResultView } from '../../contract/project.ts';
import { decibels } from '../../ui/format.ts';
import css from './CompareView.module.css';

/** Distances by how many times they are the one that frames the models. */
const DISTANCE_SAID: Record<number, string> = { 0.4: 'near, 0.4 ×', 1: 'framed', 3: 'far, 3 ×' };

interface FidelityProps {
  job: string;
  fidelity: NonNullable<ResultView['fidelity']>;
  /** Turns the 3D picture to a view, from so many times the distance at which the model fills it. */
  onLook: (eye: readonly [number, number, number], times?: number) => void;
}

/** The worst view in pictures, and all views in figures; each can be looked at in 3D. */
export function Fidelity({ job, fidelity, onLook }: FidelityProps) {
  const look = (name: string, times?: number) => {
    const view = VIEWS.find((one) => one.name === name);
    if (view) onLook(view.eye, times);
  };
  return (
    <>
      <h2>
        Worst view “{fidelity.worstView}”: {decibels(fidelity.psnr)}, SSIM {fidelity.ssim.toFixed(4)}
      </h2>
      <div className={css.worst}>
        {(['original', 'result', 'difference'] as const).map((k) => (
          <figure key={k}>
            <img src={`/api/jobs/${job}/files/worst-${k}.png`} alt={`${k}, worst view`} />
            <figcaption>{k === 'difference' ? 'difference × 4' : k}</figcaption>
          </figure>
        ))}
      </div>
      <ul className={css.distances} aria-label="Worst view from each distance">
        {fidelity.distances.map((distance) => (
          <li key={distance.distance} data-worse={isWorse(distance)}>
            <b>{decibels(distance.psnr)}</b>{' '}
            <button
              type="button"
              className={css.look}
              title="Look at the worst view from there"
              onClick={() => look(fidelity.worstView, distance.distance)}
            >
              {DISTANCE_SAID[distance.distance] ?? `${distance.distance} ×`}
            </button>
            {distance.truth ? (
              <em title="Held against the original's textures at their finest level, sixteen samples a pixel">
                {isWorse(distance) ? 'worse than' : 'as good as'} the original: {decibels(distance.truth.result)}{' '}
                against its full textures, the original {decibels(distance.truth.original)}
              </em>
            ) : null}
          </li>
        ))}
      </ul>
      <table className={css.views}>
        <thead>
          <tr>
            <th>View</th>
            <th>unlit</th>
            <th>lit</th>
            <th>SSIM</th>
          </tr>
        </thead>
        <tbody>
          {fidelity.views.map((v) => (
            <tr key={v.name} className={v.name === fidelity.worstView ? css.worstRow : ''}>
              <td>
                <button type="button" className={css.look} title="Look from there" onClick={() => look(v.name)}>
                  {v.name}
                </button>
              </td>
              <td>{decibels(v.unlit.psnr)}</td>
              <td>{decibels(v.lit.psnr)}</td>
              <td>{Math.min(v.unlit.ssim, v.lit.ssim).toFixed(4)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
