import { expect, test } from 'vitest';
import { OrderedChanges } from '../src/views/uv/faces/ordered-changes.ts';

/** A promise with what answers it. */
function later<T>() {
  let answer: (value: T) => void = () => undefined;
  let fail: (error: Error) => void = () => undefined;
  const promise = new Promise<T>((resolve, reject) => {
    answer = resolve;
    fail = reject;
  });
  return { promise, answer, fail };
}

const settled = () => new Promise((resolve) => setImmediate(resolve));

test('a step that takes its time holds back what was begun after it, and nothing is lost', async () => {
  const told: string[] = [];
  const changes = new OrderedChanges('', (value) => told.push(value));
  const box = later<string>();
  changes.change(() => 'a');
  expect(changes.value).toBe('a');
  changes.change((now) => box.promise.then((more) => now + more));
  changes.change((now) => `${now}c`);
  expect(changes.value).toBe('a');
  box.answer('b');
  await settled();
  expect(told).toEqual(['a', 'ab', 'abc']);
});

test('a step that fails leaves the value as it was, and the next one is done', async () => {
  const changes = new OrderedChanges('a', () => undefined);
  const bad = later<string>();
  changes.change(() => bad.promise);
  changes.change((now) => `${now}b`);
  bad.fail(new Error('no answer'));
  await settled();
  expect(changes.value).toBe('ab');
});

test('begun again, a late answer is void and new steps are done at once', async () => {
  const changes = new OrderedChanges('a', () => undefined);
  const late = later<string>();
  changes.change(() => late.promise);
  changes.change(() => 'never');
  changes.restart('b');
  changes.change((now) => `${now}c`);
  expect(changes.value).toBe('bc');
  late.answer('x');
  await settled();
  expect(changes.value).toBe('bc');
});
