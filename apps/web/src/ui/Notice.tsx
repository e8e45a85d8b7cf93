import type { ReactNode } from 'react';
import css from './Notice.module.css';

/** A fault in place: what is wrong and what to do. */
export function ErrorLine({ children }: { children: ReactNode }) {
  return (
    <p className={css.error} role="alert">
      {children}
    </p>
  );
}

/** What to do where there is nothing yet. */
export function EmptyState({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className={css.empty}>
      <h2>{title}</h2>
      <div>{children}</div>
    </div>
  );
}
