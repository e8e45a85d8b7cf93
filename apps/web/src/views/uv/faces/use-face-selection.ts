import { inverted } from '@wembrel/core/select/faces';
import type { ProjectedPart } from '@wembrel/core/select/outline';
import { randomShare } from '@wembrel/core/select/quads';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { ModelReader } from '../../../stage/model-stage.ts';
import type { DrawnOutline } from '../../../stage/use-outline.ts';
import type { FacesAnswer, Take } from '../../../workers/faces.worker.ts';
import { type Combine, combined, visible } from './combine-faces.ts';
import type { FaceTable } from './face-table.ts';
import { OrderedChanges } from './ordered-changes.ts';
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

export type FaceSelection = ReturnType<typeof useFaceSelection>;

const NONE = new Uint8Array(0);
const ONLY: Combine = { add: false, remove: false };

/**
 * Faces of a model that are selected and that are hidden, and all that selects. What is hidden is never selected, whatever is asked for.
 * @param path of the model; another one begins again
 */
export function useFaceSelection(path: string, table: FaceTable | null, reader: ModelReader | null) {
  const faces = table?.faces ?? 0;
  const { set, changes, hidden, hiddenNow, hideFaces, showAll } = useFaceSets(path, faces);
  const [take, setTake] = useState<HowToTake>({ how: 'face', degrees: 5, range: 4, quads: false, through: false });
  const [took, setTook] = useState<number | null>(null);
  const [partner, setPartner] = useState<Int32Array | null>(null);
  const ask = useFaceWorker(path, table, reader, hidden);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is hidden is in no quad
  useEffect(() => {
    setPartner(null);
    if (take.quads && table) void ask({ type: 'quads' }).then((answer) => setPartner(answer.partner ?? null));
  }, [take.quads, table, hidden, ask]);

  const selected = useMemo(() => (table && set.length === table.faces ? set : null), [table, set]);
  const combine = useCallback(
    (next: Uint8Array | Promise<Uint8Array | null>, how: Combine = ONLY) => {
      const joined = (old: Uint8Array, set: Uint8Array | null) =>
        set ? combined(old, visible(set, hiddenNow.current), how) : old;
      changes.change((old) => (next instanceof Promise ? next.then((set) => joined(old, set)) : joined(old, next)));
    },
    [hiddenNow, changes],
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
  const ring = (type: 'grow' | 'shrink') =>
    changes.change((now) => ask({ type, set: now, quads: take.quads }).then((answer) => answer.set));
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
    invert: () => changes.change((now) => visible(inverted(now), hiddenNow.current)),
    all: () => combine(new Uint8Array(faces).fill(1)),
    none: () => changes.change((now) => new Uint8Array(now.length)),
    share: (share: number) => changes.change((now) => randomShare(now, share, 1, partner)),
    hide: () =>
      changes.change((now) => {
        hideFaces(now.map((v, f) => v | (hiddenNow.current?.[f] ?? 0)));
        return new Uint8Array(now.length);
      }),
    hideOthers: () =>
      changes.change((now) => {
        hideFaces(inverted(now));
        return now;
      }),
    showAll,
  };
}

/** The faces that are selected and hidden, by one byte a face; those of another model begin again. */
function useFaceSets(path: string, faces: number) {
  const [set, setSet] = useState<Uint8Array>(NONE);
  // The worker answers when it can; what is selected by a button meanwhile comes after what was drawn before it.
  const made = useRef<OrderedChanges<Uint8Array>>(undefined);
  made.current ??= new OrderedChanges<Uint8Array>(NONE, setSet);
  const changes = made.current;
  const [hidden, setHidden] = useState<Uint8Array | null>(null);
  // As it is when a change takes its turn, which may be after something was hidden.
  const hiddenNow = useRef(hidden);
  hiddenNow.current = hidden;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another model begins again, the same one read again does not
  useEffect(() => {
    changes.restart(NONE);
    setHidden(null);
  }, [path]);
  useEffect(() => {
    if (faces === 0) return;
    changes.change((old) => (old.length === faces ? old : new Uint8Array(faces)));
    setHidden((old) => (old && old.length !== faces ? null : old));
  }, [faces, changes]);
  const hideFaces = (next: Uint8Array) => {
    hiddenNow.current = next;
    setHidden(next);
  };
  return { set, changes, hidden, hiddenNow, hideFaces, showAll: () => setHidden(null) };
}

/** Triangles as they are seen in the 3D picture, with the faces that they are. */
function seenParts(table: FaceTable, reader: ModelReader): ProjectedPart[] {
  const facesOf = new Map(table.shown.map((one) => [one.part, one.faces]));
  return reader.projected().map(({ part, triangles, ...rest }) => {
    const own = facesOf.get(part);
    return { ...rest, faces: triangles.map((triangle) => own?.[triangle] ?? 0) };
  });
}
