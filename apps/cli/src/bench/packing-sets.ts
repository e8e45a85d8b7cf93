import { readFileSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { PackItem } from '@wembrel/core/pack/items';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildTram } from '@wembrel/demo/pieces';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildPostLow } from '@wembrel/demo/posts';
import { buildSigns } from '@wembrel/demo/signs';
import { buildFerns } from '@wembrel/demo/strips';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { stageContext } from '@wembrel/runner/stages/context';
import { gatherPlots } from '@wembrel/runner/stages/lay-out';
import { read } from '@wembrel/runner/stages/read';
import { routePlanned } from '@wembrel/runner/stages/route';
import earcut from 'earcut';

/** Islands to be packed into a square. */
export interface PackingSet {
  name: string;
  about: string;
  items: PackItem[];
  /** The same islands as rectangles, which a rectangle packer could place. */
  boxes: PackItem[];
  rotate: 'none' | 'free';
  /** Side of the square and least gap, px. */
  side: number;
  margin: number;
  /** Seconds that the whole search is given. */
  seconds: number;
  /** Coverage that the margin alone allows; null: not worked out. */
  bound: number | null;
}

type Ring = [number, number][];

interface RingSet {
  name: string;
  desc: string;
  rotate: string;
  islands: { outer: Ring; holes: Ring[] }[];
}

/** Rings in any unit: P1 mixed, P2 props, P3 small, P4 large concave, P5 strips that may only move. */
const FILES = fileURLToPath(new URL('../apps/cli/bench-data/', import.meta.url));

/** Seconds that each set is given (see "Targets" of the reference), and what its margin alone allows. */
const GIVEN: Record<string, { seconds: number; bound: number }> = {
  P1: { seconds: 10, bound: 0.96 },
  P2: { seconds: 15, bound: 0.93 },
  P3: { seconds: 20, bound: 0.85 },
  P4: { seconds: 10, bound: 0.98 },
  P5: { seconds: 10, bound: 0.88 },
};

/** Area-weighted triangles of a ring with its holes, six numbers each, from 0, 0. */
function ringShape({ outer, holes }: RingSet['islands'][number]): Float64Array {
  const [x0, y0] = [0, 1].map((k) => Math.min(...outer.map((p) => p[k])));
  const flat = [outer, ...holes].flat().flatMap(([x, y]) => [x - x0, y - y0]);
  const starts: number[] = [];
  let at = outer.length;
  for (const hole of holes) {
    starts.push(at);
    at += hole.length;
  }
  const indices = earcut(flat, starts);
  return Float64Array.from(indices.flatMap((v) => [flat[v * 2], flat[v * 2 + 1]]));
}

/** The rectangle around a shape. */
function boxOf(shape: Float64Array): Float64Array {
  let [w, h] = [0, 0];
  for (let i = 0; i < shape.length; i += 2) {
    w = Math.max(w, shape[i]);
    h = Math.max(h, shape[i + 1]);
  }
  return Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h);
}

const item = (shape: Float64Array, mayTurn = true): PackItem => ({ shape, factor: 1, mayTurn });

function ringSet(name: string): PackingSet {
  const { desc, rotate, islands } = JSON.parse(readFileSync(join(FILES, `${name}.json`), 'utf8')) as RingSet;
  const shapes = islands.map(ringShape);
  return {
    name,
    about: desc,
    items: shapes.map((shape) => item(shape)),
    boxes: shapes.map((shape) => item(boxOf(shape))),
    rotate: rotate === 'none' ? 'none' : 'free',
    side: 1024,
    margin: 2,
    ...GIVEN[name],
  };
}

/** Sets from the demo's files, packed as a plan would: 2048 px, a margin that protects mip 2. */
const DEMO_SETS: { name: string; about: string; files: () => Record<string, Uint8Array> }[] = [
  {
    name: 'D1',
    about: 'islands of the demo furniture and the ticket post',
    files: () => ({ 'furniture.glb': buildFurniture(0.25), 'post.glb': buildPostLow() }),
  },
  {
    name: 'D2',
    about: 'islands of tram, platform, ferns and forty signs; fronds only move',
    files: () => ({
      'tram.glb': buildTram(),
      'platform.glb': buildPlatform(),
      'ferns.glb': buildFerns(),
      ...buildSigns(),
    }),
  },
];

/** Islands of the demo's files, at the sharpness of their sources. */
async function demoSet({ name, about, files }: (typeof DEMO_SETS)[number], scope: JobScope): Promise<PackingSet> {
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  try {
    const inputs = Object.entries(files()).map(([file, bytes]) => ({ name: file, path: join(folder, file), bytes }));
    for (const { path, bytes } of inputs) await writeFile(path, bytes);
    const decisions = MergeDecisions.parse({ maxRepeats: 64, mergeAll: true, keepTurn: ['FernFrond'] });
    const found = await read({ files: inputs, decisions }, stageContext(scope));
    const [plots] = gatherPlots(routePlanned(found, decisions), decisions).plots;
    const islands = plots.filter((plot) => plot.kind !== 'swatch');
    return {
      name,
      about,
      items: islands.map((island) => item(island.shape, island.mayTurn)),
      boxes: islands.map((island) => item(boxOf(island.shape), island.mayTurn)),
      rotate: 'free',
      side: 2048,
      margin: 12,
      seconds: 10,
      bound: null,
    };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** All sets, or those of some names. */
export async function packingSets(scope: JobScope, only?: readonly string[]): Promise<PackingSet[]> {
  const wanted = (name: string) => only === undefined || only.includes(name);
  const sets = Object.keys(GIVEN).filter(wanted).map(ringSet);
  for (const demo of DEMO_SETS) if (wanted(demo.name)) sets.push(await demoSet(demo, scope));
  return sets;
}
