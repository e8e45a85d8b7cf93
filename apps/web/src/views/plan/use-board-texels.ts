import { useEffect, useState } from 'react';
import type { SurveyView } from '../../contract/project.ts';
import type { GatheredIslands } from '../../project/packing/use-islands.ts';
import type { BayPaint, BayPicturesAnswer, BayPicturesRequest } from '../../workers/bay-pictures.worker.ts';

/** Longest side of a picture on the board, px: that of the survey's small pictures. */
const SIDE = 96;
type BoardPictures = NonNullable<BayPicturesRequest['pictures']>;

const NONE: ReadonlyMap<number, BayPaint> = new Map();

/** What is to be read so that bays show their texels, small: of each material the survey's picture of its base colour. */
export function boardPictures(
  survey: Pick<SurveyView, 'slots'>,
  surveyJob: string,
  { sheets, looks }: GatheredIslands['index'],
): BoardPictures {
  const asked = new Set<number>();
  return sheets.flat().flatMap(({ material, islands }): BoardPictures => {
    const look = looks?.[material];
    if (!look || asked.has(material) || islands.length === 0) return [];
    asked.add(material);
    const [model, part] = islands[0];
    const slot = survey.slots.find(
      (one) => one.model === model && one.parts.some((partFacts) => partFacts.part === part),
    );
    const key = slot?.images.baseColor;
    if (!look.picture || !key) return [{ url: null, material, look: { ...look, picture: null } }];
    return [{ url: `/api/jobs/${surveyJob}/files/thumbs/${key}.png`, material, look }];
  });
}

/** What fills the bays of all sheets on the board, by material; empty until it is read. */
export function useBoardTexels(
  survey: SurveyView | null,
  surveyJob: string | null,
  islands: GatheredIslands | null,
): ReadonlyMap<number, BayPaint> {
  const [paints, setPaints] = useState(NONE);
  useEffect(() => {
    if (!survey || !surveyJob || !islands) return;
    const own = new Map<number, BayPaint>();
    const worker = new Worker(new URL('../../workers/bay-pictures.worker.ts', import.meta.url), { type: 'module' });
    // What cannot be read stays a plain box.
    worker.onmessage = ({ data }: MessageEvent<BayPicturesAnswer>) => {
      if ('failed' in data) return;
      own.set(data.material, data.paint);
      setPaints(new Map(own));
    };
    const pictures = boardPictures(survey, surveyJob, islands.index);
    worker.postMessage({ models: [], pictures, side: SIDE } satisfies BayPicturesRequest);
    return () => {
      worker.terminate();
      setPaints(NONE);
      for (const { picture } of own.values()) picture?.image.close();
    };
  }, [survey, surveyJob, islands]);
  return paints;
}
