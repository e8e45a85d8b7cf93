/** Words for what sets an output class apart from the others of a delivery, as an ending of the material's name; see `classKey`. */
export function classSuffix(key: string, all: readonly string[]): string {
  if (all.length === 1) return '';
  const [alphaMode, cutoff, doubleSided, unlit] = JSON.parse(key) as [
    'OPAQUE' | 'MASK' | 'BLEND',
    number,
    boolean,
    boolean,
  ];
  const words = [{ OPAQUE: 'opaque', MASK: 'tested', BLEND: 'blended' }[alphaMode]];
  if (alphaMode === 'MASK') words.push(String(Math.round(cutoff * 100)));
  if (doubleSided) words.push('doubleSided');
  if (unlit) words.push('unlit');
  return `_${words.join('_')}`;
}
