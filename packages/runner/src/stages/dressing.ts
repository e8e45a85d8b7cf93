import type { TargetPart } from '@wembrel/core/bake/target';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { SheetLayout } from '@wembrel/core/layout/layout';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import type { Images } from '../read/images.ts';

/** A sheet whose materials are baked, not padded yet. */
export interface UndressedSheet {
  models: readonly Model[];
  images: Images;
  sheet: SheetLayout;
  /** By `${model}:${part}`. */
  byPart: ReadonlyMap<string, TargetPart>;
  maps: SheetMaps;
  /** Samples of a texel along an axis. */
  grid: number;
}

/** What is laid over materials once they are baked: recipes. The stages know that there is such a thing, not how it works. */
export interface Dressing {
  /** Whether something is laid on a sheet of that name: it then has maps of normals and of what glows. */
  isFor(sheet: string): boolean;
  /** @throws InputError @throws Cancelled */
  dress(sheet: UndressedSheet, scope: JobScope, progress: (share: number, doing: string) => void): Promise<void>;
}
