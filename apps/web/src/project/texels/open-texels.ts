import { create } from 'zustand';
import type { TexelKind } from '../../workers/texel-values.ts';
import type { TexelSource } from '../../workers/texels.worker.ts';

/** A picture to be looked at texel by texel. */
export interface TexelPicture {
  /** What it is called in the window's head. */
  title: string;
  source: TexelSource;
  kind: TexelKind;
  /** What lies at a texel of the full size: its slot, say. */
  placeAt?: (x: number, y: number) => string | null;
}

interface OpenTexels {
  picture: TexelPicture | null;
}

/** The picture that is looked at texel by texel, if any. */
export const useOpenTexels = create<OpenTexels>(() => ({ picture: null }));

export const openTexels = (picture: TexelPicture) => useOpenTexels.setState({ picture });
export const closeTexels = () => useOpenTexels.setState({ picture: null });
