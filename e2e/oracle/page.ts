/*
 * What the page of the picture oracle runs: two models in the open 3D library, from the same places, by the same light. Nothing of Wembrel is in it.
 * Reference: "Picture oracle".
 */
import {
  AmbientLight,
  type AnimationClip,
  AnimationMixer,
  Box3,
  Color,
  DirectionalLight,
  Group,
  LinearFilter,
  type Material,
  Mesh,
  MeshBasicMaterial,
  MeshNormalMaterial,
  type MeshStandardMaterial,
  NearestFilter,
  NoToneMapping,
  type Object3D,
  OrthographicCamera,
  Scene,
  type Texture,
  Vector3,
  WebGLRenderer,
} from 'three';
import { type GLTF, GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';

/** What is drawn. */
const CHANNELS = ['base colour', 'lit', 'roughness, metallic', 'normal', 'emissive'] as const;
type Channel = (typeof CHANNELS)[number];

/** Directions from which models are seen. */
const EYES: [number, number, number][] = [
  [1, 0.5, 1],
  [-1, 0.5, 1],
  [0.6, 0.4, -1],
  [0, 0, 1],
  [0.4, 1, 0.3],
  [0.5, -0.8, 0.6],
];

/** Shares of the distance at which a model fills the picture. */
const DISTANCES = [0.4, 1, 3] as const;

/** Samples a pixel of the truth, along each side. */
const SAMPLES = 4;

export interface OracleRow {
  channel: Channel;
  distance: number;
  /** Share of the first animation at which it stands; null as it is stored. */
  pose: number | null;
  /** In the worst view: dB against the truth, of the original and of the result. */
  original: number;
  result: number;
  /** Pixels that both cover over those that either covers, in the worst view. */
  overlap: number;
}

/** Share of the first animation at which animated models are looked at as well. */
const POSE = 0.4;

interface Loaded {
  group: Group;
  animations: AnimationClip[];
  /** Materials as they came, by mesh. */
  own: Map<Mesh, Material>;
}

async function load(base64: string): Promise<Loaded> {
  const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
  const gltf = await new GLTFLoader().parseAsync(bytes.buffer, '');
  const group: Group = gltf.scene ?? (await withoutScene(gltf));
  const own = new Map<Mesh, Material>();
  group.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    own.set(object, object.material as Material);
    // The library writes names into its shaders, where one with a line break is an error.
    object.material.name = '';
  });
  // Shapes for collisions are nobody's picture.
  group.traverse((object) => {
    if (/^UCX_|collision/.test(object.name)) object.visible = false;
  });
  group.updateMatrixWorld(true);
  return { group, own, animations: gltf.animations };
}

/** Takes a pose: a share of the first animation. */
function pose({ group, animations }: Loaded, share: number): void {
  const [clip] = animations;
  const mixer = new AnimationMixer(group);
  mixer.clipAction(clip).play();
  mixer.setTime(clip.duration * share);
  group.updateMatrixWorld(true);
}

/** The nodes of a file that has no scene. */
async function withoutScene({ parser }: GLTF): Promise<Group> {
  const nodes: Object3D[] = await parser.getDependencies('node');
  const group = new Group();
  group.add(...nodes.filter((node) => node.parent === null));
  return group;
}

/** A material that shows one channel alone. */
function shown(material: MeshStandardMaterial, channel: Channel): Material {
  const { side, transparent, opacity, alphaTest, map } = material;
  const common = { side, transparent, opacity, alphaTest, depthWrite: material.depthWrite };
  const { vertexColors } = material;
  switch (channel) {
    case 'lit':
      return material;
    case 'base colour':
      return new MeshBasicMaterial({ ...common, map, color: material.color, vertexColors });
    case 'normal':
      return new MeshNormalMaterial({
        ...common,
        flatShading: material.flatShading,
        ...(material.normalMap ? { normalMap: material.normalMap, normalScale: material.normalScale } : {}),
      });
    case 'roughness, metallic':
      return new MeshBasicMaterial({
        ...common,
        map: material.roughnessMap ?? null,
        color: new Color(0, material.roughness ?? 1, material.metalness ?? 0),
      });
    case 'emissive':
      return new MeshBasicMaterial({
        ...common,
        map: material.emissiveMap ?? null,
        color: (material.emissive ?? new Color(0)).clone().multiplyScalar(Math.min(1, material.emissiveIntensity ?? 1)),
      });
  }
}

function texturesOf({ own }: Loaded): Texture[] {
  const out = new Set<Texture>();
  for (const material of own.values())
    for (const value of Object.values(material)) if (value && (value as Texture).isTexture) out.add(value as Texture);
  return [...out];
}

/** The same model, its textures read at their finest level alone. */
async function loadFinest(base64: string): Promise<Loaded> {
  const loaded = await load(base64);
  for (const texture of texturesOf(loaded))
    texture.minFilter = texture.magFilter === NearestFilter ? NearestFilter : LinearFilter;
  return loaded;
}

class Oracle {
  private readonly renderer = new WebGLRenderer({ antialias: false, alpha: true, preserveDrawingBuffer: true });
  private readonly scene = new Scene();

  constructor(private readonly side: number) {
    this.renderer.toneMapping = NoToneMapping;
    this.renderer.setClearColor(0x000000, 0);
    const sun = new DirectionalLight(0xffffff, 2);
    sun.position.set(1, 2, 1.5);
    this.scene.add(sun, new AmbientLight(0xffffff, 0.8));
  }

