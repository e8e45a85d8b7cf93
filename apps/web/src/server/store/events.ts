import { EventEmitter } from 'node:events';

const holder = globalThis as { wembrelEvents?: EventEmitter };

/** Tells open pages that something of a project changed. */
export const events: EventEmitter = (() => {
  holder.wembrelEvents ??= new EventEmitter().setMaxListeners(0);
  return holder.wembrelEvents;
})();
