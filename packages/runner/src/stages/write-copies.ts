import { join } from 'node:path';
import type { ModelCopy } from '@wembrel/core/decisions/model-copies';
import { utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { writeMtl, writeObj } from '@wembrel/core/formats/obj/write-obj';
import { stem } from '@wembrel/core/handover/names';
import type { JobScope } from '../pool/job-scope.ts';
import { openGltf } from '../trial/open-gltf.ts';
import type { Delivery } from '../write/delivery.ts';
import type { ReadModel } from './read.ts';

/**
 * Writes the models once more in other formats, beside their GLBs, so that nothing has to be named outside of its folder.
 * @param again the models as they were read back
 */
export async function writeCopies(
  again: readonly ReadModel[],
  files: readonly string[],
  as: readonly ModelCopy[],
  delivery: Delivery,
  scope: JobScope,
): Promise<void> {
  for (const [i, { model }] of again.entries()) {
    scope.checkpoint();
    const name = stem(files[i]);
    if (as.includes('gltf')) await writeGltf(files[i], delivery);
    if (as.includes('obj')) {
      await delivery.write(`${name}.obj`, utf8Bytes(writeObj(model, `${name}.mtl`)));
      await delivery.write(`${name}.mtl`, utf8Bytes(writeMtl(model)));
    }
  }
}

/** A GLB as glTF with its binary beside it. */
async function writeGltf(file: string, delivery: Delivery): Promise<void> {
  const path = join(delivery.staging, file);
  const { json, binary } = await openGltf(path);
  const name = stem(file);
  const [buffer] = json.buffers ?? [];
  if (buffer && binary) {
    // The piece of a GLB is filled up to four bytes.
    const bytes = binary.subarray(0, buffer.byteLength);
    buffer.uri = `${encodeURIComponent(name)}.bin`;
    await delivery.write(`${name}.bin`, bytes);
  }
  await delivery.write(`${name}.gltf`, utf8Bytes(`${JSON.stringify(json)}\n`));
}
