import type { DragEvent, ReactNode, Ref } from 'react';

interface PictureDropProps {
  className: string;
  /** Which pictures it holds, for its style. */
  show?: string;
  /** Places of a sheet can be aimed at. */
  aim?: boolean;
  frame?: Ref<HTMLDivElement>;
  /** @returns whether they are taken; else they are left to the window */
  onDrop: (files: File[], at: { x: number; y: number }) => boolean;
  children: ReactNode;
}

/** Takes files that are dropped on a picture. */
export function PictureDrop({ className, show, aim, frame, onDrop, children }: PictureDropProps) {
  const over = (event: DragEvent) => {
    if (!event.dataTransfer.types.includes('Files')) return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is an extra; lines do the same
    <div
      ref={frame}
      className={className}
      data-show={show}
      data-aim={aim || undefined}
      onDragOver={over}
      onDrop={(event) => {
        if (!onDrop([...event.dataTransfer.files], { x: event.clientX, y: event.clientY })) return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {children}
    </div>
  );
}
