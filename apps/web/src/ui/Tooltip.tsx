import { Tooltip as Radix } from 'radix-ui';
import type { ReactElement, ReactNode } from 'react';
import css from './Tooltip.module.css';

export const TooltipProvider = ({ children }: { children: ReactNode }) => (
  <Radix.Provider delayDuration={450}>{children}</Radix.Provider>
);

/** A few words about a control, on hover and on focus. */
export function Tooltip({
  text,
  side = 'top',
  children,
}: {
  text: ReactNode;
  side?: 'top' | 'right';
  children: ReactElement;
}) {
  return (
    <Radix.Root>
      <Radix.Trigger asChild>{children}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content className={css.tip} side={side} sideOffset={4} collisionPadding={8}>
          {text}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
