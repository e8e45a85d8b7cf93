import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { boxOf, largestSide } from '../rays/target/mesh-box.ts';
import { type FinishedMesh, finishedLevel } from './document.ts';
import { distanceFor, outlineError, outlinesOf } from './outline-error.ts';

/** How much turned normals and shifted UVs weigh against a moved surface. */
const WEIGHTS = [0.4, 0.4, 0.4, 0.5, 0.5];
/** Side of the pictures in which outlines are compared, px. */
const PICTURE = 1024;
/** A level that saves less than this share of the triangles before it is none. */
const LEAST_SAVING = 0.1;

/** How far a level may be off, as a share of the largest side: from where that is one px, the model is but twenty-four px high. */
const MOST_ERROR = 1 / 24;

/** A level of detail: triangles of the first level's vertices. */
export interface Level {
  mesh: FinishedMesh;
  triangles: number;
  /** 99 % of the outline lie nearer to that of the first level, m. */
  error: number;
  /** From where on the error is at most one px, m; 0 for the first level. */
  distance: number;
}

/** What comes nearest to a number of corners, as a ratio; nothing where there is nothing. */
const best = (goal: number, lists: readonly Uint32Array[]): Uint32Array =>
  lists.reduce((a, b) => (ratio(b.length, goal) < ratio(a.length, goal) ? b : a), new Uint32Array(0));
const ratio = (a: number, b: number): number => (a === 0 ? Infinity : Math.max(a / b, b / a));

/**
 * Levels of detail on one sheet: edges are collapsed onto vertices that are there, which keep UVs, normals and tangents, since the normal map fits no
 * others; UV borders stay. Each level is made from the first. What does not save a tenth against the level before it is left out, and what
 * would be off by more than a px even from afar.
 * @param shares of the first level's triangles, descending
 */
export function levelsOfDetail(first: FinishedMesh, shares: readonly number[]): Level[] {
  const count = first.indices.length / 3;
  const outlines = outlinesOf(first, PICTURE);
  const levels: Level[] = [{ mesh: first, triangles: count, error: 0, distance: 0 }];
  const attributes = new Float32Array((first.positions.length / 3) * WEIGHTS.length);
  for (let v = 0; v < first.positions.length / 3; v++) {
    attributes.set(first.normals.subarray(v * 3, v * 3 + 3), v * WEIGHTS.length);
    attributes.set(first.uvs.subarray(v * 2, v * 2 + 2), v * WEIGHTS.length + 3);
  }
  for (const share of shares) {
    const goal = Math.max(1, Math.round(count * share)) * 3;
    const before = levels[levels.length - 1];
    const saves = ({ length }: Uint32Array) => length > 0 && length / 3 <= before.triangles * (1 - LEAST_SAVING);
    const reduce = (flags: 'Prune'[]) =>
      MeshoptSimplifier.simplifyWithAttributes(
        ...([
          first.indices,
          first.positions,
          3,
          attributes,
          WEIGHTS.length,
          WEIGHTS,
          null,
          goal,
          MOST_ERROR,
          flags,
        ] as const),
      )[0];
    // Loose pieces go as a whole only where nothing else is left to collapse: that may take more than was asked.
    let indices = reduce([]);
    if (indices.length > goal * 1.2) indices = best(goal, [indices, reduce(['Prune'])].filter(saves));
    if (!saves(indices)) continue;
    const mesh = finishedLevel(first, indices);
    const error = Math.max(before.error, outlineError(outlines, outlinesOf(mesh, PICTURE, outlines)).most);
    if (error > MOST_ERROR * largestSide(boxOf([first]))) continue;
    levels.push({ mesh, triangles: indices.length / 3, error, distance: distanceFor(error, 1) });
  }
  return levels;
}
