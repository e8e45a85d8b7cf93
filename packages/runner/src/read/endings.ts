import { PICTURE } from '../pictures/kind.ts';

/** Models that are read, by their ending. */
export const MODEL = /\.(glb|gltf|obj|ply|stl)$/i;

/** What lies beside models. */
const SIDE = /\.(bin|mtl)$/i;

/** True for files that a pile may consist of. */
export function isReadable(name: string): boolean {
  return MODEL.test(name) || SIDE.test(name) || PICTURE.test(name);
}
