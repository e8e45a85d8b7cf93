import { InputError } from '@wembrel/core/errors';
import { ZodError, type ZodType } from 'zod';
import { log } from '../store/log.ts';
import { Problem } from '../store/problem.ts';

export function json(value: unknown, status = 200): Response {
  return new Response(JSON.stringify(value), {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  });
}

/** Runs an endpoint; problems become JSON with a sentence, everything unexpected is logged and hidden. */
export async function answer(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof Problem) return json({ error: error.message }, error.status);
    if (error instanceof InputError) return json({ error: error.message }, 400);
    if (error instanceof ZodError) {
      const i = error.issues[0];
      return json({ error: `${i.path.join('.') || 'request'}: ${i.message}` }, 400);
    }
    log.error(error, 'endpoint failed');
    return json({ error: 'something went wrong on the server; the log says more' }, 500);
  }
}

/** Reads and checks a JSON body of at most 1 MB. */
export async function body<T>(request: Request, schema: ZodType<T>): Promise<T> {
  const text = await request.text();
  if (text.length > 1_000_000) throw new Problem(413, 'the request is too large');
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Problem(400, 'the request is not JSON');
  }
  return schema.parse(value);
}
