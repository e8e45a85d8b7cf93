import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { expect, test } from 'vitest';
import {
  paintEdit,
  paletteColours,
  recoloured,
  withNewColour,
  withoutColour,
  withPaint,
} from '../src/views/uv/faces/palette-colours.ts';

const gathered = () =>
  FaceDecisions.parse({
    groups: [{ id: 'g1', name: 'Signs', hue: 0, slots: ['Palette'] }],
    edits: [
      {
        kind: 'swatches',
        id: 'e1',
        groups: ['g1'],
        swatches: [
          { slot: 'Signs 1', from: '#aa2222', colour: '#aa2222' },
          { slot: 'Signs 2', from: '#2222aa', colour: '#2222aa', roughness: 0.4 },
        ],
      },
    ],
  });

const slots = (faces: Parameters<typeof paletteColours>[0]) => paletteColours(faces).map((one) => one.slot);

test('a colour that was gathered is painted by hand with the same slot; replaced, it is replaced in both', () => {
  const faces = gathered();
  const [, blue] = paletteColours(faces);
  const { faces: next, paint } = withPaint(faces, blue);
  expect(paint).toMatchObject({ slot: 'Signs 2', colour: '#2222aa', roughness: 0.4, upper: null });
  expect(withPaint(next, blue).paint.id).toBe(paint.id);
  expect(slots(next)).toEqual(['Signs 1', 'Signs 2']);
  const edits = recoloured(next.edits, 'Signs 2', { colour: '#22aaaa' });
  const after = FaceDecisions.parse({ ...next, edits });
  expect(paletteColours(after).map((one) => one.colour)).toEqual(['#aa2222', '#22aaaa']);
  expect(paintEdit(after, 'Signs 2')?.colour).toBe('#22aaaa');
  // A gradient is of what is painted by hand alone.
  const gradient = FaceDecisions.parse({ ...next, edits: recoloured(next.edits, 'Signs 2', { upper: '#ffffff' }) });
  expect(paintEdit(gradient, 'Signs 2')?.upper).toBe('#ffffff');
});

test('new colours are unlike the last ones and have names that nothing has; one that is removed takes its group along', () => {
  let faces: Parameters<typeof withNewColour>[0] = gathered();
  const taken = new Set(['Colour 1', 'Colour 2']);
  for (let i = 0; i < 12; i++) faces = withNewColour(faces, taken).faces;
  const all = FaceDecisions.parse(faces);
  expect(new Set(slots(all)).size).toBe(14);
  expect(slots(all)).not.toContain('Colour 1');
  expect(new Set(paletteColours(all).map((one) => one.colour)).size).toBe(14);
  const less = withoutColour(all, 'Colour 3');
  expect(slots(less)).not.toContain('Colour 3');
  expect(less.groups).toHaveLength(all.groups.length - 1);
  expect(FaceDecisions.safeParse(less).success).toBe(true);
  // What was gathered keeps one colour at least.
  const last = withoutColour(withoutColour(all, 'Signs 1'), 'Signs 2');
  expect(FaceDecisions.safeParse(last).success).toBe(true);
  expect(slots(last)).toContain('Signs 2');
});
