import { useState } from 'react';
import { GLOSSARY } from '../../project/glossary.ts';
import { MANUAL } from '../../project/manual.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { KeyCaps } from '../../ui/KeyCap.tsx';
import { SearchField } from '../../ui/SearchField.tsx';
import { Segments } from '../../ui/Segments.tsx';
import css from './HelpDialog.module.css';
import { SHORTCUTS } from './shortcuts.ts';
import { useGuide } from './use-guide.ts';

const PAGES = [
  { value: 'keys', label: 'shortcuts' },
  { value: 'words', label: 'words' },
  { value: 'manual', label: 'manual' },
] as const;
type HelpPage = (typeof PAGES)[number]['value'];

/** Keys, words and the manual. */
export function HelpDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [page, setPage] = useState<HelpPage>('keys');
  return (
    <Dialog
      open={open}
      title="Help"
      about="Everything that can be dragged has a key or a field as well."
      onClose={onClose}
    >
      <Segments label="Help" value={page} options={[...PAGES]} onChange={setPage} />
      <div className={css.page}>
        {page === 'keys' && <Shortcuts />}
        {page === 'words' && <Words />}
        {page === 'manual' && <Manual />}
      </div>
    </Dialog>
  );
}

function Shortcuts() {
  return (
    <div className={css.groups}>
      {SHORTCUTS.map(([where, rows]) => (
        <section key={where}>
          <h3>{where}</h3>
          <dl>
            {rows.map(([keys, what]) => (
              <div key={keys}>
                <dt>
                  <KeyCaps keys={keys} />
                </dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </div>
  );
}

function Words() {
  const [filter, setFilter] = useState('');
  const words = GLOSSARY.filter((entry) => entry.join(' ').toLowerCase().includes(filter.toLowerCase()));
  return (
    <div className={css.groups}>
      <SearchField label="Only words with" value={filter} onChange={setFilter} />
      <dl>
        {words.map(([word, meaning]) => (
          <div key={word}>
            <dt>{word}</dt>
            <dd>{meaning}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

function Manual() {
  const guide = useGuide();
  return (
    <ul className={css.manual}>
      {MANUAL.map(({ name, title, about }) => (
        <li key={name}>
          <a href={`/manual/${name}`} target="_blank" rel="noreferrer">
            {title}
          </a>{' '}
          {about}
        </li>
      ))}
      <li>
        <Button tone="quiet" onClick={guide.on ? guide.dismiss : guide.show}>
          {guide.on ? 'Hide the guide' : 'Show the guide'}
        </Button>{' '}
        Five steps from files to a delivery, one at a time.
      </li>
    </ul>
  );
}
