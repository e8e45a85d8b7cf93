import type { StandInKind } from '@wembrel/core/decisions/stand-in';
import { InputError, sentence } from '@wembrel/core/errors';
import { type Model, readModel } from '@wembrel/core/scene/model';
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
  /** Gap between charts, px. */
  margin: number;
  cancelled: () => boolean;
  progress: (share: number) => void;
}

/** A mesh as a model with UVs and normals, ready to be baked on. @throws InputError where it cannot be unwrapped */
export function layFlat(
  name: string,
  path: string,
  mesh: LightMesh,
  options: LayOptions,
): { model: Model; report: UnwrapReport } {
  const document = meshDocument(name, mesh);
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
    smoothWithinCharts(document);
    return { model: readModel(path, document, imageKey), report };
  } catch (error) {
    throw new InputError(path, `its stand-in cannot be unwrapped: ${sentence(error)}`);
  }
}
