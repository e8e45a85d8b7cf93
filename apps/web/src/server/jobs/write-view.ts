import { writeFile } from 'node:fs/promises';
import type { Document } from '@gltf-transform/core';
import { gltfIo } from '@wembrel/runner/read/gltf-io';

/** A model as one self-contained file. */
export async function writeView(document: Document, path: string): Promise<void> {
  const root = document.getRoot();
  for (const extension of root.listExtensionsUsed())
    if (extension.extensionName === 'EXT_meshopt_compression') extension.dispose();
  const [first = document.createBuffer(), ...others] = root.listBuffers();
  for (const accessor of root.listAccessors()) accessor.setBuffer(first);
  for (const other of others) other.dispose();
  await writeFile(path, await (await gltfIo()).writeBinary(document));
}
