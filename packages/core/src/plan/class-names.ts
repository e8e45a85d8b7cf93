/** What a key of `classKey` is made of. */
export type ClassKeyParts = [
  alphaMode: 'OPAQUE' | 'MASK' | 'BLEND',
  cutoff: number,
  doubleSided: boolean,
  unlit: boolean,
  sampler?: [filter: 'nearest' | 'linear', mips: 'mips' | 'no mips'] | null,
  /** Values of extensions that the material carries. */
  extensions?: string,
];

/** Words for what sets an output class apart from the others of a delivery, as an ending of the material's name; see `classKey`. */
export function classSuffix(key: string, all: readonly string[]): string {
  if (all.length === 1) return '';
  const [alphaMode, cutoff, doubleSided, unlit, sampler, extensions] = JSON.parse(key) as ClassKeyParts;
  const words = [{ OPAQUE: 'opaque', MASK: 'tested', BLEND: 'blended' }[alphaMode]];
  if (alphaMode === 'MASK') words.push(String(Math.round(cutoff * 100)));
  if (doubleSided) words.push('doubleSided');
  if (unlit) words.push('unlit');
  if (sampler?.[0] === 'nearest') words.push('nearest');
  if (sampler?.[1] === 'no mips') words.push('noMips');
  const carried = extensionWords(extensions);
  words.push(...carried);
  const same = all.filter((other) => other !== key && sameBut(other, key, carried));
  if (same.length > 0) words.push(String([...same, key].sort().indexOf(key) + 1));
  return `_${words.join('_')}`;
}

/** Short names of the extensions in a key: `clearcoat` for `KHR_materials_clearcoat`. */
export const extensionWords = (extensions: string | undefined): string[] =>
  [...(extensions ?? '').matchAll(/KHR_materials_(\w+)/g)].map((match) => match[1]);

/** True where two classes differ by nothing but values of the same extensions. */
function sameBut(other: string, key: string, carried: readonly string[]): boolean {
  const [a, b] = [other, key].map((text) => JSON.parse(text) as ClassKeyParts);
  return (
    JSON.stringify(a.slice(0, 5)) === JSON.stringify(b.slice(0, 5)) && extensionWords(a[5]).join() === carried.join()
  );
}
