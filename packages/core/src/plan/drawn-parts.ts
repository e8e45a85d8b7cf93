import { instancedApart, joinablePrimitive } from '../scene/joinable.ts';
import type { Part } from '../scene/model.ts';

/** How often a part is drawn, and what decides whether it becomes one with others. */
export interface DrawnPart {
  /** Index of its mesh in the model. */
  mesh: number;
  /** Scene instances; copies that are drawn in one call count once. */
  drawCalls: number;
  /** The primitive can become one with others of its slot. */
  joinable: boolean;
  /** Its mesh stands where something moves, skins, instances or names it apart. */
  apart: boolean;
  /** Its attributes, sorted, without vertex colours. */
  semantics: string[];
  /** UV sets that the slot's textures read. */
  uvSets: number[];
}

/** @param mesh index of its mesh in the model @param moved see `movedNodes` @param uvSets see `uvSetsUsed` */
export function drawnPart(part: Part, mesh: number, moved: ReadonlySet<unknown>, uvSets: number[]): DrawnPart {
  const { primitive } = part;
  return {
    mesh,
    drawCalls: partDrawCalls(part),
    joinable: joinablePrimitive(primitive),
    apart: instancedApart(
      part.instances.map((i) => i.node),
      part.mesh,
      moved,
    ),
    semantics: primitive
      .listSemantics()
      .filter((text) => text !== 'COLOR_0')
      .sort(),
    uvSets,
  };
}

/** Draw calls of one part: instances × 1; GPU-instanced copies count once. */
export function partDrawCalls(part: Part): number {
  return part.instances.length;
}
