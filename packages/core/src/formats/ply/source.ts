import { InputError } from '../../errors.ts';
import { Tokenizer } from '../tokenizer.ts';
import { BYTES, type Header, type Kind } from './header.ts';

/** Gives the values of the body one after another. @throws InputError when it is cut short */
export type Source = (kind: Kind) => number;

/** The values of a body, whichever way it is stored. */
export function sourceOf(path: string, bytes: Uint8Array, header: Header): Source {
  return header.format === 'ascii' ? asciiSource(path, bytes, header) : binarySource(path, bytes, header);
}

function asciiSource(path: string, bytes: Uint8Array, header: Header): Source {
  const scan = new Tokenizer(bytes);
  scan.at = header.body;
  scan.line = header.line;
  return () => {
    scan.blanks();
    while (scan.endOfLine) {
      if (scan.at >= scan.end) throw new InputError(path, 'the file is cut short');
      scan.nextLine();
      scan.blanks();
    }
    const value = scan.number();
    if (!Number.isFinite(value)) throw new InputError(path, `line ${scan.line}: a value is not a finite number`);
    if (!scan.endOfLine && bytes[scan.at] > 32) throw new InputError(path, `line ${scan.line}: a value cannot be read`);
    return value;
  };
}

function binarySource(path: string, bytes: Uint8Array, header: Header): Source {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const little = header.format === 'little';
  let at = header.body;
  return (kind) => {
    const from = at;
    at += BYTES[kind];
    if (at > bytes.length) throw new InputError(path, 'the file is cut short');
    if (kind === 'f4') return view.getFloat32(from, little);
    if (kind === 'u1') return view.getUint8(from);
    if (kind === 'i4') return view.getInt32(from, little);
    if (kind === 'u4') return view.getUint32(from, little);
    if (kind === 'f8') return view.getFloat64(from, little);
    if (kind === 'i1') return view.getInt8(from);
    return kind === 'i2' ? view.getInt16(from, little) : view.getUint16(from, little);
  };
}
