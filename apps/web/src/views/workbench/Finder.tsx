import { Command } from 'cmdk';
import { Dialog as Radix } from 'radix-ui';
import { useMemo, useState } from 'react';
import { KeyCaps } from '../../ui/KeyCap.tsx';
import css from './Finder.module.css';
import { type FinderEntry, found } from './finder-entries.ts';

/** A line to type into, and below it whatever fits: actions, findings, models, slots. */
export function Finder({ entries, onClose }: { entries: readonly FinderEntry[]; onClose: () => void }) {
  const [typed, setTyped] = useState('');
  const shown = useMemo(() => found(entries, typed), [entries, typed]);
  const groups = [...new Set(shown.map((entry) => entry.group))];
  return (
    <Radix.Root open onOpenChange={(open) => !open && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className={css.overlay} />
        <Radix.Content className={css.box} aria-describedby={undefined}>
          <Radix.Title className={css.title}>Find</Radix.Title>
          <Command label="Find" shouldFilter={false} loop>
            <Command.Input
              className={css.input}
              value={typed}
              onValueChange={setTyped}
              placeholder="An action, a slot, a model or a finding"
            />
            <Command.List className={css.list}>
              <Command.Empty className={css.empty}>No match</Command.Empty>
              {groups.map((group) => (
                <Command.Group key={group} heading={group} className={css.group}>
                  {shown
                    .filter((entry) => entry.group === group)
                    .map((entry) => (
                      <Command.Item
                        key={entry.id}
                        value={entry.id}
                        className={css.item}
                        onSelect={() => {
                          onClose();
                          entry.run();
                        }}
                      >
                        <span className={css.text}>{entry.text}</span>
                        {entry.note && <span className={css.note}>{entry.note}</span>}
                        {entry.keys && <KeyCaps keys={entry.keys} />}
                      </Command.Item>
                    ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
