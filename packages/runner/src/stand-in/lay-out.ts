import type { StandInKind } from '@wembrel/core/decisions/stand-in';
import { InputError, sentence } from '@wembrel/core/errors';
import { surfaceArea, surfaceOf } from '@wembrel/core/mesh/surface';
import { type Model, readModel } from '@wembrel/core/scene/model';
import { addCards, cardScale, cardSides, enlargeCards } from '@wembrel/core/stand-in/cards';
import { meshDocument, smoothWithinCharts } from '@wembrel/core/stand-in/document';
import type { LightMesh } from '@wembrel/core/stand-in/light-mesh';
import { type UnwrapReport, unwrapModel } from '@wembrel/core/unwrap/unwrap';
import { imageKey } from '../read/image-keys.ts';

/** Edges that bend by more always lie on chart borders, where normals part, degrees; of hulls, whose surface is uneven, that would cut too much. */
const HARD_ANGLE = { simplified: 72, hull: 180 };

/** Rounds of packing: a sheet of its own that nothing else shares. */
const EFFORT = 0;

export interface LayOptions {
  /** Side of the sheet, px. */
  size: number;
  as: StandInKind;
  /** How many cards are laid beside it. */
  cards: 0 | 1 | 2;
  /** Gap between charts, px. */
  margin: number;
  cancelled: () => boolean;
  progress: (share: number) => void;
}

/** A stand-in that is unwrapped. */
export interface LaidFlat {
  /** Its first part is the mesh; the second are the cards, if there are any. */
  model: Model;
  report: UnwrapReport;
  /** How far the source reaches before and behind them, m, and their px per metre. */
  cards: { reach: number; density: number } | null;
}

/** Name of the node of cards. */
export const cardName = (name: string): string => `${name}_card`;

/** A mesh as a model with UVs and normals, ready to be baked on. @throws InputError where it cannot be unwrapped */
export function layFlat(name: string, path: string, mesh: LightMesh, options: LayOptions): LaidFlat {
  const document = meshDocument(name, mesh);
  const sides = options.cards > 0 ? cardSides(mesh, options.cards as 1 | 2) : [];
  const scale = cardScale(sides, surfaceArea(surfaceOf(mesh.positions, mesh.indices)));
  if (sides.length > 0) addCards(document, cardName(name), sides, scale);
  const plain = readModel(path, document, imageKey);
  try {
    const report = unwrapModel(plain, {
      method: 'charts',
      axis: 'y',
      stretch: 1.1,
      spread: 1.4,
      cutAngle: HARD_ANGLE[options.as],
      effort: EFFORT,
      seed: 1,
      set: 0,
      together: true,
      slots: [],
      ...options,
    });
    enlargeCards(document, cardName(name), scale);
    smoothWithinCharts(document);
    const cards =
      sides.length > 0
        ? { reach: Math.max(...sides.map((side) => side.reach)), density: report.density * scale }
        : null;
    return { model: readModel(path, document, imageKey), report, cards };
  } catch (error) {
    throw new InputError(path, `its stand-in cannot be unwrapped: ${sentence(error)}`);
  }
}
