import { writeFile } from 'node:fs/promises';
import type { Document } from '@gltf-transform/core';
import { gltfIo } from '@wembrel/runner/read/gltf-io';

/** A model as one self-contained file. */
export async function writeView(document: Document, path: string): Promise<void> {
  const root = document.getRoot();
  for (const e of root.listExtensionsUsed()) if (e.extensionName === 'EXT_meshopt_compression') e.dispose();
  const [first = document.createBuffer(), ...others] = root.listBuffers();
  for (const a of root.listAccessors()) a.setBuffer(first);
  for (const other of others) other.dispose();
  await writeFile(path, await (await gltfIo()).writeBinary(document));
}
