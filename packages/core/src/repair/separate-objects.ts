import type { Document, Material, Mesh, Node } from '@gltf-transform/core';
import { fitsObject } from '../decisions/object-patterns.ts';
import { nodeRoles } from '../scene/node-roles.ts';
import { objectNames } from '../scene/object-names.ts';

/** A mesh as some of its nodes draw it: which patterns these fit. */
interface Use {
  mesh: Mesh;
  nodes: Node[];
  /** Positions of the patterns, as text; empty where none fits. */
  fits: string;
}

const NO_MATERIAL = 'no material';

/**
 * Splits slots that objects share with others, so that every slot belongs to objects that fit the same patterns. A mesh that both draw is copied,
 * its arrays shared. Slots that are whole keep their names; split ones are called after the slot and the pattern.
 * @param path of the model, for patterns that name one @returns how many slots more there are
 */
export function separateObjects(document: Document, path: string, patterns: readonly string[]): number {
  if (patterns.length === 0) return 0;
  const uses = usesOf(document, path, patterns);
  /** What each material is used by, in the order of patterns. */
  const fitsOf = new Map<Material | null, Set<string>>();
  for (const { mesh, fits } of uses.flat())
    for (const primitive of mesh.listPrimitives()) {
      const material = primitive.getMaterial();
      fitsOf.set(material, (fitsOf.get(material) ?? new Set()).add(fits));
    }
  const own = new OwnMaterials(document, patterns);
  const isShared = (material: Material | null) => (fitsOf.get(material)?.size ?? 0) > 1;
  for (const ofMesh of uses) {
    const [{ mesh }] = ofMesh;
    if (!mesh.listPrimitives().some((primitive) => isShared(primitive.getMaterial()))) continue;
    // Copies are made of what the mesh was: the use that keeps it comes last.
    const keeper = ofMesh.find(({ fits }) => fits === '') ?? ofMesh[0];
    for (const use of [...ofMesh.filter((other) => other !== keeper), keeper]) {
      const target = use === keeper ? mesh : copyOf(mesh, use.nodes);
      if (use.fits === '') continue;
      for (const primitive of target.listPrimitives()) {
        const material = primitive.getMaterial();
        if (isShared(material)) primitive.setMaterial(own.of(material, use.fits));
      }
    }
  }
  for (const material of document.getRoot().listMaterials())
    if (fitsOf.has(material) && material.listParents().every((parent) => parent.propertyType === 'Root'))
      material.dispose();
  return own.count;
}

/** What draws each mesh, by which patterns it fits. */
function usesOf(document: Document, path: string, patterns: readonly string[]): Use[][] {
  const uses = new Map<Mesh, Map<string, Use>>();
  for (const [node, role] of nodeRoles(document).of) {
    const mesh = node.getMesh();
    if (!mesh || role !== 'drawn') continue;
    const names = objectNames(node, mesh);
    const fits = patterns.flatMap((pattern, i) => (fitsObject(pattern, path, names) ? [i] : [])).join(' ');
    const own = uses.get(mesh) ?? new Map<string, Use>();
    uses.set(mesh, own);
    const use = own.get(fits) ?? { mesh, nodes: [], fits };
    own.set(fits, use);
    use.nodes.push(node);
  }
  return [...uses.values()].map((own) => [...own.values()]);
}

/** A copy of a mesh with primitives of its own, drawn by some nodes in its place. */
function copyOf(mesh: Mesh, nodes: readonly Node[]): Mesh {
  const copy = mesh.clone();
  for (const primitive of mesh.listPrimitives()) copy.removePrimitive(primitive).addPrimitive(primitive.clone());
  for (const node of nodes) node.setMesh(copy);
  return copy;
}

/** Materials for what fits patterns, one for each material and fit. */
class OwnMaterials {
  private readonly made = new Map<string, Material>();
  private readonly names: Set<string>;

  constructor(
    private readonly document: Document,
    private readonly patterns: readonly string[],
  ) {
    this.names = new Set(
      document
        .getRoot()
        .listMaterials()
        .map((material) => material.getName()),
    );
  }

  get count(): number {
    return this.made.size;
  }

  of(material: Material | null, fits: string): Material {
    const number = material ? this.document.getRoot().listMaterials().indexOf(material) : -1;
    const key = `${number} ${fits}`;
    const known = this.made.get(key);
    if (known) return known;
    const made = material ? material.clone() : this.document.createMaterial();
    made.setName(this.free(`${material?.getName() || NO_MATERIAL} (${this.title(fits)})`));
    this.made.set(key, made);
    return made;
  }

  /** The first pattern, without its model and its stars. */
  private title(fits: string): string {
    const pattern = this.patterns[Number(fits.split(' ')[0])];
    return pattern.slice(pattern.lastIndexOf('/') + 1).replaceAll('*', '') || 'chosen';
  }

  private free(name: string): string {
    let out = name;
    for (let i = 2; this.names.has(out); i++) out = `${name} ${i}`;
    this.names.add(out);
    return out;
  }
}
