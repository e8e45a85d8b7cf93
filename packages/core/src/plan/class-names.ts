/** What a key of `classKey` is made of. */
export type ClassKeyParts = [
  alphaMode: 'OPAQUE' | 'MASK' | 'BLEND',
  cutoff: number,
  doubleSided: boolean,
  unlit: boolean,
  sampler?: [filter: 'nearest' | 'linear', mips: 'mips' | 'no mips'],
];

/** Words for what sets an output class apart from the others of a delivery, as an ending of the material's name; see `classKey`. */
export function classSuffix(key: string, all: readonly string[]): string {
  if (all.length === 1) return '';
  const [alphaMode, cutoff, doubleSided, unlit, sampler] = JSON.parse(key) as ClassKeyParts;
  const words = [{ OPAQUE: 'opaque', MASK: 'tested', BLEND: 'blended' }[alphaMode]];
  if (alphaMode === 'MASK') words.push(String(Math.round(cutoff * 100)));
  if (doubleSided) words.push('doubleSided');
  if (unlit) words.push('unlit');
  if (sampler?.[0] === 'nearest') words.push('nearest');
  if (sampler?.[1] === 'no mips') words.push('noMips');
  return `_${words.join('_')}`;
}
