import { utf8 } from './gltf/glb.ts';

/** Exact powers of ten. */
const TEN = Array.from({ length: 23 }, (_, i) => 10 ** i);

/** Reads words and numbers from bytes of text, without making a string of the whole. */
export class Tokenizer {
  at = 0;
  line = 1;
  constructor(
    readonly bytes: Uint8Array,
    readonly end: number = bytes.length,
  ) {}

  /** Skips blanks inside the line; a backslash at the end of a line goes on with the next one. */
  blanks(): void {
    const { bytes, end } = this;
    while (this.at < end) {
      const byte = bytes[this.at];
      if (byte === 32 || byte === 9 || byte === 13) this.at++;
      else if (byte === 92 && (bytes[this.at + 1] === 10 || (bytes[this.at + 1] === 13 && bytes[this.at + 2] === 10))) {
        this.at += bytes[this.at + 1] === 10 ? 2 : 3;
        this.line++;
      } else return;
    }
  }

  /** True at the end of a line or of the text. */
  get endOfLine(): boolean {
    return this.at >= this.end || this.bytes[this.at] === 10;
  }

  /** Goes to the start of the next line. */
  nextLine(): void {
    const { bytes, end } = this;
    while (this.at < end && bytes[this.at] !== 10) this.at++;
    this.at++;
    this.line++;
  }

  /** The next word of the line, '' at its end. */
  word(): string {
    this.blanks();
    const from = this.at;
    const { bytes, end } = this;
    while (this.at < end && bytes[this.at] > 32) this.at++;
    return text(bytes, from, this.at);
  }

  /** The rest of the line, trimmed. */
  rest(): string {
    this.blanks();
    const from = this.at;
    const { bytes, end } = this;
    while (this.at < end && bytes[this.at] !== 10) this.at++;
    return text(bytes, from, this.at).trim();
  }

  /** The next number of the line; NaN when there is none. Exact: short decimals directly, others by the language's own parser. */
  number(): number {
    this.blanks();
    const { bytes, end } = this;
    const from = this.at;
    let at = from;
    let sign = 1;
    if (bytes[at] === 45 || bytes[at] === 43) sign = bytes[at++] === 45 ? -1 : 1;
    let mantissa = 0;
    let digits = 0;
    let exponent = 0;
    while (at < end && bytes[at] >= 48 && bytes[at] <= 57) {
      mantissa = mantissa * 10 + (bytes[at++] - 48);
      digits++;
    }
    if (bytes[at] === 46) {
      at++;
      while (at < end && bytes[at] >= 48 && bytes[at] <= 57) {
        mantissa = mantissa * 10 + (bytes[at++] - 48);
        digits++;
        exponent--;
      }
    }
    const simple = at >= end || bytes[at] <= 32 || bytes[at] === 47;
    if (simple && digits > 0 && digits <= 15 && exponent >= -22) {
      this.at = at;
      return (sign * mantissa) / TEN[-exponent];
    }
    while (at < end && bytes[at] > 32 && bytes[at] !== 47) at++;
    this.at = at;
    return at === from ? Number.NaN : Number(text(bytes, from, at));
  }
}

function text(bytes: Uint8Array, from: number, to: number): string {
  if (to - from > 64) return utf8(bytes.subarray(from, Math.min(to, from + 4096)));
  let ascii = '';
  for (let i = from; i < to; i++) {
    if (bytes[i] > 127) return utf8(bytes.subarray(from, to));
    ascii += String.fromCharCode(bytes[i]);
  }
  return ascii;
}

/** A growing list of numbers. */
export class Numbers<A extends Float32Array | Int32Array | Float64Array> {
  length = 0;
  constructor(private array: A) {}
  push(v: number): void {
    if (this.length === this.array.length) {
      const bigger = new (this.array.constructor as new (n: number) => A)(this.array.length * 2);
      bigger.set(this.array as never);
      this.array = bigger;
    }
    this.array[this.length++] = v;
  }
  /** A view of what was pushed. */
  get values(): A {
    return this.array.subarray(0, this.length) as A;
  }
}
