/** All keys of the application, by where they work. */
export const SHORTCUTS: readonly (readonly [
  where: string,
  rows: readonly (readonly [keys: string, what: string])[],
])[] = [
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
    'Recipe',
    [
      ['Alt ↑, Alt ↓', 'the line earlier or later'],
      ['O', 'leave the line out, or take it in again'],
      ['A', 'the line alone, or all of them'],
      ['Delete', 'remove the line, or all that are selected'],
      ['← →', 'change a number; with Shift ten times as far; Enter types it'],
      ['B, held', 'what is there without the recipe'],
      ['Enter', 'in the picture: see through its middle, mark it, or put the decal there'],
      ['[ ]', 'a smaller or larger radius of what is marked'],
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
