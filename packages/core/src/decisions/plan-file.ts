import { z } from 'zod';
import { Budget } from './budget.ts';
import { checkPlan, MergeDecisions, PlanFields, planOf } from './decisions.ts';
import { PlannedSurface } from './planned-surface.ts';
import { Repairs } from './repairs.ts';

/**
 * A plan as a file of its own: open JSON, the same for the web application and the command line. Routes and rules name slots by their names,
 * so that it can be applied to other models.
 */
export const PlanFile = PlanFields.extend({
  format: z.literal('wembrel-plan'),
  version: z.literal(1),
  budget: Budget.prefault({}),
  planned: z.array(PlannedSurface).max(500).default([]),
  requiredNames: MergeDecisions.shape.requiredNames,
  requiredTextures: MergeDecisions.shape.requiredTextures,
  /** Meshes by exact name → triangles that one copy has at the most. */
  reduce: Repairs.shape.reduce,
}).superRefine(checkPlan);
export type PlanFile = z.infer<typeof PlanFile>;

export function planFileOf(decisions: MergeDecisions): PlanFile {
  const { budget, planned, requiredNames, requiredTextures, repairs } = decisions;
  const { reduce } = repairs;
  return {
    format: 'wembrel-plan',
    version: 1,
    ...planOf(decisions),
    budget,
    planned,
    requiredNames,
    requiredTextures,
    reduce,
  };
}

/** Decisions with a plan file taken over. */
export function withPlanFile(decisions: MergeDecisions, file: PlanFile): MergeDecisions {
  const { format: _, version: __, reduce, ...plan } = file;
  return { ...decisions, ...plan, repairs: { ...decisions.repairs, reduce } };
}

/** JSON Schema (2020-12) of a plan file, as it is published. */
export function planFileSchema(): unknown {
  return {
    title: 'Wembrel plan',
    description:
      'Which slots share which sheets, of which kind and size. Fields that are left out have the defaults given here.',
    ...z.toJSONSchema(PlanFile, { io: 'input' }),
  };
}
