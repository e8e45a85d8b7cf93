import { rootsOf, treeRoles } from '../../scene/roles.ts';
import type { GltfJson } from './gltf-json.ts';

/** How an image is read: as colours, or as values. */
type ImageSpace = 'srgb' | 'linear';

/** What an engine would make of one file. */
export interface LoadCount {
  /** Primitives over all drawn nodes; instanced copies count once. */
  drawCalls: number;
  /** As drawn, instanced copies too. */
  triangles: number;
  /** Materials in use, by their positions in the file. */
  materials: number[];
  /** How each image in use is read, by its position. */
  images: Map<number, Set<ImageSpace>>;
  /** It holds collision shapes and nothing that is drawn. */
  collides: boolean;
}

/** Textures that hold colours, by their names in materials and their extensions; all others hold values. */
const COLOUR_TEXTURES = new Set([
  'baseColorTexture',
  'emissiveTexture',
  'diffuseTexture',
  'specularGlossinessTexture',
  'sheenColorTexture',
  'specularColorTexture',
]);

/** Triangle modes of glTF: list, strip, fan. */
const TRIANGLES: Record<number, (count: number) => number> = {
  4: (count) => Math.floor(count / 3),
  5: (count) => Math.max(0, count - 2),
  6: (count) => Math.max(0, count - 2),
};

/** Counts what a file costs when it is loaded, from its JSON alone. Nodes that are not drawn (lower levels, collision shapes) count nothing. */
export function countLoad(json: GltfJson): LoadCount {
  const materials = new Set<number>();
  let drawCalls = 0;
  let triangles = 0;
  const { drawn, collision } = meshesByRole(json);
  for (const { mesh, copies } of drawn)
    for (const primitive of json.meshes?.[mesh]?.primitives ?? []) {
      drawCalls++;
      const vertices = json.accessors?.[primitive.attributes?.POSITION ?? -1]?.count ?? 0;
      const count = primitive.indices === undefined ? vertices : (json.accessors?.[primitive.indices]?.count ?? 0);
      triangles += (TRIANGLES[primitive.mode ?? 4]?.(count) ?? 0) * copies;
      if (primitive.material !== undefined) materials.add(primitive.material);
    }
  return {
    drawCalls,
    triangles,
    materials: [...materials].sort((a, b) => a - b),
    images: imagesOf(json, materials),
    collides: drawn.length === 0 && collision > 0,
  };
}

/** Meshes that are drawn, with how often, and how many stand for collisions. */
function meshesByRole(json: GltfJson): { drawn: { mesh: number; copies: number }[]; collision: number } {
  const tree = (json.nodes ?? []).map(({ name = '', children = [], extensions }) => ({
    name,
    children,
    levels: extensions?.MSFT_lod?.ids ?? [],
    off: extensions?.KHR_node_visibility?.visible === false,
  }));
  const { roles } = treeRoles(tree, json.scenes?.[json.scene ?? 0]?.nodes ?? rootsOf(tree));
  const drawn: { mesh: number; copies: number }[] = [];
  let collision = 0;
  (json.nodes ?? []).forEach(({ mesh, extensions }, node) => {
    if (mesh === undefined) return;
    if (roles.get(node) === 'collision') collision++;
    if (roles.get(node) !== 'drawn') return;
    const [first] = Object.values(extensions?.EXT_mesh_gpu_instancing?.attributes ?? {});
    drawn.push({ mesh, copies: first === undefined ? 1 : (json.accessors?.[first]?.count ?? 1) });
  });
  return { drawn, collision };
}

function imagesOf(json: GltfJson, materials: ReadonlySet<number>): Map<number, Set<ImageSpace>> {
  const out = new Map<number, Set<ImageSpace>>();
  for (const material of materials)
    for (const { name, texture } of texturesOf(json.materials?.[material])) {
      const image = imageOf(json, texture);
      if (image === undefined) continue;
      const spaces = out.get(image) ?? new Set();
      out.set(image, spaces.add(COLOUR_TEXTURES.has(name) ? 'srgb' : 'linear'));
    }
  return out;
}

/** Image that a texture reads, by its position: that of an extension first. */
export function imageOf(json: GltfJson, texture: number): number | undefined {
  const { source, extensions } = json.textures?.[texture] ?? {};
  return extensions?.KHR_texture_basisu?.source ?? extensions?.EXT_texture_webp?.source ?? source;
}

/** Textures of a material and its extensions, by name. */
function texturesOf(value: unknown): { name: string; texture: number }[] {
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([name, inner]) => {
    const index = (inner as { index?: unknown } | null)?.index;
    return name.endsWith('Texture') && typeof index === 'number' ? [{ name, texture: index }] : texturesOf(inner);
  });
}
