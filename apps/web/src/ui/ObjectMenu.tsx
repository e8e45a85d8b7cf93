import { ContextMenu } from 'radix-ui';
import { type ReactElement, useState } from 'react';
import { KeyCaps } from './KeyCap.tsx';
import css from './ObjectMenu.module.css';

/** What can be done to an object, or a line between such things. */
export type MenuEntry =
  | {
      label: string;
      /** Shortcut that does the same. */
      keys?: string;
      /** Why it cannot be done now. */
      disabled?: string;
      run: () => void;
    }
  | 'line';

export interface ObjectMenuProps {
  /** Called with the element under the pointer, or the one with the focus; an empty list opens nothing. */
  entries: (target: HTMLElement) => MenuEntry[];
  /** One element that holds the objects. */
  children: ReactElement;
}

/** The menu of the object under a right click, or of the one with the focus by Shift F10 or the menu key. */
export function ObjectMenu({ entries, children }: ObjectMenuProps) {
  const [shown, setShown] = useState<MenuEntry[]>([]);
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger
        asChild
        onContextMenu={(event) => {
          const found = entries(event.target as HTMLElement);
          setShown(found);
          if (found.length === 0) event.preventDefault();
        }}
      >
        {children}
      </ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={css.menu} collisionPadding={8}>
          {shown.map((entry, i) =>
            entry === 'line' ? (
              // biome-ignore lint/suspicious/noArrayIndexKey: lines have no other name than their place
              <ContextMenu.Separator key={`line ${i}`} className={css.line} />
            ) : (
              <ContextMenu.Item
                key={entry.label}
                className={css.item}
                disabled={entry.disabled !== undefined}
                title={entry.disabled}
                onSelect={entry.run}
              >
                {entry.label}
                {entry.keys && <KeyCaps keys={entry.keys} />}
              </ContextMenu.Item>
            ),
          )}
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

/** The number that an object's element carries, as `data-slot="3"`; null outside of all objects. */
export function objectAt(target: HTMLElement, name: string): number | null {
  const value = target.closest<HTMLElement>(`[data-${name}]`)?.getAttribute(`data-${name}`);
  return value == null ? null : Number(value);
}
