import { inverted } from '@wembrel/core/select/faces';
import type { ProjectedPart } from '@wembrel/core/select/outline';
import { randomShare } from '@wembrel/core/select/quads';
import { useCallback, useEffect, useMemo, useState } from 'react';
import type { ModelReader } from '../../../stage/model-stage.ts';
import type { DrawnOutline } from '../../../stage/use-outline.ts';
import type { FacesAnswer, Take } from '../../../workers/faces.worker.ts';
import type { FaceTable } from './face-table.ts';
import { useFaceWorker } from './use-face-worker.ts';

/** How faces are taken with the mouse. */
export interface HowToTake {
  how: Take;
  /** Of `flat`. */
  degrees: number;
  /** Of `colour`, ΔE OK × 100. */
  range: number;
  /** Both halves of a quad at once. */
  quads: boolean;
  /** Boxes and lines also take what lies behind something else. */
  through: boolean;
}

/** What a click with keys does to what is selected. */
export interface Combine {
  add: boolean;
  remove: boolean;
}

export type FaceSelection = ReturnType<typeof useFaceSelection>;

const NONE = new Uint8Array(0);
const ONLY: Combine = { add: false, remove: false };

/**
 * Faces of a model that are selected and that are hidden, and all that selects. What is hidden is never selected, whatever is asked for.
 * @param path of the model; another one begins again
 */
export function useFaceSelection(path: string, table: FaceTable | null, reader: ModelReader | null) {
  const [set, setSet] = useState<Uint8Array>(NONE);
  const [hidden, setHidden] = useState<Uint8Array | null>(null);
  const [take, setTake] = useState<HowToTake>({ how: 'face', degrees: 5, range: 4, quads: false, through: false });
  const [took, setTook] = useState<number | null>(null);
  const [partner, setPartner] = useState<Int32Array | null>(null);
  const ask = useFaceWorker(path, table, reader, hidden);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another model begins again, the same one read again does not
  useEffect(() => {
    setSet(NONE);
    setHidden(null);
  }, [path]);
  const faces = table?.faces ?? 0;
  useEffect(() => {
    if (faces === 0) return;
    setSet((old) => (old.length === faces ? old : new Uint8Array(faces)));
    setHidden((old) => (old && old.length !== faces ? null : old));
  }, [faces]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is hidden is in no quad
  useEffect(() => {
    setPartner(null);
    if (take.quads && table) void ask({ type: 'quads' }).then((answer) => setPartner(answer.partner ?? null));
  }, [take.quads, table, hidden, ask]);

  const selected = useMemo(() => (table && set.length === table.faces ? set : null), [table, set]);
  const shown = useCallback((next: Uint8Array) => (hidden ? next.map((v, f) => v & ~hidden[f] & 1) : next), [hidden]);
  const combine = useCallback(
    (next: Uint8Array, how: Combine = ONLY) => {
      const visible = shown(next);
      setSet((old) => {
        if (old.length !== visible.length || (!how.add && !how.remove)) return visible;
        return visible.map((v, i) => (how.remove ? old[i] & ~v & 1 : old[i] | v));
      });
    },
    [shown],
  );
  const told = useCallback((answer: FacesAnswer) => {
    setTook(answer.took);
    return answer.set;
  }, []);
  /** Faces that a click on one takes. @param how as the tools say, where it is null */
  const taken = useCallback(
    async (face: number, side: number, how: Take | null = null): Promise<Uint8Array> => {
      const { degrees, range, quads } = take;
      return told(await ask({ type: 'take', how: how ?? take.how, face, side, degrees, range, quads }));
    },
    [ask, take, told],
  );
  /** Faces within what was drawn over the 3D picture, or over another one. @param flat how faces lie in that */
  const outlined = useCallback(
    async ({ kind, points }: DrawnOutline, flat?: ProjectedPart): Promise<Uint8Array | null> => {
      if (!table || !reader) return null;
      const parts = flat ? [flat] : seenParts(table, reader);
      const through = take.through || flat !== undefined;
      const choice = { outline: points, take: kind === 'box' ? 'touched' : 'inside', through } as const;
      return told(await ask({ type: 'outline', parts, choice, quads: take.quads }));
    },
    [table, reader, ask, take, told],
  );
  const ring = (type: 'grow' | 'shrink') => {
    if (selected) void ask({ type, set: selected, quads: take.quads }).then((answer) => setSet(answer.set));
  };
  return {
    selected,
    hidden,
    take,
    setTake,
    took,
    partner,
    combine,
    taken,
    outlined,
    grow: () => ring('grow'),
    shrink: () => ring('shrink'),
    invert: () => selected && combine(inverted(selected)),
    all: () => combine(new Uint8Array(faces).fill(1)),
    none: () => setSet(new Uint8Array(faces)),
    share: (share: number) => selected && setSet(randomShare(selected, share, 1, partner)),
    hide: () => {
      if (!selected) return;
      setHidden((old) => selected.map((v, f) => v | (old?.[f] ?? 0)));
      setSet(new Uint8Array(selected.length));
    },
    hideOthers: () => selected && setHidden(inverted(selected)),
    showAll: () => setHidden(null),
  };
}

/** Triangles as they are seen in the 3D picture, with the faces that they are. */
function seenParts(table: FaceTable, reader: ModelReader): ProjectedPart[] {
  const facesOf = new Map(table.shown.map((one) => [one.part, one.faces]));
  return reader.projected().map(({ part, triangles, ...rest }) => {
    const own = facesOf.get(part);
    return { ...rest, faces: triangles.map((t) => own?.[t] ?? 0) };
  });
}
