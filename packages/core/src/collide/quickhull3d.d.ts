/** The bundled build of the library has no types of its own. */
declare module 'quickhull3d/dist/quickhull3d.js' {
  /** @returns faces by their corners' positions, counterclockwise from outside @throws for points on one plane, line or place */
  export default function quickHull(
    points: [number, number, number][],
    options?: { skipTriangulation?: boolean },
  ): number[][];
}
