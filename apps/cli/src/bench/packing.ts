import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { type PackItem, pack } from '@wembrel/core/pack/pack';
import earcut from 'earcut';
import { type BenchRow, round } from './turns.ts';

/** Sets of islands, rings in any unit (P1 mixed, P2 props, P3 small, P4 large concave, P5 strips that may only move). */
const SETS = fileURLToPath(new URL('../apps/cli/bench-data/', import.meta.url));

type Ring = [number, number][];

interface IslandSet {
  name: string;
  desc: string;
  rotate: string;
  islands: { outer: Ring; holes: Ring[] }[];
}

function items(set: IslandSet, boxes: boolean): PackItem[] {
  return set.islands.map(({ outer, holes }) => {
    const x0 = Math.min(...outer.map((p) => p[0]));
    const y0 = Math.min(...outer.map((p) => p[1]));
    const w = Math.max(...outer.map((p) => p[0])) - x0;
    const h = Math.max(...outer.map((p) => p[1])) - y0;
    const flat = [outer, ...holes].flat().flatMap(([x, y]) => [x - x0, y - y0]);
    const starts: number[] = [];
    let at = outer.length;
    for (const hole of holes) {
      starts.push(at);
      at += hole.length;
    }
    const corners = boxes ? [0, 0, w, 0, w, h, 0, h] : flat;
    const indices = boxes ? [0, 1, 2, 0, 2, 3] : earcut(flat, starts);
    const shape = new Float64Array(indices.length * 2);
    indices.forEach((v, i) => {
      shape[i * 2] = corners[v * 2];
      shape[i * 2 + 1] = corners[v * 2 + 1];
    });
    return { shape, factor: 1, mayTurn: true };
  });
}

function area(shape: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < shape.length; i += 6)
    sum +=
      Math.abs(
        (shape[i + 2] - shape[i]) * (shape[i + 5] - shape[i + 1]) -
          (shape[i + 4] - shape[i]) * (shape[i + 3] - shape[i + 1]),
      ) / 2;
  return sum;
}

/** Coverage of a 1024 px square with a margin of 2 px: true shapes against the boxes of the same islands. */
export function packingBenches(): BenchRow[] {
  const side = 1024;
  return [1, 2, 3, 4, 5].map((n) => {
    const set = JSON.parse(readFileSync(`${SETS}P${n}.json`, 'utf8')) as IslandSet;
    const run = (boxes: boolean) =>
      pack(items(set, boxes), {
        width: side,
        height: side,
        margin: 2,
        rotate: set.rotate === 'none' ? 'none' : 'quarter',
        maxScale: 1e6,
        effort: 6,
        seed: 1,
      });
    const surface = items(set, false).reduce((sum, i) => sum + area(i.shape), 0);
    const begun = performance.now();
    const ours = (surface * run(false).scale ** 2) / side ** 2;
    const seconds = (performance.now() - begun) / 1000;
    const reference = (surface * run(true).scale ** 2) / side ** 2;
    return {
      name: `packing ${set.name}, coverage`,
      unit: 'share',
      ours: round(ours),
      reference: round(reference),
      against: 'boxes of the same islands',
      ratio: round(ours / reference),
      note: `${set.desc}; ${seconds.toFixed(1)} s`,
    };
  });
}
