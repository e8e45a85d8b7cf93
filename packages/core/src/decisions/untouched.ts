import { canonicalJson } from '../canonical-json.ts';
import { MergeDecisions, planOf } from './decisions.ts';

/** What of the decisions a default plan sets; see `defaultPlan` of the runner. */
const DEFAULT_PLAN_KEYS = ['sheets', 'routes', 'leftOut', 'scale', 'proposed'] as const;
export type DefaultPlan = Pick<MergeDecisions, (typeof DEFAULT_PLAN_KEYS)[number]>;

export const defaultPlanOf = (decisions: MergeDecisions): DefaultPlan =>
  Object.fromEntries(DEFAULT_PLAN_KEYS.map((key) => [key, decisions[key]])) as DefaultPlan;

/** True while nobody has changed the plan, besides choosing objects: it is as every project begins, or as the last default plan made it. */
export function isUntouchedPlan(decisions: MergeDecisions): boolean {
  const plain = { ...MergeDecisions.parse({}), only: decisions.only };
  const { proposed, leftOut } = decisions;
  const made: MergeDecisions = proposed
    ? {
        ...plain,
        sheets: proposed.sheets.length > 0 ? proposed.sheets : plain.sheets,
        routes: proposed.routes,
        leftOut,
        scale: 'detail',
      }
    : plain;
  return canonicalJson(planOf(decisions)) === canonicalJson(planOf(made));
}
