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
  change: (label: string, next: Partial<FaceDecisions>) => void;
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
    const { faces: with_, paint: edit } = withPaint(faces, colour);
    let { groups } = with_;
    const [group] = edit.groups;
    groups = regrouped(groups, group, model.path, table, set, how);
    if (everywhere && clicked) {
      const part = table.starts.findLastIndex((start) => start <= clicked.face);
      const like = model.parts[part];
      const same = (other: typeof like) =>
        clicked.take === 'part' ? other.name === like.name : clicked.take === 'slot' && other.slot === like.slot;
      survey.models.forEach((other, i) => {
        if (i === modelAt || !other.parts.some(same)) return;
        const { numbering, chosen } = wholeParts(other.parts, same);
        groups = regrouped(groups, group, other.path, numbering, chosen, how);
      });
    }
    const label = how === 'in' ? `Paint with ${colour.slot}` : `Take ${colour.slot} away`;
    change(label, { groups, edits: with_.edits });
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
      const { faces: next, slot } = withNewColour(faces, taken);
      change(`Colour ${slot}`, next);
      setBrush(slot);
    },
    recolour: (slot: string, label: string, part: Partial<PaletteColour>) => {
      // A gradient needs a change of its own: what was gathered has one colour each.
      const known = colours.find((one) => one.slot === slot);
      const from = part.upper && known ? withPaint(faces, known).faces : faces;
      change(label, { groups: from.groups, edits: recoloured(from.edits, slot, part) });
    },
    remove: (slot: string) => {
      change(`Remove colour ${slot}`, withoutColour(faces, slot));
      setBrush(null);
    },
  };
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
