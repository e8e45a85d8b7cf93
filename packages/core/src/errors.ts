/** A problem with what was given: one sentence that names the file, what is wrong and where. Never a defect of the program. */
export class InputError extends Error {
  override readonly name = 'InputError';
  constructor(
    readonly path: string,
    readonly reason: string,
  ) {
    super(`${path}: ${reason}`);
  }
}

/** The work was stopped on request. */
export class Cancelled extends Error {
  override readonly name = 'Cancelled';
  constructor() {
    super('cancelled');
  }
}

/** The sentence for any thrown value, without a stack. */
export function sentence(error: unknown): string {
  if (error instanceof InputError) return error.reason;
  const text = error instanceof Error ? error.message : String(error);
  return text.split('\n')[0];
}
