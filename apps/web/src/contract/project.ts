import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { StandInSpec } from '@wembrel/core/decisions/stand-in';
import type { RayFault } from '@wembrel/core/rays/maps/fault-kinds';
import type { Reaches } from '@wembrel/core/rays/pairing/measure';
import type { Sweep } from '@wembrel/core/rays/pairing/sweep';
import type { MergeReport } from '@wembrel/runner/merge/report';
import type { BakedPairing } from '@wembrel/runner/rays/bake-rays';
import type { RecipeReport } from '@wembrel/runner/recipes/report';
import type { FileReport, SurveyReport } from '@wembrel/runner/stages/read';
import type { StandInModel, StandInReport } from '@wembrel/runner/stand-in/report';
import type { SurveyDetails } from '@wembrel/runner/survey/details';
import { z } from 'zod';

/** Shapes that server and browser share; the server checks everything that comes in against them. */

const ProjectName = z.string().trim().min(1, 'a name is needed').max(80, 'at most 80 letters');

/** Which part of the demo is opened. */
export const OpenDemo = z.object({
  part: z.enum(['furniture', 'signs', 'surfaces', 'posts', 'dressed', 'kiosk', 'everything']).default('furniture'),
});

export const CreateProject = z.object({ name: ProjectName });
export const RenameProject = z.object({ name: ProjectName });

const Pointer = z.string().regex(/^(\/([^~/]|~[01])*)+$/, 'a JSON pointer');

/** One operation of a JSON patch (RFC 6902), of those that a comparison makes. */
const PatchOperation = z.discriminatedUnion('op', [
  z.object({ op: z.literal('add'), path: Pointer, value: z.unknown() }),
  z.object({ op: z.literal('replace'), path: Pointer, value: z.unknown() }),
  z.object({ op: z.literal('remove'), path: Pointer }),
]);

/** A change of the decisions, with the version that it was made on; a stale one is answered with 409. */
export const PatchDecisions = z.object({
  parent: z.number().int().min(0),
  /** What was done, as the undo button shows it. */
  label: z.string().min(1).max(120),
  patch: z.array(PatchOperation).max(200_000),
});
/** Bytes of such a change: some ten thousand bays may be locked at a time. */
export const PATCH_BYTES = 16_000_000;

export const StepProject = z.object({ parent: z.number().int().min(0), way: z.enum(['undo', 'redo']) });

/** Files that were uploaded before join a project in one step; others leave it. */
/** Name of the folder whose files the project follows; null when it follows none. */
export const WatchFolder = z.object({ name: z.string().max(200).nullable() });

export const ChangeSources = z.object({
  add: z
    .array(z.object({ path: z.string().max(400), hash: z.string().regex(/^[0-9a-f]{64}$/) }))
    .max(20_000)
    .default([]),
  remove: z.array(z.string().max(400)).max(20_000).default([]),
});

export const JobKind = z.enum([
  'survey',
  'layout',
  'proof',
  'final',
  'ray-proof',
  'ray-final',
  'ray-reaches',
  /** Reaches, proof and final in one; when it is done, it is a proof or a final. */
  'ray-all',
  'light',
  'stand-in-proof',
  'stand-in-final',
  'recipe-proof',
  'recipe-final',
]);
export type JobKind = z.infer<typeof JobKind>;
/** `sheet`: id of the one sheet that is baked, alone and without models; of a ray bake: name of the one pairing; of a stand-in: path of its model; of a recipe: its name. */
const share = z.number().min(0).max(1);
export const StartJob = z.object({
  kind: JobKind,
  sheet: z.string().max(400).nullable().default(null),
  /** Part of the sheets that a ray proof bakes, at their full size: low x y and high x y, shares of a side. */
  region: z.tuple([share, share, share, share]).nullable().default(null),
});
export type Region = z.infer<typeof StartJob>['region'];
/** Where low-polys with their baked maps go on: as sources of the project itself, or of a new one. */
export const AdoptBaked = z.object({ into: z.enum(['project', 'new']) });
export const PauseJob = z.object({ on: z.boolean() });

