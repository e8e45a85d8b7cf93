import type { APIRoute } from 'astro';
import { finishedJob } from '../../../../server/jobs.ts';
import { answer, json, Problem } from '../../../../server/problem.ts';
import { sectionAt } from '../../../../server/section.ts';

/** The cut through a ray bake at a texel: number of the `sheet`, `x`, `y` px of its maps, `turn` of the plane in degrees. */
export const GET: APIRoute = ({ params, url }) =>
  answer(async () => {
    const number = (name: string) => {
      const v = Number(url.searchParams.get(name) ?? '0');
      if (!Number.isFinite(v)) throw new Problem(400, `${name} is not a number`);
      return v;
    };
    const job = await finishedJob(params.job);
    return json(
      await sectionAt(
        job.folder,
        Math.trunc(number('sheet')),
        number('x'),
        number('y'),
        (number('turn') * Math.PI) / 180,
      ),
    );
  });
