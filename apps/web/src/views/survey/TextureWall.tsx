import { useMemo, useState } from 'react';
import type { ProjectView, SurveyView } from '../../contract/project.ts';
import { useSelection } from '../../project/selection.ts';
import { bytes } from '../../ui/format.ts';
import { ObjectMenu, objectAt } from '../../ui/ObjectMenu.tsx';
import { choosePicture } from './choose-picture.ts';
import css from './TextureWall.module.css';
import { showTexels } from './tables/textures.tsx';
import { neededShare, wallOrder, wallScale } from './wall-scale.ts';

/** Side of the largest texture, px: small, middle, large. */
const SIDES = [96, 160, 256] as const;

type Picture = SurveyView['pictures'][number];

/** All textures to one pixel scale: inside each the size at which it loses nothing, hatched what it does not use. */
export function TextureWall({ project, survey }: { project: ProjectView; survey: SurveyView }) {
  const [side, setSide] = useState<number>(survey.pictures.length > 6 ? SIDES[0] : SIDES[1]);
  const { pictures } = survey;
  const scale = wallScale(pictures, side);
  const order = useMemo(() => wallOrder(pictures), [pictures]);
  const slots = useSelection((selection) => selection.slots);
  const chosen = useMemo(
    () => new Set([...slots].flatMap((i) => Object.values(survey.slots[i]?.images ?? {}))),
    [slots, survey],
  );
  const menu = (at: number | null) =>
    at === null
      ? []
      : [
          { label: 'View texels', run: () => showTexels(project, pictures[at]) },
          { label: 'Select the slots that read it', run: () => choosePicture(survey, pictures[at].key) },
        ];
  return (
    <section className={css.box} aria-label="Textures to scale">
      <Hatch />
      <header className={css.head}>
        <span className={css.legend}>
          <i className={css.needed} aria-hidden /> needed size <i className={css.hatch} aria-hidden /> unused
        </span>
        <label>
          Scale{' '}
          <select value={side} onChange={(event) => setSide(Number(event.target.value))}>
            {SIDES.map((px, i) => (
              <option key={px} value={px}>
                {['small', 'medium', 'large'][i]}
              </option>
            ))}
          </select>
        </label>
      </header>
      <ObjectMenu entries={(target) => menu(objectAt(target, 'texture'))}>
        <ul className={css.wall}>
          {order.map((at) => (
            <li key={`${pictures[at].key}${pictures[at].colour}`} data-texture={at}>
              <Hung
                project={project}
                picture={pictures[at]}
                scale={scale}
                chosen={chosen.has(pictures[at].key)}
                onChoose={() => choosePicture(survey, pictures[at].key)}
              />
            </li>
          ))}
        </ul>
      </ObjectMenu>
      {pictures.length === 0 && <p className={css.none}>These models have no textures.</p>}
    </section>
  );
}

interface HungProps {
  project: ProjectView;
  picture: Picture;
  /** Drawn px for each px. */
  scale: number;
  chosen: boolean;
  onChoose: () => void;
}

function Hung({ project, picture, scale, chosen, onChoose }: HungProps) {
  const { name, width, height, usefulSide, nearlyFlat, copies } = picture;
  const share = neededShare(picture);
  const w = Math.max(3, width * scale);
  const h = Math.max(3, height * scale);
  const needs = nearlyFlat ? 'one colour' : share < 1 ? `${usefulSide} px would do` : 'uses its size';
  const takes = bytes(picture.bytes[project.decisions.budget.format] * copies);
  return (
    <button
      type="button"
      className={`${css.hung} ${chosen ? css.chosen : ''}`}
      style={{ width: w, height: h }}
      aria-pressed={chosen}
      aria-label={`${name}, ${width} × ${height}, ${needs}`}
      title={`${name}\n${width} × ${height} px${copies > 1 ? `, ${copies} copies` : ''}, ${takes}\n${needs}\nDouble-click: view texels`}
      onClick={onChoose}
      onDoubleClick={() => showTexels(project, picture)}
    >
      <img alt="" loading="lazy" src={`/api/jobs/${project.surveyJob}/files/thumbs/${picture.key}.png`} />
      {share < 1 && <Unused w={w} h={h} share={share} />}
    </button>
  );
}

/** Hatches what lies beyond the needed size, and outlines that size. */
function Unused({ w, h, share }: { w: number; h: number; share: number }) {
  const [nw, nh] = [Math.max(2, w * share), Math.max(2, h * share)];
  return (
    <svg width={w} height={h} aria-hidden>
      <path fillRule="evenodd" fill="url(#unused-texels)" d={`M0 0h${w}v${h}h${-w}zM0 0v${nh}h${nw}v${-nh}z`} />
      <path className={css.outline} d={`M0 ${nh}h${nw}v${-nh}`} />
    </svg>
  );
}

/** The hatch that all pictures share. */
function Hatch() {
  return (
    <svg width={0} height={0} aria-hidden className={css.defs}>
      <defs>
        <pattern id="unused-texels" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width={6} height={6} className={css.veil} />
          <rect width={1.5} height={6} className={css.stroke} />
        </pattern>
      </defs>
    </svg>
  );
}
