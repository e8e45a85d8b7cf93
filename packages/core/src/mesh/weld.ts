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

/** The bytes of an array as whole words, and those that are left over; all bytes where the array does not begin at a word. */
export function wordsOf(view: ArrayBufferView): { words: Uint32Array; rest: Uint8Array } {
  const whole = view.byteOffset % 4 === 0 ? view.byteLength >> 2 : 0;
  return {
    words: new Uint32Array(view.buffer, whole > 0 ? view.byteOffset : 0, whole),
    rest: new Uint8Array(view.buffer, view.byteOffset + whole * 4, view.byteLength - whole * 4),
  };
}

/** A column as numbers to be hashed: words where its elements are whole words. */
function hashedWords({ bytes, size }: ByteColumn): { words: Uint32Array | Uint8Array; size: number } {
  if (size % 4 !== 0 || bytes.byteOffset % 4 !== 0) return { words: bytes, size };
  return { words: wordsOf(bytes).words, size: size / 4 };
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
  const hashed = columns.map(hashedWords);
  for (let r = 0; r < rows; r++) {
    let h = 2166136261;
    for (const { words, size } of hashed) {
      const o = r * size;
      for (let i = 0; i < size; i++) {
        h = Math.imul(h ^ words[o + i], 0x9e3779b1);
        // Low bits of round numbers are all 0; multiplying alone would leave them so.
        h ^= h >>> 15;
      }
    }
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
