import { BLOCK_BYTES, type Bvh, type BvhSpace, LEAF_SIZE, NODE_BYTES, REF_BYTES, SLOT_BYTES } from './bvh-layout.ts';
import code from './generated/bvh.ts';
import { allocateShared, instantiateShared } from './wasm.ts';

interface Exports {
  scratchBytes(): number;
  blocksUsed(): number;
  build(
    count: number,
    positions: number,
    indices: number,
    refs: number,
    nodes: number,
    blocks: number,
    limit: number,
    scratch: number,
    leaf: number,
  ): number;
}

const SCRATCH_BYTES = 256 * 1024;

const round64 = (n: number) => Math.ceil(n / 64) * 64;

/** Where everything lies, for so many triangles and blocks. */
function plan(triangles: number, vertices: number, blocks: number, slots: number) {
  const positionsAt = 64;
  const indicesAt = round64(positionsAt + vertices * 12 + 4);
  const nodesAt = round64(indicesAt + triangles * 12);
  // A node that is not full has leaves only and more triangles than a leaf takes; full ones are at most a seventh more.
  const nodes = Math.ceil((triangles / (LEAF_SIZE + 1)) * (8 / 7)) + 8;
  const blocksAt = nodesAt + nodes * NODE_BYTES;
  const slotsAt = round64(blocksAt + blocks * BLOCK_BYTES);
  const scratchAt = slotsAt + slots * SLOT_BYTES;
  const refsAt = scratchAt + SCRATCH_BYTES;
  return {
    positionsAt,
    indicesAt,
    nodesAt,
    blocksAt,
    slotsAt,
    scratchAt,
    refsAt,
    bytes: refsAt + triangles * REF_BYTES,
  };
}

/** Bytes that a hierarchy over so many triangles reserves; what is never written to costs nothing. */
export function bvhBytes(triangles: number, vertices: number, slots: number): number {
  return plan(triangles, vertices, usualBlocks(triangles), slots).bytes;
}

const usualBlocks = (triangles: number) => Math.ceil(triangles / 2) + 16;

/** The own coordinates of a hierarchy over these points. */
function bvhSpace(positions: ArrayLike<number>): BvhSpace {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    const k = i % 3;
    if (positions[i] < low[k]) low[k] = positions[i];
    if (positions[i] > high[k]) high[k] = positions[i];
  }
  if (positions.length === 0) return { centre: [0, 0, 0], scale: 1 };
  const half = Math.max(high[0] - low[0], high[1] - low[1], high[2] - low[2]) / 2;
  let scale = 1;
  while (half * scale > 1 && scale > 2 ** -126) scale /= 2;
  while (half * scale <= 0.5 && half > 0 && scale < 2 ** 126) scale *= 2;
  return { centre: [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2], scale };
}

/**
 * Builds the hierarchy over triangles.
 * @param positions x y z a vertex, finite, any unit @param indices three a triangle @param slots casters that will use it at one time
 * @throws Error when more than 4 GiB are needed
 */
export function buildBvh(positions: ArrayLike<number>, indices: ArrayLike<number>, slots = 1): Bvh {
  const triangles = Math.floor(indices.length / 3);
  const vertices = Math.floor(positions.length / 3);
  const space = bvhSpace(positions);
  let blocks = usualBlocks(triangles);
  for (;;) {
    const p = plan(triangles, vertices, blocks, slots);
    const memory = allocateShared(p.bytes);
    const own = new Float32Array(memory.buffer, p.positionsAt, vertices * 3);
    const { centre, scale } = space;
    for (let i = 0, k = 0; i < own.length; i++, k = k === 2 ? 0 : k + 1) own[i] = (positions[i] - centre[k]) * scale;
    new Uint32Array(memory.buffer, p.indicesAt, triangles * 3).set(indices);
    const kernel = instantiateShared<Exports>(code, memory);
    if (kernel.scratchBytes() > SCRATCH_BYTES) throw new Error('the scratch of the hierarchy is planned too small');
    const nodeCount = kernel.build(
      triangles,
      p.positionsAt,
      p.indicesAt,
      p.refsAt,
      p.nodesAt,
      p.blocksAt,
      blocks,
      p.scratchAt,
      LEAF_SIZE,
    );
    if (nodeCount < 0) {
      // Leaves are emptier than they ever were: the most that there can be.
      blocks = triangles;
      continue;
    }
    const { positionsAt, indicesAt, nodesAt, blocksAt, slotsAt, bytes } = p;
    const blockCount = kernel.blocksUsed();
    return {
      memory,
      space,
      triangles,
      vertices,
      positionsAt,
      indicesAt,
      nodesAt,
      nodeCount,
      blocksAt,
      blockCount,
      slotsAt,
      slots,
      bytes,
    };
  }
}
