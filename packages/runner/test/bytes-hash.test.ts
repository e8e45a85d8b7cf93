import { createHash } from 'node:crypto';
import { expect, test } from 'vitest';
import { numbers } from '../../core/test/build.ts';
import { bytesHash } from '../src/pictures/bytes-hash.ts';

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

test('copies and files that differ in one byte have the hash of their contents, in any order', () => {
  const random = numbers(3);
  const file = Uint8Array.from({ length: 1 << 17 }, () => random() * 256);
  const files = Array.from({ length: 40 }, () => {
    const copy = file.slice();
    if (random() < 0.5) copy[Math.floor(random() * copy.length)] ^= 1;
    return copy;
  });
  expect(files.map(bytesHash)).toEqual(files.map(sha256));
});
