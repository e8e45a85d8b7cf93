import code from './generated/field.ts';
import { allocate, instantiate } from './wasm.ts';

/** Where the nodes of a field are. Lengths in px of the shape. */
interface FieldGrid {
  /** Upper left node, and the distance between nodes. */
  left: number;
  top: number;
  step: number;
  columns: number;
  rows: number;
  /** What a node has at most. */
  far: number;
}

/**
 * The signed distance at each node of a grid, row by row, negative inside: that to the nearest segment where one is within `near` px, and not
 * less than that elsewhere. In WebAssembly (assembly/field.ts) or in plain TypeScript (field-reference.ts), with the same results.
 * @param segments (ax, ay, bx, by) @param shape triangles, six numbers each
 */
export type FieldLoops = (
  grid: FieldGrid,
  segments: Float64Array,
  shape: Float64Array,
  near: number,
) => Float32Array<ArrayBuffer>;

interface Exports {
  setUp(at: number, columns: number, rows: number, left: number, top: number, step: number, far: number): void;
  spread(segments: number, count: number, near: number): void;
  markInside(shape: number, triangles: number): void;
}

/** Room of the instance that is there, bytes; fields are made one after another, so that one is enough. */
let room = 0;
let memory: ArrayBuffer & { readonly memory?: object };
let kernel: Exports;

const START = 1024;

export const fieldLoops: FieldLoops = (grid, segments, shape, near) => {
  const { left, top, step, columns, rows, far } = grid;
  const nodes = columns * rows;
  const shapeAt = START + segments.byteLength;
  const fieldAt = shapeAt + shape.byteLength;
  const end = fieldAt + nodes * 4 + 64;
  if (room < end) {
    room = Math.max(2 * end, 1 << 20);
    memory = allocate(room);
    kernel = instantiate<Exports>(code, memory);
  }
  new Float64Array(memory, START, segments.length).set(segments);
  new Float64Array(memory, shapeAt, shape.length).set(shape);
  kernel.setUp(fieldAt, columns, rows, left, top, step, far);
  kernel.spread(START, segments.length / 4, near);
  kernel.markInside(shapeAt, shape.length / 6);
  return new Float32Array(memory, fieldAt, nodes).slice();
};
