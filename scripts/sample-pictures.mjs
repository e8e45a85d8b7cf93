// Makes the pictures of the samples on the page of projects: `node scripts/sample-pictures.mjs ADDRESS` of a running server.
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';

const SAMPLES = ['furniture', 'signs', 'surfaces', 'posts', 'kiosk', 'everything'];
/** Twice as wide as high, px. */
const SIDE = 192;
/** As behind models in the application: neutral, so that colour can be judged. */
const STAGE = '#7f7f7f';

const [address] = process.argv.slice(2);
if (!address) {
  console.error('node scripts/sample-pictures.mjs ADDRESS');
  process.exit(2);
}
const folder = join(dirname(dirname(fileURLToPath(import.meta.url))), 'apps/web/public/samples');
const get = (path, init) => fetch(new URL(path, address), init);

async function open(part) {
  const answer = await get('/api/demo', {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: new URL(address).origin },
    body: JSON.stringify({ part }),
  });
  return (await answer.json()).id;
}

async function picturesOf(project) {
  for (;;) {
    const all = await (await get('/api/projects')).json();
    const { pictures } = all.find(({ id }) => id === project);
    if (pictures.length > 0) return pictures;
    await new Promise((done) => setTimeout(done, 1000));
  }
}

await mkdir(folder, { recursive: true });
for (const part of SAMPLES) {
  const pictures = (await picturesOf(await open(part))).slice(0, part === 'furniture' ? 1 : 2);
  const images = await Promise.all(
    pictures.map(async (path) =>
      sharp(Buffer.from(await (await get(path)).arrayBuffer()))
        .resize(SIDE, SIDE)
        .toBuffer(),
    ),
  );
  const left = (2 * SIDE - images.length * SIDE) / 2;
  const webp = await sharp({ create: { width: 2 * SIDE, height: SIDE, channels: 3, background: STAGE } })
    .composite(images.map((input, i) => ({ input, left: left + i * SIDE, top: 0 })))
    .webp({ quality: 90 })
    .toBuffer();
  await writeFile(join(folder, `${part}.webp`), webp);
  console.log(part, webp.length);
}
