import { rootsOf, treeRoles } from '@wembrel/core/scene/roles';
import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineSegments,
  type Material,
  Mesh,
  MeshBasicMaterial,
  type MeshStandardMaterial,
  Object3D,
  Vector2,
} from 'three';
import type { GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { cssColour } from './css-colour.ts';
import { OUTLINED } from './outline-pass.ts';
import { someFaces } from './stage-meshes.ts';

/** The parts of a model as they stand in a stage, and what is drawn over their faces. */

/** Triangles of a part as its file has them. */
export interface PartGeometry {
  part: number;
  /** Number of its mesh; parts of one mesh hang together. */
  mesh: number;
  slot: number;
  positions: Float32Array;
  indices: Uint32Array;
  /** (u, v) of each vertex as its slot's base colour is read, of set 0 without one; V down. Null without UVs. */
  uv: Float32Array | null;
  /** Local to scene, linear. */
  scale: number;
}

/** A colour over some faces. */
export interface FaceLayer {
  faces: LitFaces;
  colour: string;
  opacity: number;
}

/** Faces that are lit: whole parts, or some triangles of them. */
export type LitFaces = ReadonlyMap<number, Uint32Array | 'all'>;

/** What a stage draws over a model. */
export type Drawn = Mesh | LineSegments;

export interface Placed {
  mesh: Mesh;
  part: number;
  slot: number;
  /** Name of its slot as the file has it; null without one. */
  slotName: string | null;
  material: Material | Material[];
  meshNumber: number;
  /** Name of the node that places it. */
  node: string;
  /** Its geometry without hidden faces, and which triangle each of those left is; null: all are shown. */
  cut: { whole: BufferGeometry; shown: Uint32Array } | null;
}

/** The parts of a loaded model as they stand: numbered over all meshes of its file, one primitive after another. */
export function partsOf({ scene, parser }: GLTF): Placed[] {
  const json = parser.json as {
    meshes?: { primitives: { material?: number }[] }[];
    materials?: { name?: string }[];
    nodes?: { name?: string }[];
  };
  hideUndrawn(parser);
  const firstPart: number[] = [];
  let parts = 0;
  for (const mesh of json.meshes ?? []) {
    firstPart.push(parts);
    parts += mesh.primitives.length;
  }
  const nodeName = (object: Object3D | null): string => {
    if (!object) return '';
    const at = parser.associations.get(object) as { nodes?: number } | undefined;
    return at?.nodes === undefined ? nodeName(object.parent) : (json.nodes?.[at.nodes].name ?? '');
  };
  const out: Placed[] = [];
  scene.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    const at = parser.associations.get(object) as { meshes?: number; primitives?: number } | undefined;
    if (at?.meshes === undefined) return;
    const p = at.primitives ?? 0;
    const slot = json.meshes?.[at.meshes].primitives[p].material;
    // Names are written into shaders, where one with a line break is an error.
    for (const material of [object.material].flat() as Material[]) material.name = '';
    out.push({
      mesh: object,
      part: firstPart[at.meshes] + p,
      node: nodeName(object),
      slot: slot ?? json.materials?.length ?? 0,
      slotName: (slot === undefined ? null : json.materials?.[slot].name) || null,
      material: object.material,
      meshNumber: at.meshes,
      cut: null,
    });
  });
  return out;
}

/** What a file says of nodes that are not drawn. */
interface NodeJson {
  name?: string;
  children?: number[];
  extensions?: { MSFT_lod?: { ids?: number[] }; KHR_node_visibility?: { visible?: boolean } };
}

/** Nodes that are not drawn (lower levels, collision shapes, what is switched off) are out of sight, as they are out of every count. */
function hideUndrawn({ json, associations }: GLTF['parser']): void {
  const {
    nodes = [],
    scenes = [],
    scene = 0,
  } = json as { nodes?: NodeJson[]; scenes?: { nodes?: number[] }[]; scene?: number };
  const tree = nodes.map(({ name = '', children = [], extensions }) => ({
    name,
    children,
    levels: extensions?.MSFT_lod?.ids ?? [],
    off: extensions?.KHR_node_visibility?.visible === false,
  }));
  const { roles } = treeRoles(tree, scenes[scene]?.nodes ?? rootsOf(tree));
  for (const [object, at] of associations as Map<unknown, { nodes?: number }>)
    if (object instanceof Object3D && at.nodes !== undefined && roles.get(at.nodes) !== 'drawn') object.visible = false;
}

/** Material of a colour over faces. */
export function overlayMaterial(): MeshBasicMaterial {
  return new MeshBasicMaterial({
    transparent: true,
    opacity: 0.55,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: 0,
    polygonOffsetUnits: -2,
    side: 2,
  });
}

/** The geometry of a part, hidden faces and all. */
const wholeOf = (placed: Placed): BufferGeometry => placed.cut?.whole ?? placed.mesh.geometry;

