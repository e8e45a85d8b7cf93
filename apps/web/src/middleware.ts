import { defineMiddleware } from 'astro:middleware';
import { refuse } from './server/http/guard.ts';
import { tidyOnce } from './server/jobs/disk.ts';

const hosts = (process.env.WEMBREL_HOSTS ?? '').split(',').filter(Boolean);

export const onRequest = defineMiddleware(async (context, next) => {
  const why = refuse(context.request, hosts);
  if (why)
    return new Response(JSON.stringify({ error: why }), {
      status: 403,
      headers: { 'content-type': 'application/json' },
    });
  tidyOnce();
  const response = await next();
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  response.headers.set('cross-origin-embedder-policy', 'require-corp');
  response.headers.set('cross-origin-resource-policy', 'same-origin');
  response.headers.set('x-content-type-options', 'nosniff');
  return response;
});
