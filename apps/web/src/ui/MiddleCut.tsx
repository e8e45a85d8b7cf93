import css from './MiddleCut.module.css';

/** Names up to this many characters are cut at their end, if at all. */
const SHORT = 22;
/** Characters at the end that stay in sight: endings tell files, numbers and sides apart. */
const TAIL = 10;

/**
 * A name on one line: a long one loses its middle where there is no room, and says the whole on hover. It takes the room that its
 * parent gives it; the parent needs a width.
 */
export function MiddleCut({ text }: { text: string }) {
  const letters = Array.from(text);
  if (letters.length <= SHORT)
    return (
      <span className={css.whole} title={text}>
        {text}
      </span>
    );
  return (
    <span className={css.cut} title={text}>
      <span className={css.said}>{text}</span>
      <span className={css.head} aria-hidden>
        {letters.slice(0, -TAIL).join('')}
      </span>
      <span className={css.tail} aria-hidden>
        {letters.slice(-TAIL).join('')}
      </span>
    </span>
  );
}
