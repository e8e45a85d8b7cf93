import type { APIRoute } from 'astro';
import { answer } from '../../../../server/http/answer.ts';
import { surveyHtml } from '../../../../server/http/survey-html.ts';

/** The whole survey as one HTML page with its pictures inside. */
export const GET: APIRoute = ({ params }) =>
  answer(async () => {
    const { name, html } = await surveyHtml(params.id);
    return new Response(html, {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${name} survey.html`)}`,
      },
    });
  });
