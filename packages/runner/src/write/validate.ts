/// <reference path="../gltf-validator.d.ts" />
import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { validateBytes } from 'gltf-validator';

/** Something in a file that the standard does not allow. */
export interface GltfError {
  /** The validator's word for it. */
  code: string;
  /** The sentence, with the place. */
  text: string;
}

/**
 * Errors that the open glTF validator finds in a file; empty when it is valid.
 * @param sidePath where a file that it names lies
 */
export async function validateGltf(
  path: string,
  sidePath: (uri: string) => string = (uri) => join(dirname(path), decodeURIComponent(uri)),
): Promise<GltfError[]> {
  const report = await validateBytes(new Uint8Array(await readFile(path)), {
    uri: path.split(/[\\/]/).pop(),
    maxIssues: 50,
    externalResourceFunction: async (uri: string) => new Uint8Array(await readFile(sidePath(uri))),
  });
  return report.issues.messages
    .filter((message) => message.severity === 0)
    .map((message) => ({
      code: message.code,
      text: `${message.message}${message.pointer ? ` (${message.pointer})` : ''}`,
    }));
}
