import { Cancelled, InputError } from '@wembrel/core/errors';
import { Names, stem } from '@wembrel/core/handover/names';
import type { Model } from '@wembrel/core/scene/model';
import type { InputFile } from '../read/collect.ts';
import { loadModel } from '../read/load.ts';
import { Delivery } from '../write/delivery.ts';
import { TextureFiles, writeModel } from '../write/write-models.ts';

export interface ChangeOptions {
  files: readonly InputFile[];
  out: string;
  /** Textures inside each GLB. */
  embed: boolean;
  strict: boolean;
  cancelled: () => boolean;
  progress?: (share: number, doing: string) => void;
}

export interface Changed<T> {
  models: ({ path: string } & T)[];
  written: string[];
  errors: { path: string; message: string }[];
}

/**
 * Reads models one after another, changes each in memory and hands it over as GLB with its own materials. A bad file is reported, the others
 * go on; nothing stands under its final name before all is done.
 * @throws InputError with `strict`, or when nothing could be written @throws Cancelled
 */
export async function changeModels<T>(
  options: ChangeOptions,
  change: (model: Model, progress: (share: number) => void) => T | Promise<T>,
): Promise<Changed<T>> {
  const delivery = await Delivery.begin(options.out);
  const names = new Names();
  const textures = new TextureFiles(names, delivery);
  const out: Changed<T> = { models: [], written: [], errors: [] };
  try {
    for (const [i, file] of options.files.entries()) {
      const at = (share: number) => options.progress?.((i + share) / options.files.length, file.name);
      at(0);
      try {
        const model = await loadModel(file);
        if (options.cancelled()) throw new Cancelled();
        const report = await sentenced(file.name, () => change(model, (share) => at(0.1 + 0.8 * share)));
        if (options.cancelled()) throw new Cancelled();
        const name = names.claim(stem(file.name), '.glb');
        await writeModel(model, name, options.embed, textures, delivery);
        out.models.push({ path: name, ...report });
      } catch (error) {
        if (!(error instanceof InputError) || options.strict) throw error;
        out.errors.push({ path: error.path, message: error.reason });
      }
    }
    out.written = delivery.list();
    if (out.models.length > 0) await delivery.commit(options.files.map((file) => file.path));
    else await delivery.discard();
    return out;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

/** What a change says is said of its file. */
async function sentenced<T>(name: string, run: () => T | Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    if (error instanceof InputError || error instanceof Cancelled || !(error instanceof Error)) throw error;
    throw new InputError(name, error.message);
  }
}
