import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { useState } from 'react';
import type { SurveyView } from '../../../contract/project.ts';
import type { Take } from '../../../workers/faces.worker.ts';
import { type FaceTable, type Numbering, regrouped } from './face-table.ts';
import {
  type PaletteColour,
  paintEdit,
  paletteColours,
  recoloured,
  withNewColour,
  withoutColour,
  withPaint,
} from './palette-colours.ts';

interface Scene {
  faces: FaceDecisions;
  survey: SurveyView | undefined;
  modelAt: number;
  table: FaceTable | null;
  change: (label: string, next: (now: FaceDecisions) => Partial<FaceDecisions>) => void;
}

/** Painting from a palette: a colour is chosen once, and what is clicked gets it. */
export function usePainting({ faces, survey, modelAt, table, change }: Scene) {
  const [brush, setBrush] = useState<string | null>(null);
  const [everywhere, setEverywhere] = useState(false);
  const colours = paletteColours(faces);
  const colour = colours.find((one) => one.slot === brush) ?? null;
  /** Paints faces of the model in sight, or takes the colour away from them. @param face that was clicked, with what it took; null for boxes and lines */
  const paint = (set: Uint8Array, how: 'in' | 'out', clicked: { face: number; take: Take } | null) => {
    const model = survey?.models[modelAt];
    if (!colour || !table || !model || !set.includes(1)) return;
    const label = how === 'in' ? `Paint with ${colour.slot}` : `Take ${colour.slot} away`;
    // On what is decided by then: the next click may come before this one is taken.
    change(label, (now) => {
      const { faces: prepared, paint: edit } = withPaint(now, colour);
      const [group] = edit.groups;
      let groups = regrouped(prepared.groups, group, model.path, table, set, how);
      const alike = everywhere && clicked ? partsAlike(survey, modelAt, table, clicked) : [];
      for (const { path, numbering, chosen } of alike) groups = regrouped(groups, group, path, numbering, chosen, how);
      return { groups, edits: prepared.edits };
    });
  };
  return {
    colours,
    colour,
    brush: colour?.slot ?? null,
    setBrush,
    everywhere,
    setEverywhere,
    paint,
    group: colour ? (paintEdit(faces, colour.slot)?.groups[0] ?? null) : null,
    add: () => {
      const taken = new Set(survey?.slots.map((slot) => slot.name));
      const { slot } = withNewColour(faces, taken);
      change(`Colour ${slot}`, (now) => withNewColour(now, taken).faces);
      setBrush(slot);
    },
    recolour: (slot: string, label: string, part: Partial<PaletteColour>) => {
      // A gradient needs a change of its own: what was gathered has one colour each.
      const known = colours.find((one) => one.slot === slot);
      change(label, (now) => {
        const from = part.upper && known ? withPaint(now, known).faces : now;
        return { groups: from.groups, edits: recoloured(from.edits, slot, part) };
      });
    },
    remove: (slot: string) => {
      change(`Remove colour ${slot}`, (now) => withoutColour(now, slot));
      setBrush(null);
    },
  };
}

interface AlikeParts {
  path: string;
  numbering: Numbering;
  chosen: Uint8Array;
}

/** Whole parts of other models that have the name, or the slot, of the part that was clicked. */
function partsAlike(
  survey: SurveyView,
  modelAt: number,
  table: FaceTable,
  { face, take }: { face: number; take: Take },
): AlikeParts[] {
  const clicked = survey.models[modelAt].parts[table.starts.findLastIndex((start) => start <= face)];
  const same = (other: typeof clicked) =>
    take === 'part' ? other.name === clicked.name : take === 'slot' && other.slot === clicked.slot;
  return survey.models.flatMap(({ path, parts }, i) =>
    i === modelAt || !parts.some(same) ? [] : [{ path, ...wholeParts(parts, same) }],
  );
}

/** Faces of the parts for which something holds, numbered as in their model. */
function wholeParts<P extends { faces: number }>(
  parts: readonly P[],
  wanted: (part: P) => boolean,
): { numbering: Numbering; chosen: Uint8Array } {
  const starts: number[] = [];
  let faces = 0;
  for (const part of parts) {
    starts.push(faces);
    faces += part.faces;
  }
  const chosen = new Uint8Array(faces);
  parts.forEach((part, i) => {
    if (wanted(part)) chosen.fill(1, starts[i], starts[i] + part.faces);
  });
  return { numbering: { starts, faces }, chosen };
}
