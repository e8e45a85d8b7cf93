import { type FaceDecisions, facesInForce, facesRead } from '@wembrel/core/decisions/face-decisions';
import type { FaceChanges } from '@wembrel/core/faces/apply-faces';
import { hasGrouped } from '@wembrel/core/faces/group-faces';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { SurveyView } from '../../../contract/project.ts';
import type { PreviewAnswer, PreviewRequest } from '../../../workers/preview.worker.ts';

export interface Preview {
  /** Address of the model as the edits leave it; the last one while the next is made. */
  url: string | null;
  changes: FaceChanges | null;
  /** Edits are being applied. */
  busy: boolean;
  took: number | null;
  problem: string | null;
}

/**
 * A model with the present edits of its faces, made in a worker: one sees what a change does at once, and the server follows.
 * @param job survey that the model was read by
 */
export function usePreview(
  survey: SurveyView | undefined,
  job: string,
  modelAt: number,
  faces: FaceDecisions,
): Preview {
  const model = survey?.models[modelAt];
  const base = `/api/jobs/${job}/files/views/`;
  const source = model ? `${base}${model.file}${model.edited ? '.source' : ''}.glb` : null;
  const key = useMemo(() => {
    if (!model) return null;
    const inForce = facesInForce(faces);
    return hasGrouped(model, inForce) ? JSON.stringify(facesRead(faces)) : '';
  }, [model, faces]);
  const [made, setMade] = useState<Omit<Preview, 'busy'> & { of: string }>({
    of: '',
    url: null,
    changes: null,
    took: null,
    problem: null,
  });
  const [busy, setBusy] = useState(false);
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  useEffect(
    () => () => {
      worker.current?.terminate();
      worker.current = null;
    },
    [],
  );
  // A blob is let go when the next one has taken its place.
  useEffect(() => () => (made.url?.startsWith('blob:') ? URL.revokeObjectURL(made.url) : undefined), [made.url]);
  const wanted = source === null || key === null ? null : `${source} ${key}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is wanted says which model and which edits
  useEffect(() => {
    if (!survey || !model || !source || wanted === null) return;
    const id = ++asked.current;
    if (key === '') {
      setBusy(false);
      setMade({ of: wanted, url: source, changes: null, took: null, problem: null });
      return;
    }
    setBusy(true);
    // A run that is overtaken by another change is ended.
    const timer = setTimeout(() => {
      worker.current ??= new Worker(new URL('../../../workers/preview.worker.ts', import.meta.url), { type: 'module' });
      worker.current.onmessage = ({ data }: MessageEvent<PreviewAnswer>) => {
        if (data.id !== asked.current) return;
        setBusy(false);
        if (data.type === 'failed') {
          setMade((m) => ({ ...m, problem: `The changes could not be tried: ${data.message}` }));
          return;
        }
        const url = URL.createObjectURL(new Blob([data.glb], { type: 'model/gltf-binary' }));
        setMade({ of: wanted, url, changes: data.changes, took: data.took, problem: null });
      };
      const elsewhere = survey.slots
        .filter((slot) => slot.model !== modelAt || model.edited)
        .map((slot): [string, string] => {
          const other = survey.models[slot.model];
          // Slots of its own that changes made have their pictures in what was read last.
          const before = other.edited && slot.model !== modelAt ? '.source' : '';
          return [slot.name, `${base}${other.file}${before}.glb`];
        });
      worker.current.postMessage({
        id,
        path: model.path,
        url: source,
        faces: facesInForce(faces),
        elsewhere,
      } satisfies PreviewRequest);
    }, 60);
    return () => clearTimeout(timer);
  }, [wanted]);
  return { ...made, busy };
}
