import { useEffect, useRef, useState } from 'react';
import type { ShownChannels } from '../../workers/texel-picture.ts';
import type { TexelKind, TexelLevel } from '../../workers/texel-values.ts';
import type { TexelAnswer, TexelRequest, TexelSource } from '../../workers/texels.worker.ts';

/** A picture that was opened. */
export interface OpenedPicture {
  width: number;
  height: number;
  bits: number;
  levels: number;
}

interface Wanted {
  source: TexelSource;
  kind: TexelKind;
  level: number;
  shown: ShownChannels;
  engine: boolean;
}

/** Decodes a picture in a worker of its own, and makes what is wanted of it; the last one stays until the next is there. */
export function useTexels({ source, kind, level, shown, engine }: Wanted) {
  const worker = useRef<Worker | null>(null);
  const number = useRef(0);
  const [opened, setOpened] = useState<OpenedPicture | null>(null);
  const [drawn, setDrawn] = useState<{ texels: TexelLevel; bitmap: ImageBitmap } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { url, texture } = source;

  useEffect(() => {
    const own = new Worker(new URL('../../workers/texels.worker.ts', import.meta.url), { type: 'module' });
    worker.current = own;
    own.onmessage = ({ data }: MessageEvent<TexelAnswer>) => {
      if ('failed' in data) setProblem(data.failed);
      else if ('opened' in data) setOpened(data.opened);
      else if (data.number === number.current) setDrawn({ texels: data.texels, bitmap: data.bitmap });
    };
    own.onerror = () => setProblem('its worker ended');
    setOpened(null);
    setDrawn(null);
    setProblem(null);
    own.postMessage({ open: { url, texture }, kind } satisfies TexelRequest);
    return () => own.terminate();
  }, [url, texture, kind]);

  useEffect(() => {
    if (!opened) return;
    number.current++;
    worker.current?.postMessage({ number: number.current, level, shown, engine } satisfies TexelRequest);
  }, [opened, level, shown, engine]);

  return { opened, drawn, problem };
}
