import { InputError } from '../../errors.ts';
import { LIMITS } from '../../limits.ts';
import { Tokenizer } from '../tokenizer.ts';

/** Type of a stored number: signed, unsigned or floating, and its bytes. */
export type Kind = 'i1' | 'u1' | 'i2' | 'u2' | 'i4' | 'u4' | 'f4' | 'f8';

const KINDS: Record<string, Kind> = {
  char: 'i1',
  int8: 'i1',
  uchar: 'u1',
  uint8: 'u1',
  short: 'i2',
  int16: 'i2',
  ushort: 'u2',
  uint16: 'u2',
  int: 'i4',
  int32: 'i4',
  uint: 'u4',
  uint32: 'u4',
  float: 'f4',
  float32: 'f4',
  double: 'f8',
  float64: 'f8',
};
export const BYTES: Record<Kind, number> = { i1: 1, u1: 1, i2: 2, u2: 2, i4: 4, u4: 4, f4: 4, f8: 8 };
/** The stored value of a whole-number colour that counts as full. */
export const FULL: Partial<Record<Kind, number>> = { u1: 255, u2: 65535, i1: 127, i2: 32767 };

interface Property {
  name: string;
  kind: Kind;
  /** Kind of the length, for a list. */
  list: Kind | null;
}

export interface Element {
  name: string;
  count: number;
  properties: Property[];
}

export interface Header {
  format: 'ascii' | 'little' | 'big';
  elements: Element[];
  textures: string[];
  body: number;
  line: number;
}

const FORMATS: Record<string, Header['format']> = {
  ascii: 'ascii',
  binary_little_endian: 'little',
  binary_big_endian: 'big',
};

/**
 * Reads the header of a PLY: which elements with which properties the body holds, and where it begins.
 * @throws InputError
 */
export function readHeader(path: string, bytes: Uint8Array): Header {
  const fail = (reason: string): never => {
    throw new InputError(path, reason);
  };
  const scan = new Tokenizer(bytes, Math.min(bytes.length, 1 << 20));
  if (scan.word() !== 'ply') fail('the file does not begin like a PLY');
  let format: Header['format'] | null = null;
  const elements: Element[] = [];
  const textures: string[] = [];
  for (scan.nextLine(); scan.at < scan.end; scan.nextLine()) {
    const key = scan.word();
    if (key === 'end_header') {
      scan.nextLine();
      if (!format) fail('its header names no format');
      return { format: format as Header['format'], elements, textures, body: scan.at, line: scan.line };
    }
    if (key === 'format') {
      const name = scan.word();
      format = FORMATS[name] ?? fail(`line ${scan.line}: the format "${name}" is not known`);
    } else if (key === 'comment') {
      if (/^texturefile$/i.test(scan.word())) textures.push(scan.rest());
    } else if (key === 'element') {
      if (elements.length >= 64) fail('its header lists more than 64 elements');
      elements.push(readElement(scan, fail));
    } else if (key === 'property') {
      const owner = elements.at(-1) ?? fail(`line ${scan.line}: a property before any element`);
      if (owner.properties.length >= 256) fail('its header lists more than 256 properties of one element');
      owner.properties.push(readProperty(scan, fail));
    }
  }
  return fail('its header has no end');
}

type Fail = (reason: string) => never;

function readElement(scan: Tokenizer, fail: Fail): Element {
  const name = scan.word();
  const count = scan.number();
  if (!Number.isInteger(count) || count < 0) fail(`line ${scan.line}: the count of "${name}" is not a whole number`);
  if (count > LIMITS.accessorCount) fail(`claims ${count} of "${name}"; at most ${LIMITS.accessorCount} are read`);
  return { name, count, properties: [] };
}

function readProperty(scan: Tokenizer, fail: Fail): Property {
  let type = scan.word();
  let list: Kind | null = null;
  if (type === 'list') {
    list = KINDS[scan.word()] ?? null;
    if (!list || list[0] === 'f') fail(`line ${scan.line}: the length of a list must be a whole number`);
    type = scan.word();
  }
  const kind = KINDS[type] ?? fail(`line ${scan.line}: the type "${type}" is not known`);
  return { name: scan.word(), kind, list };
}
