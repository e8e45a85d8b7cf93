/** What is wrong with a file, as JSON has it. */
export interface FileError {
  path: string;
  message: string;
}

/**
 * Says what is wrong with the input, on the error stream and, where asked for, as JSON.
 * @param more what the JSON document has besides `errors` @returns the exit code
 */
export function failed(errors: readonly FileError[], json: boolean, more: object = { written: [] }): number {
  for (const error of errors) process.stderr.write(`${error.path}: ${error.message}\n`);
  if (json) process.stdout.write(`${JSON.stringify({ errors, ...more }, null, 2)}\n`);
  return 1;
}

/** The same for something that was thrown. @throws the error itself where it is none of the input */
export function refused(error: unknown, earlier: readonly FileError[], json: boolean, more?: object): number {
  const { name, path, reason } = error as { name?: string; path?: string; reason?: string };
  // By its name: it may come from another thread.
  if (name !== 'InputError') throw error;
  return failed([...earlier, { path: String(path), message: String(reason) }], json, more);
}
