import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { bytesHash } from '@wembrel/runner/pictures/bytes-hash';
import { decodeImage, encodePng } from '@wembrel/runner/pictures/codec';
import { loadModel } from '@wembrel/runner/read/load';

/** Seconds of the processors that some work takes here. */
async function cpuOf(work: () => Promise<void>): Promise<number> {
  const before = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6;
}

/** Files of a folder and of those in it that end so. */
async function filesOf(folder: string, ending: RegExp): Promise<string[]> {
  const names = await readdir(folder, { recursive: true });
  return names.filter((name) => ending.test(name)).map((name) => join(folder, name));
}

/**
 * The codec floor of a run (reference): decoding each picture of the sources once and encoding each picture of the delivery once, with the same codecs,
 * seconds of the processors. Reading the files is not in it.
 * @param from folder of the sources @param to folder of the delivery, where there is one
 */
export async function codecFloor(from: string, to?: string): Promise<number> {
  const stored = new Map<string, Uint8Array>();
  for (const path of await filesOf(from, /\.glb$/)) {
    const model = await loadModel({ name: path, path });
    for (const texture of model.document.getRoot().listTextures()) {
      const bytes = texture.getImage();
      if (bytes) stored.set(bytesHash(bytes), bytes);
    }
  }
  const decoding = await cpuOf(async () => {
    for (const bytes of stored.values()) await decodeImage('x', 'x', bytes);
  });
  if (to === undefined) return decoding;
  const maps = await Promise.all(
    (await filesOf(to, /\.png$/)).map(async (path) => new Uint8Array(await readFile(path))),
  );
  let encoding = 0;
  for (const bytes of maps) {
    const { width, height, data } = await decodeImage('x', 'x', bytes);
    const rgb = new Uint8Array(width * height * 3);
    for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) rgb[i * 3 + c] = data[i * 4 + c];
    encoding += await cpuOf(async () => {
      await encodePng(rgb, width, height, 3);
    });
  }
  return decoding + encoding;
}
