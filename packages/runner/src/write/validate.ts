/// <reference path="../gltf-validator.d.ts" />
import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { validateBytes } from 'gltf-validator';

/** Errors that the open glTF validator finds in a file, as sentences; empty when it is valid. */
export async function validateGltf(path: string): Promise<string[]> {
  const report = await validateBytes(new Uint8Array(await readFile(path)), {
    uri: path.split(/[\\/]/).pop(),
    maxIssues: 50,
    externalResourceFunction: async (uri: string) =>
      new Uint8Array(await readFile(join(dirname(path), decodeURIComponent(uri)))),
  });
  return report.issues.messages
    .filter((message) => message.severity === 0)
    .map((message) => `${message.message}${message.pointer ? ` (${message.pointer})` : ''}`);
}
