import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { RaySheetView } from '../../../contract/project.ts';
import { ButtonLink } from '../../../ui/Button.tsx';
import { bytes } from '../../../ui/format.ts';
import { GoOn } from '../GoOn.tsx';
import { length } from './lengths.ts';
import { MAP_TITLES } from './map-titles.ts';
import css from './RaysView.module.css';

/** All maps along the edge; the chosen one is shown large and on the model. */
export function MapContacts({
  sheet,
  zip,
  map,
  address,
  onChoose,
  job,
}: {
  sheet: RaySheetView;
  zip: string;
  map: MapKind;
  address: (file: string) => string;
  onChoose: (map: MapKind) => void;
  /** Whose low-polys may be sources; null where only a part is baked. */
  job: string | null;
}) {
  const one = sheet.maps.find((m) => m.kind === map);
  return (
    <footer className={css.foot}>
      <div className={css.contacts} role="radiogroup" aria-label="Map">
        {sheet.maps.map((m) => (
          <label key={m.kind} className={m.kind === map ? css.chosen : ''}>
            <input type="radio" name="ray-map" checked={m.kind === map} onChange={() => onChoose(m.kind)} />
            <img src={address(`views/${m.view}`)} alt="" loading="lazy" />
            {MAP_TITLES[m.kind]}
          </label>
        ))}
      </div>
      {map === 'id' && (
        <ul className={css.legend}>
          {sheet.legend.map((l) => (
            <li key={l.name}>
              <span style={{ background: l.colour }} /> {l.name}
            </li>
          ))}
        </ul>
      )}
      {(map === 'thickness' || map === 'height') && (
        <ul className={css.legend} aria-label="What black and white are">
          {sheet.pairings.map((pairing) => (
            <li key={pairing.name}>
              {pairing.name}: {rangeOf(pairing, map)}
            </li>
          ))}
        </ul>
      )}
      <div className={css.take}>
        {job && <GoOn job={job} of="low-polys with their maps" under="baked" />}
        <ButtonLink href={zip} download>
          Download all (ZIP)
        </ButtonLink>
        {one && (
          <ButtonLink href={address(`delivery/${encodeURIComponent(one.file)}`)} download>
            Download {one.file}, {bytes(one.bytes)}
          </ButtonLink>
        )}
      </div>
    </footer>
  );
}

/** From black to white. A map of heights holds metres; its picture has the plane in the middle. */
function rangeOf(
  { thicknessDistance, heights }: RaySheetView['pairings'][number],
  map: 'thickness' | 'height',
): string {
  if (map === 'thickness') return `0 to ${length(thicknessDistance)}`;
  return heights ? `${length(heights[0])} to ${length(heights[1])}` : 'nothing was hit';
}
