import { spawn } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { GlbWriter } from '@wembrel/demo/glb-writer';
import { decodeImage } from '@wembrel/runner/pictures/codec';
import { sideBySide } from '@wembrel/runner/pool/side-by-side';
import { loadModel } from '@wembrel/runner/read/load';
import sharp from 'sharp';
import { type BenchRow, median, round } from './turns.ts';

/** A picture with soft shapes and a little grain, different for each seed; sRGB PNG. */
async function picture(side: number, seed: number): Promise<Uint8Array> {
  const data = new Uint8Array(side * side * 3);
  let s = (seed * 2654435761) | 1;
  const [fx, fy] = [12 + ((seed * 7) % 83), 12 + ((seed * 31) % 97)];
  for (let y = 0, o = 0; y < side; y++)
    for (let x = 0; x < side; x++, o += 3) {
      s = (Math.imul(s, 1103515245) + 12345) | 0;
      const v = 128 + 70 * Math.sin(x / fx + seed) * Math.cos(y / fy) + ((s >>> 24) & 7);
      data[o] = v;
      data[o + 1] = v * 0.8 + (seed % 40);
      data[o + 2] = 200 - v * 0.5;
    }
  return new Uint8Array(
    await sharp(data, { raw: { width: side, height: side, channels: 3 } })
      .png({ compressionLevel: 2 })
      .toBuffer(),
  );
}

/** A waved board of 2 · cells² triangles with some textures. */
function board(cells: number, seed: number, pictures: Uint8Array[]): Uint8Array {
  const glbWriter = new GlbWriter();
  const n = cells + 1;
  const positions = new Float32Array(n * n * 3);
  const normals = new Float32Array(n * n * 3);
  const uvs = new Float32Array(n * n * 2);
  const indices = new Uint32Array(cells * cells * 6);
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const v = j * n + i;
      positions.set([i / cells, 0.1 * Math.sin(i / 9 + seed) * Math.cos(j / 7), j / cells], v * 3);
      normals[v * 3 + 1] = 1;
      uvs.set([i / cells, j / cells], v * 2);
    }
  for (let j = 0, o = 0; j < cells; j++)
    for (let i = 0; i < cells; i++, o += 6) {
      const a = j * n + i;
      indices.set([a, a + n, a + 1, a + 1, a + n, a + n + 1], o);
    }
  const attributes = {
    POSITION: glbWriter.floats(positions, 'VEC3', true),
    NORMAL: glbWriter.floats(normals, 'VEC3'),
    TEXCOORD_0: glbWriter.floats(uvs, 'VEC2'),
  };
  const all = glbWriter.indices(indices);
  const primitives = pictures.map((png, k) => ({
    attributes,
    indices: all,
    material: glbWriter.material({
      name: `Board${seed}_${k}`,
      pbrMetallicRoughness: {
        baseColorTexture: { index: glbWriter.texture(png, `board ${seed} ${k}`) },
        metallicFactor: 0,
      },
    }),
  }));
  glbWriter.node({ name: 'board', mesh: glbWriter.mesh('board', primitives) });
  return glbWriter.glb();
}

interface Measured {
  seconds: number;
  peak: number;
  triangles: number;
  textures: number;
}

/** Surveys a folder as a process of its own, so that its peak memory is its own. */
async function surveyApart(folder: string): Promise<Measured> {
  const cli = fileURLToPath(new URL('./cli.mjs', import.meta.url));
  const begun = performance.now();
  const child = spawn(process.execPath, [cli, 'survey', folder, '--json'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const chunks: Buffer[] = [];
  child.stdout.on('data', (d: Buffer) => chunks.push(d));
  const code = await new Promise((done) => child.on('close', done));
  if (code !== 0) throw new Error(`the survey ended with ${code}`);
  const { totals, peakBytes } = JSON.parse(Buffer.concat(chunks).toString()) as {
    totals: { triangles: number; textures: number };
    peakBytes: number;
  };
  const seconds = (performance.now() - begun) / 1000;
  return { seconds, peak: peakBytes, triangles: totals.triangles, textures: totals.textures };
}

/** Decodes all pictures of a folder's models, as many at a time as there are cores; nothing else. */
async function decodeAll(folder: string): Promise<number> {
  const names = (await readdir(folder)).filter((name) => name.endsWith('.glb'));
  const begun = performance.now();
  await sideBySide(names.length, availableParallelism(), async (i) => {
    const model = await loadModel({ name: names[i], path: join(folder, names[i]) });
    for (const texture of model.document.getRoot().listTextures())
      await decodeImage(names[i], 'x', texture.getImage() as Uint8Array);
  });
  return (performance.now() - begun) / 1000;
}

/** Models in a folder of their own: so many, of 2 · cells² triangles, each with some pictures of a side, px; `shared`: all with the same ones. */
export async function pile(o: {
  count: number;
  cells: number;
  side: number;
  each: number;
  shared?: boolean;
}): Promise<string> {
  const { count, cells, side, each, shared = false } = o;
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  await sideBySide(count, availableParallelism(), async (i) => {
    const first = shared ? 1 : i * each + 1;
    const pictures = await Promise.all(Array.from({ length: each }, (_, k) => picture(side, first + k)));
    await writeFile(join(folder, `board-${i}.glb`), board(cells, i, pictures));
  });
  return folder;
}

/** The survey against plain decoding of the same pictures, and how much memory a large pile takes. */
export async function surveyBenches(): Promise<BenchRow[]> {
  const rows: BenchRow[] = [];
  for (const { name, count, cells, side, each, rounds } of [
    { name: '100 models, 100 000 triangles, 500 Mpx', count: 100, cells: 22, side: 1000, each: 5, rounds: 2 },
    { name: '500 files, 5 000 000 triangles, 2 GB of texels', count: 500, cells: 71, side: 1024, each: 1, rounds: 1 },
  ]) {
    const folder = await pile({ count, cells, side, each });
    try {
      const ours: Measured[] = [];
      const plain: number[] = [];
      for (let r = 0; r < rounds; r++) {
        ours.push(await surveyApart(folder));
        plain.push(await decodeAll(folder));
      }
      const seconds = median(ours.map((our) => our.seconds));
      const reference = median(plain);
      rows.push({
        name: `survey of ${name}`,
        unit: 's',
        ours: round(seconds),
        reference: round(reference),
        against: 'reading and decoding the same files on all cores',
        ratio: round(seconds / reference),
        note: `${ours[0].triangles} triangles, ${ours[0].textures} textures`,
      });
      const sizes = await Promise.all(
        (await readdir(folder)).map(async (name) => (await readFile(join(folder, name))).length),
      );
      const stored = sizes.reduce((sum, size) => sum + size, 0) / 1024 ** 2;
      const peak = Math.max(...ours.map((our) => our.peak)) / 1024 ** 2;
      rows.push({
        name: `peak memory of that`,
        unit: 'MiB',
        ours: round(peak),
        reference: round(stored),
        against: 'the files as they are stored',
        ratio: round(peak / stored),
      });
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
  return rows;
}
