/** Faces as text: numbers and ranges in ascending order, "0-11,15". */

/** @param faces ascending */
export function faceText(faces: ArrayLike<number>): string {
  const out: string[] = [];
  for (let i = 0; i < faces.length; ) {
    let end = i;
    while (end + 1 < faces.length && faces[end + 1] === faces[end] + 1) end++;
    out.push(end === i ? String(faces[i]) : `${faces[i]}-${faces[end]}`);
    i = end + 1;
  }
  return out.join(',');
}

/** @returns ascending, each once @throws Error with a sentence */
export function parseFaceText(text: string): Uint32Array {
  const set = new Set<number>();
  for (const piece of text.split(',')) {
    if (piece.trim() === '') continue;
    const found = /^\s*(\d+)(?:-(\d+))?\s*$/.exec(piece);
    const [first, last] = found ? [Number(found[1]), Number(found[2] ?? found[1])] : [1, 0];
    if (!found || last < first || last > 0x7fffffff)
      throw new Error(`"${piece}" is neither a face nor a range of faces`);
    if (set.size + last - first >= MOST_FACES) throw new Error(`more than ${MOST_FACES} faces are named`);
    for (let f = first; f <= last; f++) set.add(f);
  }
  return Uint32Array.from(set).sort();
}

/** More than any part that is read. */
const MOST_FACES = 16_000_000;
