import { useQuery } from '@tanstack/react-query';
import type { ReadFileView, SourceView } from '../../contract/project.ts';
import type { Live } from '../../project/api.ts';
import { call } from '../../project/call.ts';
import { bytes, count, counted } from '../../ui/format.ts';
import css from './ReadingShelf.module.css';
import { type ReadingCard, readingCards, readingTotals } from './reading-cards.ts';
import shelf from './Shelf.module.css';

/** Models while their files are read: each stands there as soon as it was, with its picture and its figures; the others keep their places. */
export function ReadingShelf({
  job,
  sources,
  live,
}: {
  job: string;
  sources: readonly SourceView[];
  live: Live | undefined;
}) {
  const known = useQuery({
    queryKey: ['read', job],
    // Once, for what was read before the page began to listen.
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => call<ReadFileView[]>(`/api/jobs/${job}/read`),
  });
  const cards = readingCards(sources, known.data ?? [], live?.read ?? []);
  const sums = readingTotals(cards);
  return (
    <section className={css.reading} aria-label="Models as they are read">
      <p className={css.sums} role="status">
        <b>
          {count(sums.files)} of {count(cards.length)}
        </b>{' '}
        read so far: {counted(sums.drawCalls, 'draw call')}, {counted(sums.slots, 'slot')},{' '}
        {counted(sums.triangles, 'triangle')}, {bytes(sums.textureBytes)} of textures
      </p>
      <ul className={shelf.rows}>
        {cards.map((card) => (
          <li key={card.path} className={css.card}>
            <Card job={job} card={card} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function Card({ job, card: { path, read } }: { job: string; card: ReadingCard }) {
  const name = (
    <span className={shelf.name} title={path}>
      {path.split('/').pop()}
    </span>
  );
  if (!read)
    return (
      <>
        <span className={`${shelf.picture} ${css.waiting}`} />
        <span className={shelf.line} />
        <span className={shelf.figure}>
          <em>not read yet</em>
        </span>
        {name}
      </>
    );
  return (
    <>
      <span className={shelf.picture}>
        {read.problem === null && <img src={`/api/jobs/${job}/read/${read.file}`} alt="" />}
      </span>
      <span className={shelf.line} />
      <span className={shelf.figure}>
        {read.problem === null ? (
          <>
            {count(read.drawCalls)} <em>{read.drawCalls === 1 ? 'draw call' : 'draw calls'}</em>
          </>
        ) : (
          <em className={css.problem} title={read.problem}>
            cannot be read
          </em>
        )}
      </span>
      {name}
    </>
  );
}