/** Where vertices lie on the picture of their slot: the UV set and the transform are those of its base colour. */
function pictureUv(placed: Placed, geometry: BufferGeometry): Float32Array | null {
  const material = Array.isArray(placed.material) ? placed.material[0] : placed.material;
  const { map } = material as MeshStandardMaterial;
  const uv = geometry.getAttribute(map?.channel ? `uv${map.channel}` : 'uv');
  if (!uv) return null;
  if (map?.matrixAutoUpdate) map.updateMatrix();
  const out = new Float32Array(uv.count * 2);
  const at = new Vector2();
  for (let v = 0; v < uv.count; v++) {
    at.set(uv.getX(v), uv.getY(v));
    if (map) at.applyMatrix3(map.matrix);
    out[2 * v] = at.x;
    out[2 * v + 1] = at.y;
  }
  return out;
}

/** Triangles of all parts, in order. */
export function partGeometry(placed: readonly Placed[]): PartGeometry[] {
  const out = new Map<number, PartGeometry>();
  for (const p of placed) {
    if (out.has(p.part)) continue;
    const geometry = wholeOf(p);
    const at = geometry.getAttribute('position');
    const index = geometry.getIndex();
    const count = index?.count ?? at.count;
    out.set(p.part, {
      part: p.part,
      mesh: p.meshNumber,
      slot: p.slot,
      positions: Float32Array.from({ length: at.count * 3 }, (_, i) => at.getComponent(Math.floor(i / 3), i % 3)),
      indices: Uint32Array.from({ length: count - (count % 3) }, (_, i) => (index ? index.getX(i) : i)),
      uv: pictureUv(p, geometry),
      scale: Math.cbrt(Math.abs(p.mesh.matrixWorld.determinant())),
    });
  }
  return [...out.values()].sort((a, b) => a.part - b.part);
}

/** Faces that get an outline, hung into their parts; they are not drawn themselves. */
export function outlinedMeshes(placed: readonly Placed[], faces: LitFaces | null): Drawn[] {
  if (!faces) return [];
  return placed.flatMap((one) => {
    const which = faces.get(one.part);
    if (!which || (which !== 'all' && which.length === 0)) return [];
    const mesh = new Mesh(someFaces(wholeOf(one), which), new MeshBasicMaterial());
    mesh.layers.set(OUTLINED);
    mesh.raycast = () => {};
    one.mesh.add(mesh);
    return [mesh];
  });
}

/** Colours over faces, one over the other, hung into their parts. */
export function layerMeshes(placed: readonly Placed[], layers: readonly FaceLayer[]): Drawn[] {
  return layers.flatMap(({ faces, colour, opacity }, i) =>
    placed.flatMap((placed) => {
      const which = faces.get(placed.part);
      if (!which || (which !== 'all' && which.length === 0)) return [];
      const material = overlayMaterial();
      material.color.copy(cssColour(colour));
      material.opacity = opacity;
      material.polygonOffsetUnits = -2 - i;
      const layer = new Mesh(someFaces(wholeOf(placed), which), material);
      layer.renderOrder = i + 1;
      layer.raycast = () => {};
      placed.mesh.add(layer);
      return [layer];
    }),
  );
}

/** Lines on parts, hung into them: (x, y, z) of both ends of each, in the part's own measure. */
export function partLines(
  placed: readonly Placed[],
  lines: ReadonlyMap<number, Float32Array> | null,
  colour: string,
): Drawn[] {
  return placed.flatMap((placed) => {
    const ends = lines?.get(placed.part);
    if (!ends || ends.length === 0) return [];
    const geometry = new BufferGeometry().setAttribute('position', new Float32BufferAttribute(ends, 3));
    const drawn = new LineSegments(geometry, new LineBasicMaterial({ color: cssColour(colour), depthTest: true }));
    drawn.renderOrder = 50;
    drawn.raycast = () => {};
    placed.mesh.add(drawn);
    return [drawn];
  });
}

/** Leaves faces out of what parts show; null brings all back. */
export function hideFaces(placed: readonly Placed[], faces: LitFaces | null): void {
  for (const p of placed) {
    const hidden = faces?.get(p.part);
    if (p.cut) {
      p.mesh.geometry.dispose();
      p.mesh.geometry = p.cut.whole;
      p.cut = null;
    }
    if (!hidden || (hidden !== 'all' && hidden.length === 0)) continue;
    const whole = p.mesh.geometry;
    const count = Math.floor((whole.getIndex()?.count ?? whole.getAttribute('position').count) / 3);
    const gone = new Uint8Array(count);
    if (hidden === 'all') gone.fill(1);
    else for (const t of hidden) gone[t] = 1;
    const shown = Uint32Array.from(gone.keys()).filter((t) => !gone[t]);
    p.cut = { whole, shown };
    p.mesh.geometry = someFaces(whole, shown);
    for (const [name, a] of Object.entries(whole.attributes)) p.mesh.geometry.setAttribute(name, a);
  }
}
