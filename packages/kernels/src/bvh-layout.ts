import type { SharedMemory } from './wasm.ts';

/**
 * The layout of a hierarchy over triangles in one shared memory. All numbers are little-endian f32 or i32.
 *
 * - positions: x y z a vertex, in the hierarchy's own units (see `BvhSpace`), one spare number at the end
 * - indices: three a triangle
 * - nodes of 256 bytes, the root first: for eight children lowX[8] highX[8] lowY highY lowZ highZ, then child[8]. A child ≥ 0 is a node; a negative one is a
 *   leaf: bits 3 … 30 its first block, bits 0 … 2 its blocks less one. Lanes without a child have bounds of +∞, which no ray meets.
 * - blocks of 160 bytes, four triangles: x y z of the first corners, of the second, of the third, four of each; then four triangle numbers.
 *   Free lanes hold the last triangle again.
 */
export interface Bvh {
  memory: SharedMemory;
  space: BvhSpace;
  triangles: number;
  vertices: number;
  positionsAt: number;
  indicesAt: number;
  nodesAt: number;
  nodeCount: number;
  blocksAt: number;
  blockCount: number;
  /** Scratch of each caster: `slotBytes` from `slotsAt` on. */
  slotsAt: number;
  slots: number;
  /** Bytes of the whole memory. */
  bytes: number;
}

/** Place and size of the hierarchy's own coordinates: own = (world − centre) · scale; the scale is a power of two, and all lies within −1 … 1. */
export interface BvhSpace {
  centre: [number, number, number];
  scale: number;
}

export const NODE_BYTES = 256;
export const BLOCK_BYTES = 160;
export const REF_BYTES = 32;
/** Rays that a caster takes at once. */
export const BATCH = 4096;
export const RAY_BYTES = 32;
const HIT_BYTES = 16;
export const STACK_BYTES = 16384;
export const SLOT_BYTES = STACK_BYTES + BATCH * (RAY_BYTES + HIT_BYTES);
/** Triangles that a leaf may hold. */
export const LEAF_SIZE = 16;
