import type { TrialLoad } from '@wembrel/runner/trial/trial-load';
import {
  Box3,
  Color,
  DirectionalLight,
  Group,
  type Material,
  Mesh,
  MeshBasicMaterial,
  NoToneMapping,
  type Object3D,
  PerspectiveCamera,
  PMREMGenerator,
  Scene,
  Vector3,
  WebGLRenderer,
} from 'three';
import { RoomEnvironment } from 'three/examples/jsm/environments/RoomEnvironment.js';
import { MeshoptDecoder } from 'three/examples/jsm/libs/meshopt_decoder.module.js';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { gridPlaces } from './trial-grid.ts';

/** Collision shapes are lines of this colour. */
const SHAPE_LINES = new MeshBasicMaterial({ color: 0xffd84a, wireframe: true });

/** What the 3D library counted; sent to the page around the frame. */
export interface TrialScene {
  type: 'wembrel-trial';
  job: string;
  loaded: number;
  drawCalls: number;
  triangles: number;
  /** Models that it could not load, with its words. */
  failed: { file: string; text: string }[];
}

/** Loads a delivery by its own addresses, in a scene that knows nothing else, and draws all models once beside each other. */
export async function runTrial(box: HTMLElement): Promise<void> {
  const job = box.dataset.job ?? '';
  const status = box.querySelector('p') as HTMLElement;
  const canvas = box.querySelector('canvas') as HTMLCanvasElement;
  const answer = await fetch(`/api/jobs/${job}/trial`);
  const { models } = (await answer.json()) as TrialLoad;
  const loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder);
  const scenes: Object3D[] = [];
  const failed: TrialScene['failed'] = [];
  for (const [i, { file }] of models.entries()) {
    status.textContent = `Loading ${i + 1} of ${models.length} …`;
    const path = file.split('/').map(encodeURIComponent).join('/');
    try {
      scenes.push((await loader.loadAsync(`/api/jobs/${job}/files/delivery/${path}`)).scene);
    } catch (error) {
      failed.push({ file, text: error instanceof Error ? error.message : String(error) });
    }
  }
  const stage = staged(canvas, scenes);
  const counts = stage.draw();
  const byFile = new Map(models.flatMap(({ file }, i) => (scenes[i] ? [[file, scenes[i]] as const] : [])));
  if (failed.length === 0 && (await showCollision(job, byFile, loader)) > 0) stage.draw();
  status.textContent = '';
  const message: TrialScene = { type: 'wembrel-trial', job, loaded: scenes.length, failed, ...counts };
  window.parent.postMessage(message, window.location.origin);
}

/** A scene of its own for the models, and a count of what one picture of it takes. */
function staged(canvas: HTMLCanvasElement, models: Object3D[]) {
  const renderer = new WebGLRenderer({ canvas, antialias: true });
  renderer.toneMapping = NoToneMapping;
  renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
  renderer.setSize(canvas.clientWidth, canvas.clientHeight, false);
  const scene = new Scene();
  scene.background = new Color(0x7f7f7f);
  scene.environment = new PMREMGenerator(renderer).fromScene(new RoomEnvironment(), 0.04).texture;
  const sun = new DirectionalLight(0xffffff, 1);
  sun.position.set(3, 5, 4);
  scene.add(sun, placed(models));
  const camera = framing(new Box3().setFromObject(scene), canvas.clientWidth / canvas.clientHeight);
  renderer.info.autoReset = false;
  return {
    draw(): { drawCalls: number; triangles: number } {
      renderer.info.reset();
      renderer.render(scene, camera);
      const { calls, triangles } = renderer.info.render;
      return { drawCalls: calls, triangles };
    },
  };
}

/** Draws the collision shapes of models as lines over them, where the delivery has some. */
async function showCollision(job: string, models: ReadonlyMap<string, Object3D>, loader: GLTFLoader): Promise<number> {
  const answer = await fetch(`/api/jobs/${job}/files/delivery/manifest.json`);
  const { collision = [] } = (await answer.json()) as { collision?: { file: string; model: string }[] };
  for (const { file, model } of collision) {
    const path = file.split('/').map(encodeURIComponent).join('/');
    const { scene } = await loader.loadAsync(`/api/jobs/${job}/files/delivery/${path}`);
    scene.traverse((object) => {
      if (object instanceof Mesh) object.material = SHAPE_LINES;
    });
    models.get(model)?.add(scene);
  }
  return collision.length;
}

/** The models on a grid, every mesh of them drawn once whether it is in sight or not. */
function placed(models: Object3D[]): Group {
  const boxes = models.map((model) => new Box3().setFromObject(model));
  const places = gridPlaces(
    boxes.map((box) => (box.isEmpty() ? [0, 0] : [box.max.x - box.min.x, box.max.z - box.min.z])),
  );
  const all = new Group();
  models.forEach((model, i) => {
    const centre = boxes[i].getCenter(new Vector3());
    model.position.x += places[i][0] - centre.x;
    model.position.z += places[i][1] - centre.z;
    model.position.y -= boxes[i].isEmpty() ? 0 : boxes[i].min.y;
    model.traverse((object) => {
      object.frustumCulled = false;
      if (object instanceof Mesh)
        for (const material of [object.material].flat() as Material[]) material.forceSinglePass = true;
    });
    all.add(model);
  });
  return all;
}

function framing(box: Box3, aspect: number): PerspectiveCamera {
  const camera = new PerspectiveCamera(35, aspect, 0.01, 10_000);
  const size = box.getSize(new Vector3()).length() || 1;
  const centre = box.getCenter(new Vector3());
  const away = size / 2 / Math.tan((35 * Math.PI) / 360) / Math.min(1, aspect);
  camera.position.copy(centre).addScaledVector(new Vector3(0.5, 0.4, 0.77).normalize(), away * 0.9);
  camera.near = away / 1000;
  camera.far = away * 10;
  camera.lookAt(centre);
  camera.updateProjectionMatrix();
  return camera;
}