export type JobState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';

export interface JobView {
  id: string;
  kind: JobKind;
  /** The one sheet, or pairing, that it bakes, or null: all and the models. */
  sheet: string | null;
  region: Region;
  state: JobState;
  /** It runs, and waits until somebody lets it go on. */
  paused: boolean;
  /** Its delivery is there, and is being compared with its original. */
  comparing: boolean;
  share: number;
  doing: string;
  /** Seconds left, guessed from the pace so far; null while unknown. */
  left: number | null;
  /** Why it failed, in one sentence. */
  message: string | null;
  /** Revision of the decisions and stamp of the sources that it was made from. */
  madeFrom: string;
  finished: string | null;
}

/** What takes room on the disk, bytes. */
export interface DiskView {
  /** Results of all projects. */
  results: number;
  /** What they may take; beyond it the least recently used go. */
  bound: number;
  /** Contents of all sources, each once. */
  sources: number;
  /** What was found out about them, for later runs. */
  facts: number;
}

/** From 100 MB to 10 TB. */
export const SetDisk = z.object({ bound: z.number().min(1e8).max(1e13) });

/** A file that a survey has read while it reads others. */
export interface ReadFileView {
  path: string;
  /** Its place among the models of the project: `/api/jobs/{job}/read/{file}` is its picture. */
  file: number;
  /** Why it cannot be read; null: it was. */
  problem: string | null;
  drawCalls: number;
  slots: number;
  triangles: number;
  /** Bytes in graphics memory as BC7. */
  textureBytes: number;
}

export interface SourceView {
  path: string;
  bytes: number;
  hash: string;
}

/** A project in the list of all. */
export interface ProjectSummary {
  id: string;
  name: string;
  /** Files. */
  sources: number;
  changed: string;
  /** Models of the newest survey, null without one. */
  models: number | null;
  /** Addresses of pictures of its costliest models. */
  pictures: string[];
  /** What the sources cost; null before they were read. */
  before: ProjectCost | null;
  /** The newest proof or final. */
  result: ({ kind: 'proof' | 'final' /** Sources or decisions changed since. */; stale: boolean } & ProjectCost) | null;
}

interface ProjectCost {
  drawCalls: number;
  /** Bytes in graphics memory, in the format of the project's budget. */
  textureBytes: number;
}

/** A row of the survey; figures and report are those of the command line. */
export type FileRow = FileReport;
export type SurveyView = SurveyReport &
  SurveyDetails & {
    /** Files and how they were read, as a hash. */
    filesStamp: string;
  };

/** What a finished proof or final says of itself. */
export interface ResultView extends MergeReport {
  /** Bytes of each delivered file. */
  sizes: Record<string, number>;
  models: { name: string; source: number; file: string }[];
  /** Texture files that each delivered model names. */
  uses: Record<string, string[]>;
}

/** What a bake of a single sheet says of itself. */
export interface OneSheetView {
  sheet: ResultView['sheets'][number];
  sizes: Record<string, number>;
  seconds: Record<string, number>;
}

/** The maps of one sheet of a ray bake. */
export interface RaySheetView {
  name: string;
  /** Hash of what it was made from: a later bake takes it over where that is the same. */
  stamp: string;
  /** Side of its maps, px. */
  size: number;
  /** Kind of each map, its file as delivered and a PNG of it to look at. */
  maps: { kind: MapKind; file: string; bits: number; bytes: number; view: string }[];
  /** Smaller levels of the opacity map that keep its coverage, as delivered. */
  levels: string[];
  /** The low-polys with their maps, as delivered. */
  model: string;
  /** Where faults are, as a picture over the maps. */
  faultPicture: string;
  /** The texel where the high-poly stands out most, as shares of the sheet. */
  spot: [number, number] | null;
  pairings: (BakedPairing & {
    /** Distances of the texels, m: counts of equal steps from `from` to `to`. */
    histogram: { from: number; to: number; counts: number[] };
  })[];
  faults: RayFault[];
  /** Colours of an ID map, #rrggbb. */
  legend: { name: string; colour: string }[];
  scale: { box: number[]; curvatureRadius: number };
}

