import type { Plan } from '../decisions/decisions.ts';
import { MOST_SHEETS } from '../decisions/sheets.ts';
import type { DrawnPart } from './drawn-parts.ts';

/** What counting draw calls reads of a slot. */
export interface CountedSlot {
  /** Position of its model. */
  model: number;
  slot: number;
  classKey: string;
  parts: readonly DrawnPart[];
}

/** Which parts become one: none, primitives of one mesh that share a sheet, or all that share a slot, across nodes as well. */
type Joining = 'none' | 'mesh' | 'scene';

/** Models that keep all their materials are not joined unasked. */
export function joiningOf(decisions: Pick<Plan, 'join' | 'keepAll'>): Joining {
  if (decisions.join) return 'scene';
  return decisions.keepAll ? 'none' : 'mesh';
}

/** A joinable part: what it may be joined with on a sheet, and by itself. */
interface JoinablePart {
  slot: number;
  calls: number;
  apart: boolean;
  mesh: number;
  merged: number;
  own: number;
}

/**
 * Counts the draw calls of a plan. What does not depend on the plan is gathered once, so that many plans can be counted quickly.
 * Follows `joinPrimitives` and `joinParts`: first inside each mesh, then, where that is decided, across nodes that nothing keeps apart.
 */
export class DrawCallCounter {
  private readonly always: number;
  private readonly parts: JoinablePart[] = [];
  private readonly numbers = new Map<string, number>();

  constructor(
    slots: readonly CountedSlot[],
    private readonly joining: Joining,
  ) {
    let always = 0;
    slots.forEach((countedSlot, slot) => {
      for (const part of countedSlot.parts) {
        if (joining === 'none' || !part.joinable || part.drawCalls === 0) {
          always += part.drawCalls;
          continue;
        }
        const across = (what: string, semantics: readonly string[]) =>
          this.number(`${countedSlot.model}:${what} ${semantics.join(' ')}`);
        this.parts.push({
          slot,
          calls: part.drawCalls,
          apart: part.apart || joining === 'mesh',
          mesh: part.mesh,
          merged: across(countedSlot.classKey, mergedSemantics(part)),
          own: across(`own ${countedSlot.slot}`, part.semantics),
        });
      }
    });
    this.always = always;
  }

  private number(key: string): number {
    const known = this.numbers.get(key);
    if (known !== undefined) return known;
    this.numbers.set(key, this.numbers.size);
    return this.numbers.size - 1;
  }

  /** @param sheetOf position of each slot's sheet, −1 kept apart */
  count(sheetOf: ArrayLike<number>): number {
    let calls = this.always;
    const meshes = new Set<number>();
    const joined = new Set<number>();
    for (const part of this.parts) {
      const sheet = sheetOf[part.slot];
      if (sheet < 0 && this.joining === 'mesh') {
        calls += part.calls;
        continue;
      }
      const across = sheet < 0 ? part.own * (MOST_SHEETS + 1) + MOST_SHEETS : part.merged * (MOST_SHEETS + 1) + sheet;
      if (!part.apart) {
        joined.add(across);
        continue;
      }
      const inMesh = across * 65536 + part.mesh;
      if (!meshes.has(inMesh)) calls += part.calls;
      meshes.add(inMesh);
    }
    return calls + joined.size;
  }
}

/** Attributes of a part after it has been merged; see `applyTargets`. All that share a material have tangents, or none. */
function mergedSemantics(part: Pick<DrawnPart, 'semantics' | 'uvSets'>): string[] {
  const kept = part.semantics.filter((semantic) => {
    const set = /^TEXCOORD_(\d+)$/.exec(semantic)?.[1];
    return semantic !== 'TANGENT' && (set === undefined || (set !== '0' && !part.uvSets.includes(Number(set))));
  });
  const others = kept.filter((text) => !text.startsWith('TEXCOORD_'));
  const uvs = kept.length - others.length + 1;
  return [...new Set([...others, 'NORMAL', ...Array.from({ length: uvs }, (_, i) => `TEXCOORD_${i}`)])].sort();
}
