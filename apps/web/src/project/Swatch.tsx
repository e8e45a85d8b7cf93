import type { ProjectView } from '../contract/project.ts';
import css from './Swatch.module.css';

/** How a slot or texture looks, small: its picture, or its plain colour. */
export function Swatch({
  project,
  picture,
  factor = [1, 1, 1],
}: {
  project: ProjectView;
  picture: string | undefined;
  factor?: [number, number, number];
}) {
  const shown = factor.map((v) => Math.round(255 * (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)));
  if (!picture || !project.surveyJob)
    return <span className={css.swatch} style={{ background: `rgb(${shown.join(' ')})` }} />;
  return (
    <img
      className={css.swatch}
      alt=""
      loading="lazy"
      src={`/api/jobs/${project.surveyJob}/files/thumbs/${picture}.png`}
    />
  );
}
