import type { ProjectView } from '../contract/project.ts';

/** The newest ray bake that holds a pairing (null: all of them); one of the present state comes first, and of those the last part, then the final. */
export function newestRays(project: ProjectView, pairing: string | null) {
  const done = project.jobs.filter(
    (j) =>
      (j.kind === 'ray-proof' || j.kind === 'ray-final') &&
      j.state === 'done' &&
      (j.sheet === null || j.sheet === pairing),
  );
  const fresh = done.filter((j) => j.madeFrom === project.rayStamp);
  if (fresh[0]?.region) return fresh[0];
  return fresh.find((j) => j.kind === 'ray-final') ?? fresh.find((j) => !j.region) ?? fresh[0] ?? done[0];
}
