import { useEffect, useState } from 'react';

/** Whether a key is held down, where nobody types. */
export function useHeldKey(key: string): boolean {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    const follow = (down: boolean) => (event: KeyboardEvent) => {
      const { target } = event;
      const typed = target instanceof HTMLElement && target.closest('input, textarea, select');
      if (event.key.toLowerCase() === key && !typed && !event.ctrlKey && !event.metaKey) setHeld(down);
    };
    const [down, up] = [follow(true), follow(false)];
    const leave = () => setHeld(false);
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    window.addEventListener('blur', leave);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
      window.removeEventListener('blur', leave);
    };
  }, [key]);
  return held;
}
