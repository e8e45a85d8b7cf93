import { dirname, posix, resolve, sep } from 'node:path';
import type { InputFile } from './collect.ts';

/** A file beside a model: where it is, and the name by which the input knows it. */
export interface SideFile {
  path: string;
  /** Logical path of an upload, or the full path on disk. */
  key: string;
}

/** The name by which the input knows a file. */
export function fileKey(file: InputFile): string {
  return file.siblings ? posix.normalize(file.name) : resolve(file.path);
}

/**
 * Finds a file that a model names.
 * @returns null when the name leads out of the model's folder or to another machine, '' when it was not given
 */
export function sideFile(model: InputFile, uri: string): SideFile | null | '' {
  if (/^[a-z][a-z0-9+.-]*:/i.test(uri)) return null;
  if (model.siblings) {
    const key = posix.normalize(posix.join(posix.dirname(model.name), decoded(uri)));
    return Object.hasOwn(model.siblings, key) ? { key, path: model.siblings[key] } : '';
  }
  const folder = resolve(dirname(model.path));
  const path = resolve(folder, decoded(uri));
  return path.startsWith(folder + sep) ? { key: path, path } : null;
}

/** The same for formats whose files often carry the paths of another machine: its last part alone is tried as well. */
export function looseSideFile(model: InputFile, written: string): SideFile[] {
  const name = written.replace(/\\/g, '/');
  const tries = [name, name.slice(name.lastIndexOf('/') + 1)];
  return tries.flatMap((t) => {
    const found = t === '' ? null : sideFile(model, encodeURI(t).replace(/[#?]/g, encodeURIComponent));
    return found ? [found] : [];
  });
}

function decoded(uri: string): string {
  try {
    return decodeURIComponent(uri).replace(/\\/g, '/');
  } catch {
    return uri.replace(/\\/g, '/'); // not percent-encoded: take it as written
  }
}
