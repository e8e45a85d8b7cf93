import { parentPort } from 'node:worker_threads';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { Cancelled, InputError, sentence } from '@wembrel/core/errors';
import type { Coverage } from '@wembrel/core/recipes/readings/coverage';
import { newFlag, stopped } from '@wembrel/runner/pool/cancel-flag';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { ThreadPool } from '@wembrel/runner/pool/thread-pool';
import { openLiveCell } from '@wembrel/runner/recipes/live/live-cell';
import { LiveModel } from '@wembrel/runner/recipes/live/live-model';
import { slabOf } from '@wembrel/runner/recipes/live/live-slab';
import type { LiveSurface } from '@wembrel/runner/recipes/live/live-surface';
import type { LaidView, LiveAnswer, LiveAsk } from '../../contract/live-recipe.ts';
import type { LiveMessage, LiveOrder } from './live-message.ts';

/** Answers what is asked while a recipe is tuned, one question after another: what was read and baked for one serves the next. */

/** s that workers wait for the next question. */
const IDLE = 300;
/** Subjects that are kept: a model and a cell, or two models that are compared. */
const KEPT = 2;

process.on('unhandledRejection', (error) => {
  if (!(error instanceof Cancelled)) throw error;
});

const tell = (message: LiveMessage): void => parentPort?.postMessage(message);
const progress = (share: number, doing: string): void => tell({ type: 'progress', share, doing });

interface Subject {
  key: string;
  model: LiveModel | null;
  at: (side: number) => Promise<LiveSurface>;
}

/** The one that was asked last comes first. */
const subjects: Subject[] = [];
/** One flag for all that is kept; it is lowered again for each question. */
const cancel = newFlag();
let scope: JobScope | null = null;

async function subjectOf(order: LiveOrder, own: JobScope): Promise<Subject> {
  const at = subjects.findIndex(({ key }) => key === order.key);
  const known = at < 0 ? await opened(order, own) : subjects.splice(at, 1)[0];
  subjects.unshift(known);
  subjects.length = Math.min(subjects.length, KEPT);
  return known;
}

async function opened(order: LiveOrder, own: JobScope): Promise<Subject> {
  const { key, file, on, textures } = order;
  if (file) {
    const model = await LiveModel.open({ ...order, file, progress }, own);
    return { key, model, at: (side) => model.at(side) };
  }
  if (!('cell' in on)) throw new InputError(on.model, 'the project holds no such model any more');
  const ground = 'recipe' in order.question ? order.question.recipe.ground : null;
  const cells = new Map<number, LiveSurface>();
  return {
    key,
    model: null,
    at: async (side) => {
      const cell = cells.get(side) ?? openLiveCell({ ground, pictures: textures, side, metres: on.cell }, own);
      cells.set(side, cell);
      return cell;
    },
  };
}

interface Reply {
  head: LiveAnswer;
  blocks: Uint8Array[];
}

async function replyTo(order: LiveOrder, own: JobScope): Promise<Reply> {
  const { question, textures } = order;
  if (question.ask === 'slab') return slab(question, order, own);
  const subject = await subjectOf(order, own);
  if (question.ask === 'model') {
    if (!subject.model) throw new InputError('cell', 'a cell has no model');
    const { layout, apart, glb } = subject.model;
    return { head: { ask: 'model', layout, apart }, blocks: [glb] };
  }
  const surface = await subject.at(question.side);
  const { recipe } = question;
  switch (question.ask) {
    case 'lay':
      return laid(await timed(() => surface.lay(recipe, textures)));
    case 'line':
      return coverage(await surface.coverageOfLine(recipe, question.line, textures));
    case 'histogram': {
      const { where } = question;
      const measured = 'of' in where && 'from' in where ? where : null;
      const histogram = measured && (await surface.histogram(recipe, measured, textures));
      return { head: { ask: 'histogram', histogram }, blocks: [] };
    }
    case 'measured': {
      const { where } = question;
      const texels = 'of' in where && 'from' in where ? await surface.measured(recipe, where, textures) : null;
      return { head: { ask: 'measured' }, blocks: texels ? [new Uint8Array(texels.buffer)] : [] };
    }
    case 'texel': {
      const { width, height } = surface.surface;
      const [x, y] = [Math.min(width - 1, question.x * width), Math.min(height - 1, question.y * height)];
      return { head: { ask: 'texel', texel: await surface.texel(recipe, x, y, textures) }, blocks: [] };
    }
  }
}

async function timed<T>(work: () => Promise<T>): Promise<{ value: T; milliseconds: number }> {
  const began = performance.now();
  const value = await work();
  return { value, milliseconds: Math.round(performance.now() - began) };
}

function laid({
  value,
  milliseconds,
}: {
  value: Awaited<ReturnType<LiveSurface['lay']>>;
  milliseconds: number;
}): Reply {
  const { maps, lines, problems, from, odd, ids } = value;
  const glows = maps.emissive?.some((v) => v > 0) ?? false;
  const head: LaidView = {
    ask: 'lay',
    width: maps.width,
    height: maps.height,
    normal: maps.normal !== null,
    emissive: glows,
    emissiveStrength: maps.emissiveStrength,
    lines,
    problems,
    from,
    odd: { ...odd },
    ids: { ...ids },
    milliseconds,
  };
  return { head, blocks: [maps.baseColor, maps.orm, maps.normal, glows ? maps.emissive : null].flatMap(ownBytes) };
}

/** Bytes that are not shared, to be handed over. */
const ownBytes = (data: Uint8Array | null): Uint8Array[] => (data ? [Uint8Array.from(data)] : []);

function coverage(found: Coverage | null): Reply {
  return { head: { ask: 'line', share: found?.share ?? null }, blocks: found ? [found.texels] : [] };
}

async function slab({ look, px }: Extract<LiveAsk, { ask: 'slab' }>, order: LiveOrder, own: JobScope): Promise<Reply> {
  const looks = look.from === 'slot' ? ((await subjectOf(order, own)).model?.looks ?? null) : null;
  const found: SheetMaps | string = await slabOf(look, { pictures: order.textures, looks }, px, own);
  if (typeof found === 'string') return { head: { ask: 'slab', problem: found }, blocks: [] };
  return { head: { ask: 'slab', problem: null }, blocks: ownBytes(found.baseColor) };
}

parentPort?.on('message', async (order: LiveOrder) => {
  Atomics.store(cancel, 0, 0);
  scope ??= new JobScope(new ThreadPool(order.worker, undefined, IDLE), undefined, cancel);
  const watch = setInterval(() => {
    if (stopped(order.cancel)) Atomics.store(cancel, 0, 1);
  }, 20);
  try {
    const { head, blocks } = await replyTo(order, scope);
    tell({ type: 'answer', head, blocks });
  } catch (error) {
    if (error instanceof Cancelled || stopped(cancel)) tell({ type: 'cancelled' });
    else if (error instanceof InputError)
      tell({ type: 'failed', message: `${error.path}: ${error.reason}`, known: true });
    else {
      process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      tell({ type: 'failed', message: sentence(error), known: false });
    }
  } finally {
    clearInterval(watch);
  }
});
