import { awkwardFiles, brokenFiles } from './broken.ts';
import { buildFurniture } from './furniture.ts';

/** All files of the demo, by path. */
export function buildScenario(): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = { 'furniture/stop-furniture.glb': buildFurniture() };
  for (const [name, bytes] of Object.entries(brokenFiles())) out[`broken/${name}`] = bytes;
  for (const [name, bytes] of Object.entries(awkwardFiles())) out[`awkward/${name}`] = bytes;
  return out;
}
