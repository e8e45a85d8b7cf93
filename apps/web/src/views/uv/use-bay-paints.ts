import { useEffect, useRef, useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { modelAddress } from '../../project/model-address.ts';
import type { GatheredIslands } from '../../project/packing/use-islands.ts';
import type { BayPaint, BayPicturesAnswer, BayPicturesRequest } from '../../workers/bay-pictures.worker.ts';

/** Px that the pictures of all materials may have together, and the longest side of one. */
const PIXELS = 64e6;
const LONGEST = 2048;
const NONE: ReadonlyMap<number, BayPaint> = new Map();

/**
 * What fills the bays of a sheet before anything is baked, by material: read in a worker from the models that the 3D picture shows, one after
 * another, once for each sheet that is looked at.
 */
export function useBayPaints(
  project: ProjectView,
  islands: GatheredIslands | null,
  sheet: number,
): { paints: ReadonlyMap<number, BayPaint>; problem: string | null } {
  const [paints, setPaints] = useState(NONE);
  const [problem, setProblem] = useState<string | null>(null);
  const known = useRef<{ islands: GatheredIslands | null; paints: Map<number, BayPaint> }>({
    islands: null,
    paints: new Map(),
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: of the project only the survey's files count, which islands belong to
  useEffect(() => {
    if (known.current.islands !== islands) {
      letGo(known.current.paints);
      known.current = { islands, paints: new Map() };
      setPaints(NONE);
    }
    setProblem(null);
    const { paints: own } = known.current;
    const request = islands && requestOf(project, islands, sheet, own);
    if (!request || request.models.length === 0) return;
    const worker = new Worker(new URL('../../workers/bay-pictures.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<BayPicturesAnswer>) => {
      if ('failed' in data) return setProblem(`A model's pictures cannot be shown: ${data.failed}.`);
      own.set(data.material, data.paint);
      setPaints(new Map(own));
    };
    worker.onerror = (event) => setProblem(`Pictures cannot be shown: ${event.message}`);
    worker.postMessage(request);
    return () => worker.terminate();
  }, [islands, sheet]);
  useEffect(() => () => letGo(known.current.paints), []);
  return { paints, problem };
}

function letGo(paints: ReadonlyMap<number, BayPaint>): void {
  for (const { picture } of paints.values()) picture?.image.close();
}

/** What is still to be read for a sheet: materials by the models that show them. */
function requestOf(
  project: ProjectView,
  { index }: GatheredIslands,
  sheet: number,
  known: ReadonlyMap<number, BayPaint>,
): BayPicturesRequest {
  const models = new Map<string, BayPicturesRequest['models'][number]>();
  const asked = new Set(known.keys());
  for (const { material, islands } of index.sheets[sheet] ?? []) {
    const look = index.looks?.[material];
    if (!look || asked.has(material) || islands.length === 0) continue;
    asked.add(material);
    const [model, part] = islands[0];
    const url = modelAddress(project, model, false);
    if (!url) continue;
    const entry = models.get(url) ?? { url, materials: [] };
    entry.materials.push({ material, part, look });
    models.set(url, entry);
  }
  const pictures = index.looks?.filter((look) => look.picture).length ?? 0;
  return {
    models: [...models.values()],
    side: Math.floor(Math.min(LONGEST, Math.sqrt(PIXELS / Math.max(1, pictures)))),
  };
}
