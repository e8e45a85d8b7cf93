import { MeshoptDecoder } from 'meshoptimizer/decoder';
import {
  AmbientLight,
  Box3,
  Color,
  DirectionalLight,
  Group,
  NoToneMapping,
  type Object3D,
  PerspectiveCamera,
  PMREMGenerator,
  Scene,
  SRGBColorSpace,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { RoomEnvironment } from 'three/examples/jsm/environments/RoomEnvironment.js';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';

/**
 * Two models in one picture under one camera and one light: side by side, or one over the other. Draws only when something
 * changed, and goes on after the graphics context was lost.
 */
export class TwinStage {
  private readonly renderer: WebGLRenderer;
  private readonly camera = new PerspectiveCamera(35, 1, 0.01, 1000);
  private readonly controls: OrbitControls;
  private readonly scenes: [Scene, Scene] = [new Scene(), new Scene()];
  private readonly holders: [Group, Group] = [new Group(), new Group()];
  private readonly loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder);
  private readonly resize: ResizeObserver;
  private queued = false;
  private framed = false;
  private closed = false;
  /** Share of the width that shows the original, in wipe. */
  private split = 0.5;
  private mode: 'side' | 'wipe' | 'one' = 'side';
  /** Told after each picture. */
  onDraw: ((info: { calls: number; triangles: number }) => void) | null = null;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: true });
    this.renderer.outputColorSpace = SRGBColorSpace;
    this.renderer.toneMapping = NoToneMapping;
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.autoClear = false;
    const room = new PMREMGenerator(this.renderer).fromScene(new RoomEnvironment(), 0.04).texture;
    this.scenes.forEach((scene, i) => {
      scene.background = new Color(0x7f7f7f);
      scene.environment = room;
      scene.environmentIntensity = 0.7;
      const sun = new DirectionalLight(0xffffff, 1.6);
      sun.position.set(2, 3, 2.5);
      scene.add(sun, new AmbientLight(0xffffff, 0.25), this.holders[i]);
    });
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('change', () => this.draw());
    this.resize = new ResizeObserver(() => this.draw());
    this.resize.observe(canvas);
    canvas.addEventListener('webglcontextlost', (e) => e.preventDefault());
    canvas.addEventListener('webglcontextrestored', () => this.draw());
  }

  /** Shows a model on one side. @throws Error with a sentence when it cannot be loaded */
  async load(side: 0 | 1, url: string): Promise<void> {
    const gltf = await this.loader.loadAsync(url);
    if (this.closed) return;
    this.holders[side].clear();
    this.holders[side].add(gltf.scene);
    if (!this.framed) this.frame(gltf.scene);
    this.draw();
  }

  /** Moves the camera so that the model fills the picture. */
  frame(object: Object3D = this.holders[0]): void {
    const box = new Box3().setFromObject(object);
    if (box.isEmpty()) return;
    const middle = box.getCenter(new Vector3());
    const radius = box.getSize(new Vector3()).length() / 2;
    const width = this.canvas.clientWidth / (this.mode === 'side' ? 2 : 1);
    const aspect = Math.max(0.2, width / Math.max(1, this.canvas.clientHeight));
    const up = Math.tan((this.camera.fov * Math.PI) / 360);
    const far = (radius / Math.sin(Math.atan(up * Math.min(1, aspect)))) * 0.92;
    this.controls.target.copy(middle);
    this.camera.position.copy(middle).add(new Vector3(0.55, 0.35, 1).normalize().multiplyScalar(far));
    this.camera.near = far / 100;
    this.camera.far = far * 20;
    this.framed = true;
    this.controls.update();
    this.draw();
  }

  show(mode: 'side' | 'wipe' | 'one', split: number): void {
    this.mode = mode;
    this.split = split;
    this.draw();
  }

  /** Turns or moves nearer by keys. */
  nudge(azimuth: number, polar: number, nearer: number): void {
    const offset = this.camera.position.clone().sub(this.controls.target);
    const r = offset.length() * nearer;
    const theta = Math.atan2(offset.x, offset.z) + azimuth;
    const phi = Math.min(Math.PI - 0.05, Math.max(0.05, Math.acos(offset.y / offset.length()) + polar));
    offset.set(r * Math.sin(phi) * Math.sin(theta), r * Math.cos(phi), r * Math.sin(phi) * Math.cos(theta));
    this.camera.position.copy(this.controls.target).add(offset);
    this.controls.update();
    this.draw();
  }

  draw(): void {
    if (this.queued || this.closed) return;
    this.queued = true;
    requestAnimationFrame(() => {
      this.queued = false;
      if (!this.closed) this.paint();
    });
  }

  private paint(): void {
    const w = this.canvas.clientWidth;
    const h = this.canvas.clientHeight;
    if (w === 0 || h === 0) return;
    this.renderer.setSize(w, h, false);
    this.renderer.setScissorTest(true);
    const half = Math.floor(w / 2);
    const cut = Math.round(w * this.split);
    let calls = 0;
    let triangles = 0;
    this.scenes.forEach((scene, i) => {
      if (this.mode === 'one') {
        if (i === 1) return;
        this.renderer.setViewport(0, 0, w, h);
        this.renderer.setScissor(0, 0, w, h);
        this.camera.aspect = w / h;
      } else if (this.mode === 'side') {
        const width = i === 0 ? half : w - half;
        this.renderer.setViewport(i * half, 0, width, h);
        this.renderer.setScissor(i * half, 0, width, h);
        this.camera.aspect = width / h;
      } else {
        this.renderer.setViewport(0, 0, w, h);
        if (i === 0) this.renderer.setScissor(0, 0, cut, h);
        else this.renderer.setScissor(cut, 0, w - cut, h);
        this.camera.aspect = w / h;
      }
      this.camera.updateProjectionMatrix();
      this.renderer.clear();
      this.renderer.render(scene, this.camera);
      calls = this.renderer.info.render.calls;
      triangles = this.renderer.info.render.triangles;
    });
    this.onDraw?.({ calls, triangles });
  }

  dispose(): void {
    this.closed = true;
    this.resize.disconnect();
    this.controls.dispose();
    this.renderer.dispose();
  }
}
