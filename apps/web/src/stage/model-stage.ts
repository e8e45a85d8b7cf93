import { MeshoptDecoder } from 'meshoptimizer/decoder';
import {
  AmbientLight,
  Box3,
  BufferGeometry,
  Color,
  DirectionalLight,
  Float32BufferAttribute,
  Group,
  type Material,
  Mesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  NoToneMapping,
  PerspectiveCamera,
  PMREMGenerator,
  Raycaster,
  Scene,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { RoomEnvironment } from 'three/examples/jsm/environments/RoomEnvironment.js';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { cssColour } from './css-colour.ts';
import { DifferencePass } from './difference-pass.ts';
import { distanceToFit } from './framing.ts';
import { hatchMeshes, type LiveMaps, type LiveMask, liveMaterial, releaseLive } from './live-sheet.ts';
import { OutlinePass } from './outline-pass.ts';
import {
  type Drawn,
  type FaceLayer,
  hideFaces,
  type LitFaces,
  layerMeshes,
  outlinedMeshes,
  overlayMaterial,
  type PartGeometry,
  type Placed,
  partGeometry,
  partLines,
  partsOf,
} from './placed.ts';
import { projectedParts, type ShownPart } from './projection.ts';
import { type Mark, markLines } from './rings.ts';
import { nearestSide, release } from './stage-meshes.ts';

/** Maps on the slot of a name. */
interface Live {
  slotName: string;
  material: MeshStandardMaterial;
}

/** How two models share the picture; `one` shows the first alone, `over` the second as a veil over it. */
export type StageMode = 'one' | 'side' | 'wipe' | 'blink' | 'difference' | 'over';

export interface PickedFace {
  /** Number of the part: primitives of all meshes in order. */
  part: number;
  /** Position among the model's materials. */
  slot: number;
  /** Name of the node that draws it. */
  node: string;
  triangle: number;
  /** Side of the triangle (from corner k to the next) that is nearest. */
  side: number;
  /** In the scene, m; and the way its face looks. */
  point: [number, number, number];
  normal: [number, number, number];
  /** Both where its part stands first, which is where it was baked. */
  first: { point: [number, number, number]; normal: [number, number, number] };
  /** Where it lies on the sheet of UV set 0, V down; null without UVs. */
  uv: [number, number] | null;
}

/** What a view may ask of the model that is loaded. */
export interface ModelReader {
  geometry(): PartGeometry[];
  slotName(slot: number): string | null;
  /** Base colour picture of a slot. */
  picture(slot: number): ImageBitmap | HTMLImageElement | null;
  projected(): ShownPart[];
}

/** Colour of a part by its slot and its number; null leaves it as it is. */
export type Tint = (slot: number, part: number) => string | null;

/** Side of a face of the room that lights models, px. */
const ROOM_SIDE = 64;

/** Background of every stage: exactly neutral. */
const NEUTRAL = 0x7f7f7f;

/**
 * One or two models in one picture under one camera and one light. Draws only when something changed, and goes on after the
 * graphics context was lost.
 */
export class ModelStage {
  private readonly renderer: WebGLRenderer;
  private readonly camera = new PerspectiveCamera(35, 1, 0.01, 1000);
  private readonly controls: OrbitControls;
  private readonly scenes: [Scene, Scene] = [new Scene(), new Scene()];
  private readonly holders: [Group, Group] = [new Group(), new Group()];
  private readonly suns: DirectionalLight[] = [];
  private placed: [Placed[], Placed[]] = [[], []];
  private readonly layers: Drawn[] = [];
  private readonly lines: Drawn[] = [];
  private readonly rings: Drawn[] = [];
  private readonly hatched: Drawn[] = [];
  /** Materials of the models by the name of their slot, made of bytes. */
  private readonly lives: [Live | null, Live | null] = [null, null];
  private overlaid: ReadonlySet<string> | null = null;
  private readonly overlay = new MeshStandardMaterial({
    color: 0xe8a33d,
    roughness: 0.7,
    transparent: true,
    opacity: 0.45,
    side: 2,
  });
  private readonly loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder);
  private readonly resize: ResizeObserver;
  private readonly difference = new DifferencePass();
  private readonly outline = new OutlinePass();
  private readonly outlined: Drawn[] = [];
  private readonly loads: [number, number] = [0, 0];
  private readonly size = new Vector2();
  /** Somebody moved the camera since it was fitted last: from then on a new size leaves it alone. */
  private moved = false;
  /** The camera is being dragged. */
  private moving = false;
  /** Pictures take long here (no graphics card): while dragged they are drawn coarser. */
  private slow = false;
  private queued = false;
  private closed = false;
  private split = 0.5;
  private mode: StageMode = 'one';
  private blinkSide: 0 | 1 = 0;
  private wired = false;
  private map: Texture | null = null;
  /** Name of the material that `setMap` is for; null: all. */
  mapFor: string | null = null;
  private bare = false;
  private tint: Tint | null = null;
  private hidden: ReadonlySet<number> | null = null;
  /** Called after each picture. */
  onDraw: ((info: { calls: number; triangles: number }) => void) | null = null;
  /** Called when the camera has moved, with the metres from what it looks at. */
  onDistance: ((metres: number) => void) | null = null;

  readonly canvas = document.createElement('canvas');
  /** Addresses of what is shown. */
  private readonly urls: [string | null, string | null] = [null, null];

  /** @throws Error where the browser gives no WebGL 2 */
  constructor() {
    const { canvas } = this;
    this.renderer = new WebGLRenderer({ canvas, antialias: true });
    this.renderer.outputColorSpace = SRGBColorSpace;
    this.renderer.toneMapping = NoToneMapping;
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.autoClear = false;
    // Asking for errors waits for the compiler; ours are tested.
    this.renderer.debug.checkShaderErrors = false;
    this.scenes.forEach((scene, i) => {
      scene.background = new Color(NEUTRAL);
      const sun = new DirectionalLight(0xffffff);
      this.suns.push(sun);
      scene.add(sun, new AmbientLight(0xffffff, 0.25), this.holders[i]);
    });
    // A triangle without area has the overlay's shader compiled with the first picture, not at the first selection.
    const nothing = new BufferGeometry().setAttribute('position', new Float32BufferAttribute(new Float32Array(9), 3));
    this.scenes[0].add(new Mesh(nothing, overlayMaterial()));
    this.setSun(null);
    this.light();
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('start', () => {
      this.moved = true;
      this.moving = true;
    });
    this.controls.addEventListener('end', () => {
      this.moving = false;
      this.draw();
    });
    this.controls.addEventListener('change', () => {
      this.onDistance?.(this.distance);
      this.draw();
    });
    this.resize = new ResizeObserver(() => {
      if (!this.moved) this.frame();
      this.draw();
    });
    this.resize.observe(canvas);
    canvas.addEventListener('webglcontextlost', (event) => event.preventDefault());
    canvas.addEventListener('webglcontextrestored', () => {
      this.light();
      this.draw();
    });
  }

  private light(): void {
    const generator = new PMREMGenerator(this.renderer);
    // The library makes 256 px a face at the least, which takes seconds where there is no GPU; a room of soft lamps needs less.
    Reflect.set(generator, '_setSize', () => Reflect.set(generator, '_cubeSize', ROOM_SIDE));
    const room = generator.fromScene(new RoomEnvironment()).texture;
    generator.dispose();
    for (const scene of this.scenes) scene.environment = room;
  }

  /** Where the light comes from: degrees about the vertical, low and strong, so that it rakes over the surface; null: from above, soft. */
  setSun(degrees: number | null): void {
    const a = ((degrees ?? 0) * Math.PI) / 180;
    for (const sun of this.suns) {
      sun.intensity = degrees === null ? 1.6 : 2.8;
      if (degrees === null) sun.position.set(2, 3, 2.5);
      else sun.position.set(3 * Math.sin(a), 1.4, 3 * Math.cos(a));
    }
    for (const scene of this.scenes) scene.environmentIntensity = degrees === null ? 0.7 : 0.22;
    this.draw();
  }

  /** Shows a model on one side. @throws Error with a sentence when it cannot be loaded */
  async load(side: 0 | 1, url: string): Promise<void> {
    const turn = ++this.loads[side];
    if (this.urls[side] === url) return;
    const gltf = await this.loader.loadAsync(url);
    if (this.closed || turn !== this.loads[side]) {
      release(gltf.scene);
      return;
    }
    release(this.holders[side]);
    this.holders[side].clear();
    if (side === 0) {
      this.layers.length = 0;
      this.lines.length = 0;
      this.hatched.length = 0;
    }
    this.urls[side] = url;
    this.holders[side].add(gltf.scene);
    this.placed[side] = partsOf(gltf);
    this.dress();
    if (side === 0) this.frame();
    this.draw();
  }

  /** Moves the camera so that the model fills the picture, seen from where it is seen now. */
  frame(): void {
    this.moved = false;
    const box = new Box3().setFromObject(this.holders[0]);
    // Without a size yet, the first one brings us back here.
    if (box.isEmpty() || this.canvas.clientWidth === 0 || this.canvas.clientHeight === 0) return;
    const middle = box.getCenter(new Vector3());
    const width = this.canvas.clientWidth / (this.mode === 'side' ? 2 : 1);
    const aspect = Math.max(0.2, width / Math.max(1, this.canvas.clientHeight));
    // At first from front right and a little above.
    const toward = this.camera.position.clone().sub(this.controls.target);
    if (toward.length() < 1e-9) toward.set(0.55, 0.35, 1);
    toward.normalize();
    const far = distanceToFit(box, toward, this.camera.fov, aspect);
    this.controls.target.copy(middle);
    this.camera.position.copy(middle).add(toward.multiplyScalar(far));
    this.range(far);
    this.controls.update();
    this.draw();
  }

  /** Looks at the model from a direction, from so many times the distance at which it fills the picture. @param eye from its middle to the camera */
  lookFrom(eye: readonly [number, number, number], times = 1): void {
    this.camera.position.copy(this.controls.target).add(new Vector3(...eye));
    this.frame();
    if (times !== 1) this.distance *= times;
  }

  /** How many times the difference of two models is shown. */
  setGain(gain: number): void {
    this.difference.gain = gain;
    this.draw();
  }

  private range(far: number): void {
    this.camera.near = far / 200;
    this.camera.far = far * 40;
  }

  /** Metres from the camera to what it looks at. */
  get distance(): number {
    return this.camera.position.distanceTo(this.controls.target);
  }

  set distance(metres: number) {
    this.moved = true;
    const offset = this.camera.position.clone().sub(this.controls.target).setLength(metres);
    this.camera.position.copy(this.controls.target).add(offset);
    this.range(metres);
    this.controls.update();
    this.draw();
  }

  show(mode: StageMode, split = 0.5): void {
    this.mode = mode;
    this.split = split;
    this.draw();
  }

  /** Swaps what `blink` shows. */
  blink(side: 0 | 1): void {
    this.blinkSide = side;
    this.draw();
  }

  /** Turns or moves nearer by keys. */
  nudge(azimuth: number, polar: number, nearer: number): void {
    this.moved = true;
    const offset = this.camera.position.clone().sub(this.controls.target);
    const r = offset.length() * nearer;
    const theta = Math.atan2(offset.x, offset.z) + azimuth;
    const phi = Math.min(Math.PI - 0.05, Math.max(0.05, Math.acos(offset.y / offset.length()) + polar));
    offset.set(r * Math.sin(phi) * Math.sin(theta), r * Math.cos(phi), r * Math.sin(phi) * Math.cos(theta));
    this.camera.position.copy(this.controls.target).add(offset);
    this.controls.update();
    this.draw();
  }

  /** Paints the parts of the first model, or, with null, shows it as it is. */
  setTint(tint: Tint | null): void {
    this.tint = tint;
    this.dress();
    this.draw();
  }

  /** Shows one picture on all faces of the first model that have UVs, unlit, as it is stored; null goes back. */
  async setMap(url: string | null): Promise<void> {
    const map = url ? await new TextureLoader().loadAsync(url) : null;
    if (this.closed) return;
    this.map?.dispose();
    this.map = map;
    if (map) {
      map.flipY = false;
      map.colorSpace = SRGBColorSpace;
      map.anisotropy = 4;
    }
    this.dress();
    this.draw();
  }

  /** Parts of the first model that are not shown. */
  setHidden(parts: ReadonlySet<number> | null): void {
    this.hidden = parts;
    this.dress();
    this.draw();
  }

  /** Shows the first model's vertex colours alone, as they are, without its materials and without light. */
  setBare(on: boolean): void {
    this.bare = on;
    this.dress();
    this.draw();
  }

  /** Shows maps that are no files on the slot of a name of one side; null: its own material. */
  setLive(side: 0 | 1, slotName: string, maps: LiveMaps | null): void {
    const before = this.lives[side];
    this.lives[side] = maps && { slotName, material: liveMaterial(maps) };
    this.dress();
    if (before) releaseLive(before.material);
    this.draw();
  }

  /** Hatches where a mask is, on the slot of a name of the first model. */
  setHatch(slotName: string, mask: LiveMask | null): void {
    const drawn = hatchMeshes(this.placed[0], slotName, mask);
    for (const one of this.hatched) {
      one.removeFromParent();
      (one.material as Material).dispose();
    }
    this.hatched.splice(0, this.hatched.length, ...drawn);
    this.draw();
  }

  setWire(on: boolean): void {
    this.wired = on;
    this.dress();
    this.draw();
  }

  /** Only slots that were merged carry the sheet's name. */
  private mapped(placed: Placed): boolean {
    const { slotName } = placed;
    return this.mapFor === null || slotName === this.mapFor || Boolean(slotName?.startsWith(`${this.mapFor}_`));
  }

  /** Which nodes of the second model are shown, by their names (those of none: all), moved by so many m. */
  setOverlay(nodes: ReadonlySet<string> | null, move: readonly [number, number, number]): void {
    this.overlaid = nodes;
    this.holders[1].position.set(...move);
    this.dress();
    this.draw();
  }

  private inOverlay({ node }: Placed): boolean {
    const { overlaid } = this;
    return !overlaid || overlaid.has(node) || !this.placed[1].some((placed) => overlaid.has(placed.node));
  }

  private dress(): void {
    const made = new Map<string, Material>();
    this.placed.forEach((list, side) => {
      for (const placed of list) {
        placed.mesh.visible = side === 0 ? !this.hidden?.has(placed.part) : this.inOverlay(placed);
        if (side === 0 && this.bare) {
          placed.mesh.material = new MeshBasicMaterial({
            vertexColors: placed.mesh.geometry.hasAttribute('color'),
            wireframe: this.wired,
            side: 2,
          });
          continue;
        }
        if (side === 0 && this.map && this.mapped(placed)) {
          placed.mesh.material = new MeshBasicMaterial({ map: this.map, wireframe: this.wired, side: 2 });
          continue;
        }
        const live = this.lives[side];
        if (live && placed.slotName === live.slotName) {
          placed.mesh.material = live.material;
          live.material.wireframe = this.wired;
          // Without tangents of its own the library takes those of the picture, whose V grows the other way.
          live.material.normalScale.y = placed.mesh.geometry.hasAttribute('tangent') ? 1 : -1;
          continue;
        }
        const colour = side === 0 ? this.tint?.(placed.slot, placed.part) : null;
        if (colour) {
          const key = colour;
          let material = made.get(key);
          if (!material) {
            material = new MeshStandardMaterial({ color: cssColour(colour), roughness: 0.85, metalness: 0 });
            made.set(key, material);
          }
          placed.mesh.material = material;
        } else placed.mesh.material = placed.material;
        for (const material of Array.isArray(placed.mesh.material) ? placed.mesh.material : [placed.mesh.material])
          if ('wireframe' in material) material.wireframe = this.wired;
      }
    });
  }

  geometry(): PartGeometry[] {
    return partGeometry(this.placed[0]);
  }

  slotName(slot: number): string | null {
    return this.placed[0].find((placed) => placed.slot === slot)?.slotName ?? null;
  }

  picture(slot: number): ImageBitmap | HTMLImageElement | null {
    for (const placed of this.placed[0]) {
      if (placed.slot !== slot) continue;
      const material = Array.isArray(placed.material) ? placed.material[0] : placed.material;
      const map = (material as MeshStandardMaterial).map;
      return (map?.image as ImageBitmap | undefined) ?? null;
    }
    return null;
  }

  /** Lays colours over faces of the first model, one over the other. */
  setLayers(layers: readonly FaceLayer[]): void {
    this.replace(this.layers, layerMeshes(this.placed[0], layers));
  }

  /** Outlines faces of the first model; null outlines none. @param colour as CSS has it */
  setOutlined(faces: LitFaces | null, colour: string): void {
    this.outline.colour = cssColour(colour);
    this.replace(this.outlined, outlinedMeshes(this.placed[0], faces));
  }

  /** Draws lines on parts of the first model: (x, y, z) of both ends of each, in the part's own measure. */
  setLines(lines: ReadonlyMap<number, Float32Array> | null, colour: string): void {
    this.replace(this.lines, partLines(this.placed[0], lines, colour));
  }

  /** Balls and lines that are drawn over the first model. */
  setRings(rings: readonly Mark[]): void {
    const drawn = rings.map(markLines);
    for (const lineSegments of drawn) this.scenes[0].add(lineSegments);
    this.replace(this.rings, drawn);
  }

  private replace(list: Drawn[], by: Drawn[]): void {
    for (const drawn of list) {
      drawn.removeFromParent();
      drawn.geometry.dispose();
      (drawn.material as Material).dispose();
    }
    list.splice(0, list.length, ...by);
    this.draw();
  }

  /** Faces of the first model that are neither shown nor picked. */
  setHiddenFaces(faces: LitFaces | null): void {
    hideFaces(this.placed[0], faces);
    this.draw();
  }

  /** Triangles of the first model as they are seen now, px of the canvas. */
  projected(): ShownPart[] {
    const [w, h] = [this.canvas.clientWidth, this.canvas.clientHeight];
    this.camera.aspect = w / h;
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
    return projectedParts(this.placed[0], this.camera, w, h);
  }

  /** Holds the camera still, while something else is drawn with the mouse. */
  hold(still: boolean): void {
    this.controls.enabled = !still;
  }

  /** The face of the first model at a point of the canvas, px from its upper left. */
  pick(x: number, y: number): PickedFace | null {
    const w = this.canvas.clientWidth;
    const clientHeight = this.canvas.clientHeight;
    const ray = new Raycaster();
    this.camera.aspect = w / clientHeight;
    this.camera.updateProjectionMatrix();
    ray.setFromCamera(new Vector2((x / w) * 2 - 1, 1 - (y / clientHeight) * 2), this.camera);
    for (const hit of ray.intersectObjects(
      this.placed[0].filter((placed) => placed.mesh.visible).map((placed) => placed.mesh),
      false,
    )) {
      const placed = this.placed[0].find((placed) => placed.mesh === hit.object);
      if (placed && hit.faceIndex !== undefined && hit.faceIndex !== null) {
        const triangle = placed.cut ? placed.cut.shown[hit.faceIndex] : hit.faceIndex;
        return {
          part: placed.part,
          node: placed.node,
          slot: placed.slot,
          triangle,
          side: nearestSide(placed.mesh, hit.faceIndex, hit.point),
          point: hit.point.toArray(),
          normal: (hit.face?.normal ?? new Vector3(0, 1, 0))
            .clone()
            .transformDirection(hit.object.matrixWorld)
            .toArray(),
          first: this.whereFirst(placed, hit.point, hit.face?.normal),
          uv: hit.uv ? [hit.uv.x, hit.uv.y] : null,
        };
      }
    }
    return null;
  }

  /** A point of a part, and the way its face looks, where the part stands first. @param normal in its own measure */
  private whereFirst({ mesh, part }: Placed, point: Vector3, normal = new Vector3(0, 1, 0)): PickedFace['first'] {
    const first = this.placed[0].find((placed) => placed.part === part)?.mesh ?? mesh;
    return {
      point: first.localToWorld(mesh.worldToLocal(point.clone())).toArray(),
      normal: normal.clone().transformDirection(first.matrixWorld).toArray(),
    };
  }

  draw(): void {
    if (this.queued || this.closed) return;
    this.queued = true;
    requestAnimationFrame((begun) => {
      this.queued = false;
      if (this.closed) return;
      this.paint();
      requestAnimationFrame((next) => {
        if (next - begun > 50) this.slow = true;
      });
    });
  }

  private paint(): void {
    const w = this.canvas.clientWidth;
    const clientHeight = this.canvas.clientHeight;
    if (w === 0 || clientHeight === 0) return;
    const { renderer, camera } = this;
    // Setting the size makes the picture's memory again, so only when it has changed.
    const ratio = Math.min(2, window.devicePixelRatio) * (this.slow && this.moving ? 0.4 : 1);
    renderer.getSize(this.size);
    if (renderer.getPixelRatio() !== ratio) renderer.setPixelRatio(ratio);
    if (this.size.x !== w || this.size.y !== clientHeight) renderer.setSize(w, clientHeight, false);
    renderer.setScissorTest(true);
    let calls = 0;
    let triangles = 0;
    const part = (i: number, x: number, width: number, aspect: number, cutX = x, cutWidth = width) => {
      renderer.setViewport(x, 0, width, clientHeight);
      renderer.setScissor(cutX, 0, cutWidth, clientHeight);
      camera.aspect = aspect;
      camera.updateProjectionMatrix();
      renderer.clear();
      renderer.render(this.scenes[i], camera);
      calls = renderer.info.render.calls;
      triangles = renderer.info.render.triangles;
    };
    const half = Math.floor(w / 2);
    const cut = Math.round(w * this.split);
    if (this.mode === 'over') {
      part(0, 0, w, w / clientHeight);
      const [, overlay] = this.scenes;
      const { background } = overlay;
      overlay.background = null;
      overlay.overrideMaterial = this.overlay;
      renderer.render(overlay, camera);
      overlay.overrideMaterial = null;
      overlay.background = background;
    } else if (this.mode === 'one') {
      part(0, 0, w, w / clientHeight);
      if (this.outlined.length > 0) this.outline.render(renderer, this.scenes[0], camera);
    } else if (this.mode === 'blink') part(this.blinkSide, 0, w, w / clientHeight);
    else if (this.mode === 'side') {
      part(0, 0, half, half / clientHeight);
      part(1, half, w - half, (w - half) / clientHeight);
    } else if (this.mode === 'wipe') {
      part(0, 0, w, w / clientHeight, 0, cut);
      part(1, 0, w, w / clientHeight, cut, w - cut);
    } else {
      renderer.setScissorTest(false);
      renderer.setViewport(0, 0, w, clientHeight);
      camera.aspect = w / clientHeight;
      camera.updateProjectionMatrix();
      this.difference.render(renderer, this.scenes, camera);
    }
    this.onDraw?.({ calls, triangles });
  }

  /** Forgets what a view asked for, before the next one takes over. */
  reset(): void {
    this.tint = null;
    this.hidden = null;
    this.map?.dispose();
    this.map = null;
    this.mapFor = null;
    this.wired = false;
    this.bare = false;
    this.onDraw = null;
    this.onDistance = null;
    this.mode = 'one';
    this.setLayers([]);
    this.setOutlined(null, '#000');
    this.setLines(null, '#000');
    this.setRings([]);
    this.setHatch('', null);
    this.setLive(0, '', null);
    this.setLive(1, '', null);
    this.setOverlay(null, [0, 0, 0]);
    this.setHiddenFaces(null);
    this.setSun(null);
    this.dress();
  }

  dispose(): void {
    this.closed = true;
    this.resize.disconnect();
    this.controls.dispose();
    for (const holder of this.holders) release(holder);
    this.difference.dispose();
    this.outline.dispose();
    this.renderer.dispose();
  }
}
