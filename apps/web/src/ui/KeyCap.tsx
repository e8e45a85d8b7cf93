import type { ReactNode } from 'react';
import css from './KeyCap.module.css';

/** One key as it looks on the keyboard. */
export const KeyCap = ({ children }: { children: ReactNode }) => <kbd className={css.cap}>{children}</kbd>;

/** Words that stand between keys. */
const BETWEEN = new Set(['…', 'drag', 'click']);

/**
 * A shortcut as key caps.
 * @param keys keys of one shortcut apart by spaces, several shortcuts by ", ", as "Ctrl Shift Z, Ctrl Y"
 */
export function KeyCaps({ keys }: { keys: string }) {
  return (
    <span className={css.keys}>
      {keys.split(', ').map((shortcut, i) => (
        <span key={shortcut}>
          {i > 0 && <span className={css.or}>or</span>}
          {shortcut
            .split(' ')
            .map((key) => (BETWEEN.has(key) ? <span key={key}>{key}</span> : <KeyCap key={key}>{key}</KeyCap>))}
        </span>
      ))}
    </span>
  );
}