/** What a finished ray bake says of itself. */
export interface RayResultView {
  sheets: RaySheetView[];
  rays: number;
  raysPerSecond: number;
  seconds: Record<string, number>;
  /** Faults of a proof for which the final was not baked after it. */
  stopped: RaySheetView['faults'];
}

/** What a finished light bake says of itself. */
export interface LightResultView {
  /** Each model, its file as delivered, vertices that were lit, and meshes that stand at several places but have one light. */
  models: { path: string; file: string; bytes: number; vertices: number; severalPlaces: number }[];
}

/** What a finished stand-in says of itself. */
export interface StandInResultView {
  /** How it was made. */
  spec: StandInSpec;
  proof: boolean;
  model: StandInModel;
  seconds: Record<string, number>;
  faults: StandInReport['faults'];
  /** Bytes of each file. */
  sizes: Record<string, number>;
}

/** What a recipe that was laid on models says of itself. */
export interface RecipeResultView extends RecipeReport {
  /** As it was then. */
  made: Recipe;
  proof: boolean;
  /** Bytes of each file. */
  sizes: Record<string, number>;
}

/** What trying reaches has found, by the name of the pairing. */
export interface ReachesView {
  pairings: { name: string; sweep: Sweep; measured: Reaches }[];
}

/** The cut through a picked texel; see `Section`. Lines are x1 y1 x2 y2, m. */
export interface SectionView {
  pairing: string;
  /** Of the picked texel: its point, m, and how far the high-poly lies above it (null: missed). */
  point: [number, number, number];
  distance: number | null;
  faults: number;
  /** Half the side of what is cut, m. */
  half: number;
  high: number[];
  low: number[];
  cage: number[];
  rays: { from: [number, number]; to: [number, number]; hit: [number, number] | null; picked: boolean }[];
  outward: number;
  inward: number;
}

/** Outlines of islands for the sheet view, px of the sheet. */
export interface SheetOutlines {
  name: string;
  width: number;
  height: number;
  /** Room that stays free, px. */
  reserves: { id: string; x: number; y: number; width: number; height: number; note: string }[];
  margin: number;
  plots: {
    id: number;
    slot: string;
    material: number;
    box: [number, number, number, number];
    stacked: number;
    path: string;
  }[];
}

/** Slots, parts and textures that came and went when sources were read again, as `file: name`. */
export interface SourceChanges {
  appeared: string[];
  vanished: string[];
  /** Names that no slot bears any more. */
  goneSlots: string[];
}

/** What of a project changes often: everything else is fetched by what this names, and kept. */
export interface ProjectHead {
  id: string;
  name: string;
  /** Grows with every change. */
  version: number;
  /** Changes with the files alone. */
  sourcesStamp: string;
  /** Changes whenever sources or decisions do. */
  stamp: string;
  /** Changes only with the files and what is decided of ray bakes. */
  rayStamp: string;
  /** The same of light into vertex colours. */
  lightStamp: string;
  /** The same of stand-ins, besides the settings of each model. */
  standInStamp: string;
  /** The same of recipes on models, besides the recipes. */
  recipeStamp: string;
  /** Changes only with what decides which islands go to which sheet. */
  layoutStamp: string;
  /** The survey of the files as they are now; while they are read with another change of faces, the one before. */
  surveyJob: string | null;
  /** Name of the folder that the project follows, and those that it could follow. */
  watch: { name: string | null; names: string[] };
  /** What undo would take back and redo bring again. */
  undo: string | null;
  redo: string | null;
  /** Those under way, the newest ones, and the newest result of each kind and sheet. */
  jobs: JobView[];
}

/** The decisions of a version. */
export interface DecisionsView {
  version: number;
  decisions: MergeDecisions;
}

/** A project as the page puts it together. */
export interface ProjectView extends ProjectHead {
  decisions: MergeDecisions;
  sources: SourceView[];
  survey: SurveyView | null;
  /** What reading again brought, against the reading before; null when nothing came or went. */
  changes: SourceChanges | null;
}

export { MergeDecisions };
