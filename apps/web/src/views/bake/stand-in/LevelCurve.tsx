import type { StandInResultView } from '../../../contract/project.ts';
import { count } from '../../../ui/format.ts';
import css from './StandInView.module.css';

type Levels = StandInResultView['model']['lods'];

const WIDTH = 280;
const HEIGHT = 84;

/** Triangles against the distance from which each level is drawn, both in powers: steps down from the full model. */
export function LevelCurve({ levels, level }: { levels: Levels; level: number }) {
  const last = levels[levels.length - 1];
  const first = levels.find(({ distance }) => distance > 0) ?? last;
  const near = Math.log(first.distance / 2);
  const far = Math.log(last.distance * 2);
  const [most, least] = [Math.log(levels[0].triangles * 1.3), Math.log(last.triangles / 1.3)];
  const x = (metres: number) => (metres <= 0 ? 0 : (WIDTH * (Math.log(metres) - near)) / Math.max(far - near, 1e-9));
  const y = (triangles: number) =>
    4 + (HEIGHT - 8) * (1 - (Math.log(triangles) - least) / Math.max(most - least, 1e-9));
  const steps = levels.map((lod, i) => {
    const to = i + 1 < levels.length ? x(levels[i + 1].distance) : WIDTH;
    return `${i === 0 ? 'M0' : `V`}${i === 0 ? ` ${y(lod.triangles)}` : y(lod.triangles)}H${to}`;
  });
  return (
    <svg
      className={css.curve}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={levels.map((lod) => `${count(lod.triangles)} triangles from ${lod.distance.toFixed(1)} m`).join(', ')}
    >
      <path d={steps.join('')} />
      {levels.map((lod, i) => (
        <circle
          key={lod.path}
          cx={Math.max(4, x(lod.distance))}
          cy={y(lod.triangles)}
          r={i === level ? 4.5 : 2.5}
          data-shown={i === level}
        />
      ))}
    </svg>
  );
}
