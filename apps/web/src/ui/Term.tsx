import { createContext, type ReactNode, useContext } from 'react';
import css from './Term.module.css';
import { Tooltip } from './Tooltip.tsx';

/** Meanings by word in lower case; empty outside the workbench. */
export const Glossary = createContext<ReadonlyMap<string, string>>(new Map());

/** What a label means, where it stands in the glossary. */
export const useMeaning = (label: string): string | undefined => useContext(Glossary).get(label.toLowerCase());

export interface TermProps {
  /** The explanation. */
  about: string;
  /** Where it appears, so that it covers nothing that belongs to it. */
  side?: 'top' | 'right';
  children: ReactNode;
}

/** Words that explain themselves on hover and on focus. */
export function Term({ about, side, children }: TermProps) {
  return (
    <Tooltip text={about} side={side}>
      <button type="button" className={css.term}>
        {children}
      </button>
    </Tooltip>
  );
}
