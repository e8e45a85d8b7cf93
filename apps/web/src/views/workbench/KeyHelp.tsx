import { Dialog } from '../../ui/Dialog.tsx';
import { KeyCaps } from '../../ui/KeyCap.tsx';
import css from './KeyHelp.module.css';

const GROUPS: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z, Ctrl Y', 'redo'],
      ['Alt 1 … 6', 'go to a stage, in the order of the bill'],
      ['Ctrl K', 'find an action, a slot, a model or a finding'],
      ['?', 'this list'],
    ],
  ],
  [
    'Plan',
    [
      ['↑ ↓', 'the slot above or below; with Shift the selection grows'],
      ['Space', 'take the slot into the selection or out of it'],
      ['1 … 9', 'route the selected slots to that sheet'],
      ['0', 'keep them apart'],
      ['Backspace', 'take their routes away: they are spread by area again'],
      ['Escape', 'select nothing'],
    ],
  ],
  [
    '3D pictures and sheets',
    [
      ['← ↑ → ↓', 'turn the model, move the sheet, or the bays selected by 1 px, 10 with Shift'],
      ['Shift drag, Shift Alt drag', 'select the bays in a box, or in a free line'],
      ['Comma, Period', 'turn the bays selected by a quarter, left and right'],
      ['Ctrl A, Escape', 'select all bays of the sheet, or none'],
      ['+ −', 'nearer and farther'],
      ['F', 'fit into the picture'],
      ['W', 'wireframe (3D)'],
    ],
  ],
  [
    'Faces',
    [
      ['click', 'take what is chosen above the picture: a face, a piece, an island …'],
      ['Shift click, Alt click', 'add it to the selection, take it out'],
    ],
  ],
  [
    'Compare',
    [
      ['V', 'the next way to compare'],
      ['B', 'swap original and result, in blink'],
    ],
  ],
];

/** All keys of the application. */
export function KeyHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog
      open={open}
      title="Shortcuts"
      about="Everything that can be dragged has a key or a field as well."
      onClose={onClose}
    >
      <div className={css.groups}>
        {GROUPS.map(([title, rows]) => (
          <section key={title}>
            <h3>{title}</h3>
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
    </Dialog>
  );
}
