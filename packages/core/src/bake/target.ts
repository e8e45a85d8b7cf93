import type { Layout, PlacedPlot } from '../layout/layout.ts';
import { placePoint } from '../layout/place.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { cornerNormals, cornerVectors, sourceFrames } from '../mesh/corner-frames.ts';
import { cornerTangents } from '../mesh/tangents.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { type ImageSizes, layoutUse, referenceSize } from '../plan/layout-texture.ts';
import type { Routing } from '../plan/route.ts';
import { type RoutedMaterial, slotKey } from '../plan/route.ts';
import type { MaterialLook } from '../scene/material.ts';
import type { Model, Part } from '../scene/model.ts';

/**
 * A part as it will be handed over: new vertices with new UVs. Every array is indexed by new vertex, `indices` by corner.
 */
export interface TargetPart {
  model: number;
  part: number;
  /** Routed material. */
  material: number;
  sheet: number;
  /** The vertex of the source part that each new vertex copies. */
  sourceVertex: Uint32Array;
  indices: Uint32Array;
  /** New UVs in 0 … 1, V down. */
  uv: Float32Array;
  normals: Float32Array;
  /** x y z w on the new UVs, when the sheet has a normal map. */
  tangents: Float32Array | null;
  /** They are written: some part that becomes one with it had tangents. Else the reader makes them, as it did for the source. */
  writesTangents: boolean;
  /** The source had no normals, so that flat ones were made and vertices were split. */
  madeNormals: boolean;
  /** Vertex colours were baked in (or, for a swatch, stay on the part). */
  keepsColors: boolean;
  /** Frames of the source's normal map by corner: x y z w. */
  sourceTangents: Float32Array | null;
}

/** True when some material on the sheet has a normal map, so that the sheet gets one. */
function sheetsWithNormals(routing: Routing, layout: Layout): boolean[] {
  return layout.sheets.map(
    (sheet, s) =>
      !sheet.without.includes('normal') &&
      routing.materials.some((material) => material.sheet === s && material.look.normal),
  );
}

/** Builds all target parts of a layout. `tangentsReady` must have resolved. @param dressed whether something is laid on a sheet later, which needs frames */
export function targetParts(
  models: Model[],
  routing: Routing,
  layout: Layout,
  sizes: ImageSizes,
  dressed: (sheet: string) => boolean = () => false,
): TargetPart[] {
  const withNormals = sheetsWithNormals(routing, layout).map(
    (normals, s) => normals || (dressed(layout.sheets[s].name) && !layout.sheets[s].without.includes('normal')),
  );
  const plotOf = new Map<string, { plot: PlacedPlot; shiftX: number; shiftY: number; triangles: Uint32Array }[]>();
  for (const sheet of layout.sheets)
    for (const plot of sheet.plots)
      for (const island of plot.islands) {
        const key = `${island.model}:${island.part}`;
        const list = plotOf.get(key) ?? [];
        list.push({ plot, shiftX: island.shiftX, shiftY: island.shiftY, triangles: island.triangles });
        plotOf.set(key, list);
      }
  const out: TargetPart[] = [];
  models.forEach((model, m) => {
    const hadTangents = groupsWithTangents(model, m, routing);
    for (const part of model.parts) {
      const material = routing.routed.get(slotKey(m, part.slot));
      const places = plotOf.get(`${m}:${part.id}`);
      if (material === undefined || !places) continue;
      const { look } = routing.materials[material];
      const sheet = routing.materials[material].sheet;
      const routed = routing.materials[material];
      const use = layoutUse(routed, sizes);
      const xy = use ? layoutCoordinates(part, use, referenceSize(routed, sizes)) : null;
      const { indices } = part;
      const uv = new Float32Array(indices.length * 2);
      const { width, height } = layout.sheets[sheet];
      for (const { plot, shiftX, shiftY, triangles } of places)
        for (const triangle of triangles)
          for (let c = triangle * 3; c < triangle * 3 + 3; c++) {
            const v = indices[c];
            const [px, py] = placePoint(plot, xy ? xy[v * 2] - shiftX : 0, xy ? xy[v * 2 + 1] - shiftY : 0);
            uv[c * 2] = px / width;
            uv[c * 2 + 1] = py / height;
          }
      out.push({
        ...assemble({ model: m, part, material, sheet, look, uv, withNormals: withNormals[sheet], swatch: !use }),
        writesTangents: withNormals[sheet] && hadTangents.has(groupOf(routed)),
      });
    }
  });
  return out;
}

/** What shares a material of one model may be joined, and so has the same attributes. */
const groupOf = ({ sheet, classKey }: RoutedMaterial): string => `${sheet} ${classKey}`;

/** Groups of a model in which some part has tangents. */
function groupsWithTangents(model: Model, m: number, routing: Routing): Set<string> {
  const out = new Set<string>();
  for (const part of model.parts) {
    const material = routing.routed.get(slotKey(m, part.slot));
    if (material !== undefined && part.primitive.getAttribute('TANGENT')) out.add(groupOf(routing.materials[material]));
  }
  return out;
}

interface Placing {
  model: number;
  part: Part;
  material: number;
  sheet: number;
  look: MaterialLook;
  uv: Float32Array;
  withNormals: boolean;
  swatch: boolean;
}

function assemble({
  model,
  part,
  material,
  sheet,
  look,
  uv,
  withNormals,
  swatch,
}: Placing): Omit<TargetPart, 'writesTangents'> {
  const normals = cornerNormals(part);
  const tangents = withNormals ? cornerTangents(cornerVectors(part.positions, part.indices, 3), normals, uv) : null;
  const columns = [byteColumn(part.indices, 1), byteColumn(uv, 2)];
  if (!part.normals) columns.push(byteColumn(normals, 3));
  if (tangents) columns.push(byteColumn(tangents, 4));
  const { first, count } = weldVertices(columns, part.indices.length);
  const sourceVertex = new Uint32Array(count);
  const indices = new Uint32Array(part.indices.length);
  const outUv = new Float32Array(count * 2);
  const outNormals = new Float32Array(count * 3);
  const outTangents = tangents ? new Float32Array(count * 4) : null;
  let next = 0;
  for (let c = 0; c < indices.length; c++) {
    if (first[c] !== c) {
      indices[c] = indices[first[c]];
      continue;
    }
    sourceVertex[next] = part.indices[c];
    outUv.set(uv.subarray(c * 2, c * 2 + 2), next * 2);
    outNormals.set(normals.subarray(c * 3, c * 3 + 3), next * 3);
    if (outTangents && tangents) outTangents.set(tangents.subarray(c * 4, c * 4 + 4), next * 4);
    indices[c] = next++;
  }
  return {
    model,
    part: part.id,
    material,
    sheet,
    sourceVertex,
    indices,
    uv: outUv,
    normals: outNormals,
    tangents: outTangents,
    madeNormals: !part.normals,
    keepsColors: swatch,
    sourceTangents: withNormals && look.normal && !swatch ? sourceFrames(part, look.normal, normals) : null,
  };
}
