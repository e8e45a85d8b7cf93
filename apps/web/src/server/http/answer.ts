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

/** Bytes of a request's body unless more are asked for. */
const BODY_BYTES = 1_000_000;

/** Reads and checks a JSON body. One that is too large is refused while it comes in. @param limit bytes @throws Problem */
export async function body<T>(request: Request, schema: ZodType<T>, limit = BODY_BYTES): Promise<T> {
  const text = await bodyText(request, limit);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Problem(400, 'the request is not JSON');
  }
  return schema.parse(value);
}

/** The body of a request as text. @param limit bytes @throws Problem when there are more */
export async function bodyText(request: Request, limit: number): Promise<string> {
  const tooLarge = () => new Problem(413, `the request is larger than ${limit} bytes`);
  if (Number(request.headers.get('content-length') ?? 0) > limit) throw tooLarge();
  const reader = request.body?.getReader();
  if (!reader) return '';
  const decoder = new TextDecoder();
  let bytes = 0;
  let text = '';
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return text + decoder.decode();
    bytes += value.length;
    if (bytes > limit) {
      await reader.cancel().catch(() => {});
      throw tooLarge();
    }
    text += decoder.decode(value, { stream: true });
  }
}