  /** From now on models show a channel. @returns what ends that */
  show(models: readonly Loaded[], channel: Channel): () => void {
    const made = new Map<Material, Material>();
    for (const { own } of models)
      for (const [mesh, material] of own) {
        const other = made.get(material) ?? shown(material as MeshStandardMaterial, channel);
        made.set(material, other);
        mesh.material = other;
      }
    return () => {
      for (const [material, other] of made) if (other !== material) other.dispose();
    };
  }

  /** RGBA of a model, `samples`² times as many pixels. */
  private picture(loaded: Loaded, camera: OrthographicCamera, samples: number): Uint8Array {
    this.scene.add(loaded.group);
    const side = this.side * samples;
    this.renderer.setSize(side, side, false);
    this.renderer.render(this.scene, camera);
    this.scene.remove(loaded.group);
    const gl = this.renderer.getContext();
    const out = new Uint8Array(side * side * 4);
    gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, out);
    return out;
  }

  /** Of the channel that they show. @param finest the original as `loadFinest` has it */
  compare(
    [finest, original, result]: readonly Loaded[],
    { channel, distance, pose }: Pick<OracleRow, 'channel' | 'distance' | 'pose'>,
  ): OracleRow {
    const box = new Box3().setFromObject(original.group, true);
    const row: OracleRow = { channel, distance, pose, original: Infinity, result: Infinity, overlap: 1 };
    for (const eye of EYES) {
      const camera = cameraOf(box, eye, distance);
      const truth = averaged(this.picture(finest, camera, SAMPLES), this.side);
      const a = this.picture(original, camera, 1);
      const b = this.picture(result, camera, 1);
      const [own, its] = [psnr(truth, a), psnr(truth, b)];
      if (its - Math.min(40, own - 1) < row.result - Math.min(40, row.original - 1) || row.result === Infinity)
        [row.original, row.result] = [own, its];
      row.overlap = Math.min(row.overlap, overlap(a, b));
    }
    return row;
  }
}

function cameraOf(box: Box3, eye: [number, number, number], distance: number): OrthographicCamera {
  const middle = box.getCenter(new Vector3());
  const radius = Math.max(1e-6, box.getSize(new Vector3()).length() / 2);
  const half = radius * distance;
  const camera = new OrthographicCamera(-half, half, half, -half, radius * 0.01, radius * 40);
  camera.position.copy(middle).add(new Vector3(...eye).normalize().multiplyScalar(radius * 20));
  camera.lookAt(middle);
  return camera;
}

const TO_LINEAR = Float64Array.from({ length: 256 }, (_, v) => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
});
const encoded = (l: number) => 255 * (l <= 0.0031308 ? 12.92 * l : 1.055 * l ** (1 / 2.4) - 0.055);

/** The mean of the samples of each pixel, in linear light. */
function averaged(rgba: Uint8Array, side: number): Float64Array {
  const out = new Float64Array(side * side * 4);
  const wide = side * SAMPLES;
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++)
      for (let c = 0; c < 4; c++) {
        let sum = 0;
        for (let v = 0; v < SAMPLES; v++)
          for (let u = 0; u < SAMPLES; u++) {
            const value = rgba[((y * SAMPLES + v) * wide + x * SAMPLES + u) * 4 + c];
            sum += c === 3 ? value / 255 : TO_LINEAR[value];
          }
        const mean = sum / SAMPLES ** 2;
        out[(y * side + x) * 4 + c] = c === 3 ? 255 * mean : encoded(mean);
      }
  return out;
}

/** dB over the pixels that the truth covers. */
function psnr(truth: Float64Array, picture: Uint8Array): number {
  let [sum, n] = [0, 0];
  for (let i = 0; i < truth.length; i += 4) {
    if (truth[i + 3] === 0 && picture[i + 3] === 0) continue;
    n += 3;
    for (let c = 0; c < 3; c++) sum += (truth[i + c] - picture[i + c]) ** 2;
  }
  return n === 0 || sum === 0 ? 99 : Math.min(99, 10 * Math.log10((255 * 255 * n) / sum));
}

function overlap(a: Uint8Array, b: Uint8Array): number {
  let [both, either] = [0, 0];
  for (let i = 3; i < a.length; i += 4) {
    const [x, y] = [a[i] > 0, b[i] > 0];
    if (x && y) both++;
    if (x || y) either++;
  }
  return either === 0 ? 1 : both / either;
}

/** Both models as embedded GLBs, base64. @returns a row for each channel and distance; null where the library cannot read the original */
async function rows(original: string, result: string, side: number): Promise<OracleRow[] | null> {
  const delivered = await load(result);
  const finest = await loadFinest(original).catch(() => null);
  if (!finest) return null;
  const models = [finest, await load(original), delivered];
  oracle ??= new Oracle(side);
  const out = rowsOf(oracle, models, null);
  if (models.every(({ animations }) => animations.length > 0)) {
    for (const model of models) pose(model, POSE);
    out.push(...rowsOf(oracle, models, POSE));
  }
  for (const model of models) release(model);
  return out;
}

function rowsOf(oracle: Oracle, models: readonly Loaded[], pose: number | null): OracleRow[] {
  const out: OracleRow[] = [];
  for (const channel of CHANNELS) {
    const end = oracle.show(models, channel);
    for (const distance of DISTANCES) out.push(oracle.compare(models, { channel, distance, pose }));
    end();
  }
  return out;
}

/** One a page: a browser keeps few contexts for drawing. */
let oracle: Oracle | undefined;

function release(loaded: Loaded): void {
  for (const texture of texturesOf(loaded)) texture.dispose();
  for (const [mesh, material] of loaded.own) {
    mesh.geometry.dispose();
    material.dispose();
  }
}

Object.assign(window, { oracleRows: rows });
