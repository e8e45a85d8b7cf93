import { events } from '../store/events.ts';

/** A stream of Server-Sent Events for one project. */
export function eventStream(project: string): Response {
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (data: unknown) => {
        try {
          controller.enqueue(encoder.encode(`data: ${JSON.stringify(data)}\n\n`));
        } catch {
          stop();
        }
      };
      const listener = (data: unknown) => send(data);
      const beat = setInterval(() => send({ type: 'beat' }), 15_000);
      events.on(project, listener);
      stop = () => {
        events.off(project, listener);
        clearInterval(beat);
      };
      send({ type: 'hello' });
    },
    cancel() {
      stop();
    },
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
