import X from 'lucide-react/icons/x';
import { Dialog as Radix } from 'radix-ui';
import { type ReactNode, useRef } from 'react';
import { Button } from './Button.tsx';
import css from './Dialog.module.css';

export interface DialogProps {
  open: boolean;
  title: string;
  /** One sentence below the title. */
  about?: string;
  onClose: () => void;
  children: ReactNode;
}

/** A window over the page; Escape and a click beside it close it, focus stays inside and returns afterwards. */
export function Dialog({ open, title, about, onClose, children }: DialogProps) {
  // Opened by a key or by a button elsewhere, so the focus has to be handed back by hand.
  const before = useRef<Element | null>(null);
  return (
    <Radix.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className={css.overlay} />
        <Radix.Content
          className={css.box}
          onOpenAutoFocus={() => {
            before.current = document.activeElement;
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (before.current instanceof HTMLElement) before.current.focus();
          }}
          {...(about ? {} : { 'aria-describedby': undefined })}
        >
          <header className={css.head}>
            <Radix.Title className={css.title}>{title}</Radix.Title>
            <Radix.Close asChild>
              <Button tone="quiet" aria-label="Close">
                <X size={16} aria-hidden />
              </Button>
            </Radix.Close>
          </header>
          {about && <Radix.Description className={css.about}>{about}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
