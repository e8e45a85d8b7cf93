import type { Manifest } from '@wembrel/core/handover/manifest';
import type { Layout } from '@wembrel/core/layout/layout';
import type { DefaultPlanOptions } from '../plans/default-plan.ts';
import type { OnProgress } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import type { BakeOptions } from '../stages/bake.ts';
import type { WorstPictures } from '../stages/compare.ts';
import type { PipelineInput } from '../stages/context.ts';
import type { MergeReport } from './report.ts';

export interface MergeRequest extends PipelineInput, BakeOptions {
  /** Folder for the results. */
  out: string;
  /** Side of the pictures that are compared, px; else as decided, for a proof half of it. */
  picture?: number;
  /** The decisions' sheets and routes are only where a plan is begun from: one is made for what is read; see `defaultPlan`. */
  auto?: DefaultPlanOptions;
  /** Patterns of objects, besides those that alone are merged, that some object has to fit. */
  mustFit?: readonly string[];
  /** Pictures that the recipes of the decisions name. */
  recipePictures?: readonly InputFile[];
  /** Whether the result is compared with its original, once it is delivered; by default it is. */
  compare?: boolean;
  /** Told once everything is delivered and the comparison begins, with all that is known without it. */
  onDelivered?: (result: MergeResult) => Promise<void>;
  onProgress?: OnProgress;
}

export interface MergeResult {
  report: MergeReport;
  manifest: Manifest;
  layout: Layout;
  /** Null where it was not compared. */
  worst: WorstPictures | null;
  /** For each merged model its position in the request's files. */
  sources: number[];
}
