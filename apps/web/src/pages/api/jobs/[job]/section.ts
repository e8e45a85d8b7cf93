import type { APIRoute } from 'astro';
import { answer, json } from '../../../../server/http/answer.ts';
import { finishedJob } from '../../../../server/jobs/jobs.ts';
import { sectionAt } from '../../../../server/jobs/kinds/ray-section.ts';
import { Problem } from '../../../../server/store/problem.ts';

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
