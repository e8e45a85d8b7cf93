/** A column of equal-sized elements, as bytes. */
export interface ByteColumn {
  bytes: Uint8Array;
  /** Bytes of one element. */
  size: number;
}

/** Views a typed array as a column of elements of `elementSize` components. */
export function byteColumn(array: ArrayBufferView, elementSize: number): ByteColumn {
  const bytesPer = (array as unknown as { BYTES_PER_ELEMENT: number }).BYTES_PER_ELEMENT;
  return { bytes: new Uint8Array(array.buffer, array.byteOffset, array.byteLength), size: bytesPer * elementSize };
}

/**
 * Gives every row the number of its first equal row (equal: all columns byte for byte), by open addressing.
 * @returns `first`: for each row the lowest row with the same bytes; `count`: how many distinct rows
 */
export function weldVertices(columns: ByteColumn[], rows: number): { first: Uint32Array; count: number } {
  let capacity = 16;
  while (capacity < rows * 2) capacity *= 2;
  const table = new Int32Array(capacity).fill(-1);
  const first = new Uint32Array(rows);
  let count = 0;
  for (let r = 0; r < rows; r++) {
    let h = 2166136261;
    for (const column of columns) {
      const o = r * column.size;
      for (let i = 0; i < column.size; i++) h = Math.imul(h ^ column.bytes[o + i], 16777619);
    }
    h ^= h >>> 15;
    let slot = h & (capacity - 1);
    for (;;) {
      const other = table[slot];
      if (other < 0) {
        table[slot] = r;
        first[r] = r;
        count++;
        break;
      }
      if (equalRows(columns, r, other)) {
        first[r] = other;
        break;
      }
      slot = (slot + 1) & (capacity - 1);
    }
  }
  return { first, count };
}

function equalRows(columns: ByteColumn[], a: number, b: number): boolean {
  for (const column of columns) {
    const p = a * column.size;
    const q = b * column.size;
    for (let i = 0; i < column.size; i++) if (column.bytes[p + i] !== column.bytes[q + i]) return false;
  }
  return true;
}
