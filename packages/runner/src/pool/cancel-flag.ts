/** Two numbers that a job and its workers share: whether to stop, and whether to wait. */
export type CancelFlag = Int32Array;

const STOP = 0;
const WAIT = 1;

export const newFlag = (): CancelFlag => new Int32Array(new SharedArrayBuffer(8));

/** Whether to stop; while the flag says wait, the thread sleeps here. For threads other than the main one, if anybody may pause. */
export function stopped(flag: CancelFlag): boolean {
  while (Atomics.load(flag, STOP) === 0 && Atomics.load(flag, WAIT) === 1) Atomics.wait(flag, WAIT, 1);
  return Atomics.load(flag, STOP) !== 0;
}

/** Stops all that look at the flag, also those that wait. */
export function stop(flag: CancelFlag): void {
  Atomics.store(flag, STOP, 1);
  pause(flag, false);
}

/** Lets all that look at the flag wait, or go on. */
export function pause(flag: CancelFlag, on: boolean): void {
  Atomics.store(flag, WAIT, on ? 1 : 0);
  if (!on) Atomics.notify(flag, WAIT);
}

export const paused = (flag: CancelFlag): boolean => Atomics.load(flag, WAIT) === 1;
