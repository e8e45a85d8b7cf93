import { create } from 'zustand';

/** A short word at the foot of the window; `action` offers one thing to do about it. */
export interface Notice {
  tone: 'plain' | 'fault';
  text: string;
  action?: { label: string; run: () => void };
}

interface Notices {
  list: (Notice & { id: number })[];
}

export const useNotices = create<Notices>(() => ({ list: [] }));

let next = 1;

export function notify(notice: Notice): void {
  const id = next++;
  useNotices.setState((notices) => ({
    list: [...notices.list.filter((n) => n.text !== notice.text), { ...notice, id }].slice(-4),
  }));
}

export function dismiss(id: number): void {
  useNotices.setState((notices) => ({ list: notices.list.filter((n) => n.id !== id) }));
}
