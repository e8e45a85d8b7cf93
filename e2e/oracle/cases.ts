import { AWKWARD } from '@wembrel/demo/awkward/awkward';
import { sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { kept } from '../../packages/demo/test/kept.ts';

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
  { name: 'furniture', build: () => kept(buildFurniture, 0.25), options: [] },
  { name: 'two slots of one mesh', build: () => sign({ names: ['Front', 'Back'] }).glb(), options: [] },
];

/** What the tests look at every time: those in which most has to be right. */
export const FEW: OracleCase[] = [
  DEMO[0],
  ...awkward([
    'nearest-sampling.glb',
    'large-smooth-island-on-an-almost-empty-picture.glb',
    'maps-of-different-sizes.glb',
    'mirrored-node-with-tangents.glb',
    'turned-transform.glb',
    'animated-skin-and-morph.glb',
  ]),
];

/** Why rows of a model may be short of their bound. */
export const EXPLAINED: Readonly<Record<string, string>> = {
  'normals-of-no-length.glb':
    'the original has no normals, so that its truth is black; the result got some, as for every such source',
  'normal-map-without-tangents.glb':
    'at 512 px, in the normal channel alone and from near, 0.4 dB are missing, at 256 px none; its normal map holds the values of the source to half a step of 8 bits, and where the rest comes from was not found',
  'one-island-far-larger-than-the-others.glb':
    'from afar its levels of detail above 2 are drawn; bays stand on a lattice of 4 texels, which keeps levels 0 to 2 those of the source and no others (a margin of 48 px changes nothing)',
};

/** The demo and the whole corpus. */
export const EVERYTHING: OracleCase[] = [...DEMO, ...awkward(null)];
