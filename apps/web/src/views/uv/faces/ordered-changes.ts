/**
 * A value that is changed step by step, each step by what the former one left, in the order in which they were begun.
 * A step may take its time: those that are begun meanwhile wait, so that a late answer never undoes what was asked for after it.
 */
export class OrderedChanges<T> {
  #waiting: ((now: T) => T | Promise<T>)[] = [];
  #busy = false;
  /** Counts the beginnings; what was begun before the last one is void. */
  #round = 0;

  constructor(
    private now: T,
    private readonly onChange: (value: T) => void,
  ) {}

  get value(): T {
    return this.now;
  }

  /** @param step what it answers becomes the value; one that fails leaves it as it was */
  change(step: (now: T) => T | Promise<T>): void {
    this.#waiting.push(step);
    if (!this.#busy) this.#next();
  }

  /** Begins again with another value; steps that are under way or wait are dropped. */
  restart(value: T): void {
    this.#round++;
    this.#waiting = [];
    this.#busy = false;
    this.#put(value);
  }

  #next(): void {
    for (let step = this.#waiting.shift(); step; step = this.#waiting.shift()) {
      const answer = step(this.now);
      if (answer instanceof Promise) return void this.#await(answer);
      this.#put(answer);
    }
  }

  async #await(answer: Promise<T>): Promise<void> {
    const round = this.#round;
    this.#busy = true;
    const value = await answer.catch(() => this.now);
    if (round !== this.#round) return;
    this.#busy = false;
    this.#put(value);
    this.#next();
  }

  #put(value: T): void {
    this.now = value;
    this.onChange(value);
  }
}
