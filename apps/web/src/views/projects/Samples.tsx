import { Button } from '../../ui/Button.tsx';
import css from './Samples.module.css';

const SAMPLES = [
  ['furniture', 'Tram stop furniture', 'Thirteen slots of one model go onto one sheet; its glass is kept apart.'],
  [
    'signs',
    'Forty signs',
    'Forty models with a copy of the same texture each: one texture and one material are enough.',
  ],
  [
    'surfaces',
    'Platform and rails',
    'Paving in cells, rails on strips, a tram on four UV tiles, ferns that are never turned.',
  ],
  ['posts', 'Ticket post and lamps', 'High-polys are baked onto their low-polys; reaches are set from the section.'],
  [
    'dressed',
    'Locker, lamp posts, paving',
    'Looks by recipes: from a picture of IDs, worn and weathered; six posts by one; cells that go on.',
  ],
  ['kiosk', 'News kiosk', 'Far too heavy: a light stand-in with one slot and four levels of detail is made of it.'],
  [
    'everything',
    'The whole tram stop',
    'Some sixty models at once, with a few broken files as real folders have them.',
  ],
] as const;

export type Sample = (typeof SAMPLES)[number][0];

/** Projects that show what can be done, made from the demo's own files. */
export function Samples({ opening, onOpen }: { opening: Sample | null; onOpen: (sample: Sample) => void }) {
  return (
    <section className={css.samples} aria-labelledby="samples">
      <h2 id="samples">Samples</h2>
      <ul>
        {SAMPLES.map(([sample, title, about]) => (
          <li key={sample}>
            <img src={`/samples/${sample}.webp`} alt="" width={384} height={192} />
            <h3>{title}</h3>
            <p>{about}</p>
            <Button aria-label={`Open ${title}`} disabled={opening !== null} onClick={() => onOpen(sample)}>
              {opening === sample ? 'Opening …' : 'Open'}
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
