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

/** What to do where there is nothing yet. @param picture of what will stand here */
export function EmptyState({ title, picture, children }: { title: string; picture?: ReactNode; children: ReactNode }) {
  return (
    <div className={css.empty}>
      {picture}
      <h2>{title}</h2>
      <div className={css.what}>{children}</div>
    </div>
  );
}
