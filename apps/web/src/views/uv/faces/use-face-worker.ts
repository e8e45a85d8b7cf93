import { useCallback, useEffect, useRef } from 'react';
import type { ModelReader } from '../../../stage/model-stage.ts';
import type { FacesAnswer, FacesRequest } from '../../../workers/faces.worker.ts';
import type { FaceTable } from './face-table.ts';

type Question = Extract<FacesRequest, { id: number }>;
type Asked = Question extends infer Q ? (Q extends { id: number } ? Omit<Q, 'id'> : never) : never;

/**
 * A worker that knows how the faces of a table hang together.
 * @param path of the model; the same one loaded again keeps the numbers of its faces, so answers that are on their way still hold
 * @returns asks which faces something takes; answers about another model than the present one never come
 */
export function useFaceWorker(
  path: string,
  table: FaceTable | null,
  model: ModelReader | null,
  hidden: Uint8Array | null,
): (q: Asked) => Promise<FacesAnswer> {
  const worker = useRef<Worker | null>(null);
  const waiting = useRef(new Map<number, (a: FacesAnswer) => void>());
  const count = useRef(0);
  const sent = useRef(new Set<number>());
  useEffect(() => {
    const w = new Worker(new URL('../../../workers/faces.worker.ts', import.meta.url), { type: 'module' });
    w.onmessage = ({ data }: MessageEvent<FacesAnswer>) => {
      waiting.current.get(data.id)?.(data);
      waiting.current.delete(data.id);
    };
    worker.current = w;
    return () => {
      w.terminate();
      worker.current = null;
    };
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another model makes what was asked about the former one void
  useEffect(() => waiting.current.clear(), [path]);
  useEffect(() => {
    if (!table) return;
    const { positions, bodies, indices, uv, slots, starts } = table;
    sent.current.clear();
    worker.current?.postMessage({
      type: 'load',
      positions,
      bodies,
      indices,
      uv,
      slots,
      starts,
    } satisfies FacesRequest);
  }, [table]);
  // After what is loaded: a newly loaded model gets it as well.
  useEffect(() => {
    if (table) worker.current?.postMessage({ type: 'hide', hidden } satisfies FacesRequest);
  }, [table, hidden]);
  return useCallback(
    (q) => {
      if (q.type === 'take' && q.how === 'colour' && table && model) {
        const slot = table.slots[q.face];
        const picture = sent.current.has(slot) ? null : pixelsOf(model, slot);
        sent.current.add(slot);
        if (picture) worker.current?.postMessage({ type: 'picture', slot, picture } satisfies FacesRequest);
      }
      const id = ++count.current;
      return new Promise((answer) => {
        waiting.current.set(id, answer);
        worker.current?.postMessage({ ...q, id } as FacesRequest);
      });
    },
    [table, model],
  );
}

/** Pixels of a slot's base colour, or null without a picture. */
function pixelsOf(model: ModelReader, slot: number): ImageData | null {
  const image = model.picture(slot);
  if (!image) return null;
  const canvas = document.createElement('canvas');
  canvas.width = image.width;
  canvas.height = image.height;
  const context = canvas.getContext('2d', { willReadFrequently: true });
  context?.drawImage(image, 0, 0);
  return context?.getImageData(0, 0, image.width, image.height) ?? null;
}
