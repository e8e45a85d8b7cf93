import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import { plannedSlots, withPlannedRoutes } from '@wembrel/core/predict/planned';
import { type PictureSize, type Prediction, predict } from '@wembrel/core/predict/predict';

export interface PredictRequest {
  id: number;
  decisions: MergeDecisions;
  /** What the survey found; sent when it is another one, and kept. */
  facts?: {
    slots: PlanSlot[];
    models: number;
    pictures: (readonly [key: string, size: PictureSize])[];
  };
}

export interface PredictAnswer {
  id: number;
  prediction: Prediction;
  /** ms */
  took: number;
}

let slots: PlanSlot[] = [];
let models = 0;
let pictures: ReadonlyMap<string, PictureSize> = new Map();
let latest: PredictRequest | null = null;

/** Predicts what a plan will cost; of requests that come while it works, only the last is answered. */
self.onmessage = ({ data }: MessageEvent<PredictRequest>) => {
  if (data.facts) {
    slots = data.facts.slots;
    models = data.facts.models;
    pictures = new Map(data.facts.pictures);
  }
  const idle = latest === null;
  latest = data;
  if (idle) setTimeout(answer, 0);
};

function answer(): void {
  const request = latest;
  latest = null;
  if (!request) return;
  const begun = performance.now();
  const { id, decisions } = request;
  const prediction = predict(
    [...slots, ...plannedSlots(decisions.planned, models)],
    withPlannedRoutes(decisions, decisions.planned),
    (key) => pictures.get(key) ?? { width: 1, height: 1 },
  );
  const reply: PredictAnswer = { id, prediction, took: performance.now() - begun };
  self.postMessage(reply);
}
