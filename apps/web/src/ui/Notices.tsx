import { Toast } from 'radix-ui';
import { Button } from './Button.tsx';
import css from './Notices.module.css';

export interface NoticesProps {
  list: { id: number; tone: 'plain' | 'fault'; text: string; action?: { label: string; run: () => void } }[];
  onDismiss: (id: number) => void;
}

/** Words that come and go at the foot of the window; faults stay until they are closed. */
export function Notices({ list, onDismiss }: NoticesProps) {
  return (
    <Toast.Provider swipeDirection="down" label="Notice">
      {list.map((n) => (
        <Toast.Root
          key={n.id}
          className={`${css.notice} ${n.tone === 'fault' ? css.fault : ''}`}
          type={n.tone === 'fault' ? 'foreground' : 'background'}
          duration={n.tone === 'fault' ? 60_000 : n.action ? 12_000 : 4_000}
          onOpenChange={(open) => !open && onDismiss(n.id)}
        >
          <Toast.Description>{n.text}</Toast.Description>
          {n.action && (
            <Toast.Action asChild altText={n.action.label}>
              <Button onClick={n.action.run}>{n.action.label}</Button>
            </Toast.Action>
          )}
          <Toast.Close asChild>
            <Button tone="quiet">Close</Button>
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport className={css.viewport} />
    </Toast.Provider>
  );
}
