/*
 * Faces of a group are text, which may be megabytes long where somebody picked them one by one. In a project such a text is a file of its own,
 * named in the decisions by the hash of its contents, so that a change of a few faces is a small change of the decisions. Faces files, and whoever
 * works with the faces, have the text itself.
 */

const REFERENCE = /^sha256:([0-9a-f]{64})$/;

/** Characters from which on a text is worth a file of its own. */
export const LONG_FACE_TEXT = 400;

/** What stands in place of a text. @param hash SHA-256 of its UTF-8 bytes, hex */
export const faceSetReference = (hash: string): string => `sha256:${hash}`;

/** The hash that a reference names, or null for a text. */
export const faceSetHash = (text: string): string | null => REFERENCE.exec(text)?.[1] ?? null;

/** Groups of faces: path of a model → number of a part → text or reference. */
interface FaceGroups {
  groups: { faces: Record<string, Record<string, string>> }[];
}

/** All texts and references of all groups. */
export const faceTexts = ({ groups }: FaceGroups): string[] =>
  groups.flatMap((group) => Object.values(group.faces).flatMap((parts) => Object.values(parts)));

/** The decisions with every text, or reference, changed; the very same ones when none is. */
export function mapFaceTexts<F extends FaceGroups>(faces: F, change: (text: string) => string): F {
  if (faceTexts(faces).every((text) => change(text) === text)) return faces;
  const mapValues = <A, B>(o: Record<string, A>, f: (value: A) => B): Record<string, B> =>
    Object.fromEntries(Object.entries(o).map(([key, value]) => [key, f(value)]));
  const groups = faces.groups.map((group) => ({
    ...group,
    faces: mapValues(group.faces, (parts) => mapValues(parts, change)),
  }));
  return { ...faces, groups };
}
