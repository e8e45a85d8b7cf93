import { BufferGeometry, Line3, Mesh, type Object3D, type Texture, Uint32BufferAttribute, Vector3 } from 'three';

/** The same vertices with some of the triangles. */
export function someFaces(whole: BufferGeometry, which: Uint32Array | 'all'): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', whole.getAttribute('position'));
  const index = whole.getIndex();
  if (which === 'all') return geometry.setIndex(index);
  const list = new Uint32Array(which.length * 3);
  for (let i = 0; i < list.length; i++) {
    const at = which[Math.floor(i / 3)] * 3 + (i % 3);
    list[i] = index ? index.getX(at) : at;
  }
  return geometry.setIndex(new Uint32BufferAttribute(list, 1));
}

/** The side of a triangle that lies nearest to a point of the scene. */
export function nearestSide(mesh: Mesh, face: number, point: Vector3): number {
  const at = mesh.geometry.getAttribute('position');
  const index = mesh.geometry.getIndex();
  const corner = (k: number) => {
    const i = face * 3 + (k % 3);
    return new Vector3().fromBufferAttribute(at, index ? index.getX(i) : i).applyMatrix4(mesh.matrixWorld);
  };
  const near = new Vector3();
  const distance = [0, 1, 2].map((k) =>
    new Line3(corner(k), corner(k + 1)).closestPointToPoint(point, true, near).distanceToSquared(point),
  );
  return [0, 1, 2].reduce((best, k) => (distance[k] < distance[best] ? k : best), 0);
}

/** Gives back what a model holds on the graphics card. */
export function release(object: Object3D): void {
  object.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    object.geometry.dispose();
    for (const m of Array.isArray(object.material) ? object.material : [object.material]) {
      for (const v of Object.values(m) as unknown[]) if ((v as Texture | null)?.isTexture) (v as Texture).dispose();
      m.dispose();
    }
  });
}
