/** The parts of the WebAssembly interface that the kernels use; every engine that they run in has it, but not every set of types. */
interface Wasm {
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: object };
  Memory: new (size: { initial: number; maximum: number; shared?: boolean }) => { buffer: ArrayBuffer };
}

const wasm = (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly;

const modules = new Map<string, object>();

const DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

function bytesOf(base64: string): Uint8Array {
  const text = base64.replace(/=+$/, '');
  const out = new Uint8Array(Math.floor((text.length * 3) / 4));
  let bits = 0;
  let held = 0;
  let at = 0;
  for (const ch of text) {
    held = (held << 6) | DIGITS.indexOf(ch);
    bits += 6;
    if (bits >= 8) {
      bits -= 8;
      out[at++] = (held >> bits) & 255;
    }
  }
  return out;
}

function pagesFor(bytes: number): number {
  const pages = Math.max(1, Math.ceil(bytes / 65536));
  if (pages > 65536) throw new Error(`${Math.round(bytes / 2 ** 20)} MiB are needed, 4096 are the most`);
  return pages;
}

/** A memory that several workers may have in common; it can be sent to them. */
export interface SharedMemory {
  readonly buffer: SharedArrayBuffer;
}

/** A shared memory of at least so many bytes; it never grows. @throws Error when there is not so much */
export function allocateShared(bytes: number): SharedMemory {
  const pages = pagesFor(bytes);
  const memory: unknown = new wasm.Memory({ initial: pages, maximum: pages, shared: true });
  return memory as SharedMemory;
}

/** An instance of a kernel over a shared memory; what it keeps in globals is its own. */
export function instantiateShared<Exports>(base64: string, memory: SharedMemory): Exports {
  return instance<Exports>(base64, memory);
}

/** A memory of at least so many bytes; it never grows. @throws Error when there is not so much */
export function allocate(bytes: number): ArrayBuffer & { readonly memory?: object } {
  const pages = pagesFor(bytes);
  const memory = new wasm.Memory({ initial: pages, maximum: pages });
  return Object.assign(memory.buffer, { memory });
}

/** Plans a memory: each call of `room` gives the next place for so many bytes, with some to read beyond; `end` is what it takes in all. */
export function memoryPlan(): { room: (bytes: number) => number; end: () => number } {
  let end = 1024;
  const room = (bytes: number) => {
    const from = end;
    end += Math.ceil((bytes + 32) / 64) * 64;
    return from;
  };
  return { room, end: () => end };
}

/** An instance of a kernel over a memory made by `allocate`. The module is compiled once. */
export function instantiate<Exports>(base64: string, buffer: ArrayBuffer & { readonly memory?: object }): Exports {
  return instance<Exports>(base64, buffer.memory);
}

function instance<Exports>(base64: string, memory: unknown): Exports {
  let module = modules.get(base64);
  if (!module) {
    module = new wasm.Module(bytesOf(base64));
    modules.set(base64, module);
  }
  return new wasm.Instance(module, { env: { memory, abort: () => {} } }).exports as Exports;
}
