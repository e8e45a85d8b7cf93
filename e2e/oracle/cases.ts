import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';

/** A model that is merged and held against itself. */
export interface OracleCase {
  name: string;
  build: () => Uint8Array;
  /** Options of the merge. */
  options: string[];
}

/** Merged whatever it gains, so that what the merge does is seen. */
const ALL = ['--all'];

const awkward = (names: readonly string[] | null): OracleCase[] =>
  AWKWARD.filter(({ name, expected }) => expected.kind !== 'refused' && (names === null || names.includes(name))).map(
    ({ name, build }) => ({ name, build, options: ALL }),
  );

const DEMO: OracleCase[] = [
  { name: 'furniture', build: () => buildFurniture(0.25), options: [] },
  { name: 'two slots of one mesh', build: () => sign({ names: ['Front', 'Back'] }).glb(), options: [] },
];

/**
 * What the tests look at every time. Small pictures whose islands end inside them are not among it yet: their edges are filled, where the original blends
 * with its next texel, which costs 1 to 4 dB up close.
 */
export const FEW: OracleCase[] = [
  DEMO[0],
  ...awkward(['nearest-sampling.glb', 'large-smooth-island-on-an-almost-empty-picture.glb']),
];

/** The demo and the whole corpus. */
export const EVERYTHING: OracleCase[] = [...DEMO, ...awkward(null)];
