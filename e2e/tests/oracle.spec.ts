import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { renderView } from '@wembrel/core/compare/rasterise';
import { cellBounds, channelEncoding, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { VIEWS, viewFrame } from '@wembrel/core/compare/views';
import { levelSetBytes, toLevels } from '@wembrel/core/image/levels';
import { pictureDifference } from '@wembrel/core/image/metrics';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { usedTextures } from '@wembrel/core/survey/figures';
import { buildFurniture } from '@wembrel/demo/furniture';
import type { LevelSet } from '@wembrel/kernels/sample';
import { decodeImage } from '@wembrel/runner/pictures/codec';
import { imageKey } from '@wembrel/runner/read/image-keys';
import { loadModel } from '@wembrel/runner/read/load';
import { build } from 'esbuild';
import sharp from 'sharp';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, test } from '../app.ts';
import { ROOT, temporary } from '../server.ts';

const SIZE = 512;

/** What the page runs: the same model, unlit, with the 3D library, from the same place. */
const SCRIPT = `
import { AmbientLight, Color, DoubleSide, FrontSide, Mesh, MeshBasicMaterial, NoToneMapping, OrthographicCamera, Scene, Vector3, WebGLRenderer } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
window.draw = async (base64, bounds, frame, size) => {
  const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
  const gltf = await new GLTFLoader().parseAsync(bytes.buffer, '');
  const scene = new Scene();
  scene.background = new Color().setRGB(0.2159, 0.2159, 0.2159);
  gltf.scene.traverse((o) => {
    if (!(o instanceof Mesh)) return;
    const m = o.material;
    o.material = new MeshBasicMaterial({ map: m.map, color: m.color, side: m.side === DoubleSide ? DoubleSide : FrontSide,
      transparent: m.transparent, opacity: m.opacity, depthWrite: !m.transparent });
  });
  scene.add(gltf.scene);
  let lx = Infinity, hx = -Infinity, ly = Infinity, hy = -Infinity;
  const right = new Vector3(...frame.right), up = new Vector3(...frame.up), toward = new Vector3(...frame.toward);
  for (let k = 0; k < 8; k++) {
    const p = new Vector3(bounds[k & 1 ? 3 : 0], bounds[k & 2 ? 4 : 1], bounds[k & 4 ? 5 : 2]);
    lx = Math.min(lx, p.dot(right)); hx = Math.max(hx, p.dot(right));
    ly = Math.min(ly, p.dot(up)); hy = Math.max(hy, p.dot(up));
  }
  const half = Math.max(hx - lx, hy - ly) / 0.94 / 2;
  const camera = new OrthographicCamera(-half, half, half, -half, 0.1, 100);
  const middle = right.clone().multiplyScalar((lx + hx) / 2).add(up.clone().multiplyScalar((ly + hy) / 2));
  camera.position.copy(middle).add(toward.clone().multiplyScalar(50));
  camera.up.copy(up);
  camera.lookAt(middle);
  const renderer = new WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
  renderer.toneMapping = NoToneMapping;
  renderer.setSize(size, size, false);
  renderer.render(scene, camera);
  return renderer.domElement.toDataURL('image/png');
};
`;

test('the rasteriser of the comparison sees what the 3D library sees, from two of its views', async ({
  page,
  server,
}) => {
  await tangentsReady;
  const glb = kept(buildFurniture, 0.25);
  const path = join(temporary(), 'furniture.glb');
  await writeFile(path, glb);
  const model = await loadModel({ path, name: 'furniture.glb' });
  const stored = new Map(usedTextures(model).map((texture) => [imageKey(texture), texture.getImage() as Uint8Array]));
  const textures = new Map<string, LevelSet>();
  for (const { look } of model.slots) {
    if (!look.baseColor) continue;
    const raster = await decodeImage('x', 'x', stored.get(look.baseColor.image) as Uint8Array);
    const weighted = look.alphaMode !== 'OPAQUE';
    const memory = new ArrayBuffer(levelSetBytes(raster.width, raster.height, true));
    textures.set(
      textureKey(look.baseColor.image, 'baseColor', look),
      toLevels(raster, channelEncoding('baseColor'), weighted, true, memory),
    );
  }
  const scene = drawScene([model], SIZE);
  const bounds = cellBounds(scene);
  const bundle = await build({
    stdin: { contents: SCRIPT, resolveDir: ROOT },
    bundle: true,
    write: false,
    format: 'iife',
    logLevel: 'error',
  });
  await page.goto(server.url);
  await page.addScriptTag({ content: bundle.outputFiles[0].text });
  for (const name of ['front right', 'back left']) {
    const view = VIEWS.find((v) => v.name === name);
    if (!view) throw new Error(`no view ${name}`);
    const ours = renderView(scene, textures, { eye: view.eye, bounds, size: SIZE });
    const url = await page.evaluate(
      ([b, box, frame, size]) =>
        (window as unknown as { draw: (...a: unknown[]) => Promise<string> }).draw(b, box, frame, size),
      [Buffer.from(glb).toString('base64'), [...bounds[0]], viewFrame(view.eye), SIZE] as const,
    );
    const theirs = await sharp(Buffer.from(url.split(',')[1], 'base64'))
      .removeAlpha()
      .raw()
      .toBuffer();
    const difference = pictureDifference(ours.unlit, new Uint8Array(theirs), ours.coverage, ours.coverage, SIZE);
    // Edges are sampled at other points and mips chosen a little otherwise; a face or texture amiss costs far more.
    expect(difference.psnr, name).toBeGreaterThan(27);
    expect(difference.ssim, name).toBeGreaterThan(0.95);
    const shifted = new Uint8Array(theirs.length);
    shifted.set(theirs.subarray(6 * 3));
    expect(pictureDifference(ours.unlit, shifted, ours.coverage, ours.coverage, SIZE).psnr, name).toBeLessThan(24);
  }
});
