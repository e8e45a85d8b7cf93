import { PlannedSurface } from '@wembrel/core/decisions/planned-surface';
import type { SheetDecision } from '@wembrel/core/decisions/sheets';
import { type DragEvent, type ReactNode, useRef, useState } from 'react';
import type { MergeDecisions } from '../../contract/project.ts';
import { notify } from '../../project/notices.ts';
import { sendPicture } from '../../project/send-picture.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { count } from '../../ui/format.ts';
import css from './SheetList.module.css';

/** What a page can measure. */
const ACCEPT = '.png,.jpg,.jpeg,.webp';

/** m² that a face with a cell covers, until somebody says otherwise. */
const AREA = 1;

interface CellPicture {
  name: string;
  picture: string;
  width: number;
  height: number;
}

/** Stores a picture that was dropped. @throws Error with a sentence when it cannot be shown */
async function pictureOf(file: File): Promise<CellPicture> {
  const bitmap = await createImageBitmap(file);
  const { width, height } = bitmap;
  bitmap.close();
  return { name: file.name.replace(/\.[^.]+$/, '').slice(0, 80), picture: await sendPicture(file), width, height };
}

/** Each picture as a surface with a cell of a sheet; where one of its name is planned already, it gets the picture. */
function withCells(decisions: MergeDecisions, sheet: string, pictures: readonly CellPicture[]): MergeDecisions {
  let planned = [...decisions.planned];
  for (const { name, picture, width, height } of pictures) {
    const known = planned.find((surface) => surface.name === name);
    if (known) {
      planned = planned.map((surface) =>
        surface === known ? { ...surface, picture, width, height, to: sheet } : surface,
      );
      continue;
    }
    let id = 1;
    while (planned.some((surface) => surface.id === String(id))) id++;
    planned.push(PlannedSurface.parse({ id: String(id), name, picture, width, height, area: AREA, to: sheet }));
  }
  return { ...decisions, planned };
}

/** Pictures are dropped into the cells of a tile sheet: each is a surface that faces can be given. */
export function CellDrop({
  sheet,
  edit,
  children,
}: {
  sheet: SheetDecision;
  edit: ViewProps['edit'];
  children: ReactNode;
}) {
  const picker = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState(0);
  const take = async (files: readonly File[]) => {
    setSending(files.length);
    const done: CellPicture[] = [];
    for (const file of files)
      try {
        done.push(await pictureOf(file));
      } catch (error) {
        notify({ tone: 'fault', text: `${file.name}: ${(error as Error).message}` });
      }
    setSending(0);
    if (done.length > 0)
      edit(
        done.length === 1
          ? `${done[0].name} into a cell of ${sheet.name}`
          : `${done.length} pictures into ${sheet.name}`,
        (decisions) => withCells(decisions, sheet.id, done),
      );
  };
  const carriesFiles = (event: DragEvent) => event.dataTransfer.types.includes('Files');
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping files is an extra; the button does the same
    <div
      className={over ? css.dropping : ''}
      onDragOver={(event) => {
        if (!carriesFiles(event)) return;
        event.preventDefault();
        event.stopPropagation();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        if (!carriesFiles(event)) return;
        event.preventDefault();
        event.stopPropagation();
        setOver(false);
        void take([...event.dataTransfer.files]);
      }}
    >
      {children}
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        accept={ACCEPT}
        data-testid={`cells-${sheet.id}`}
        onChange={(event) => {
          void take([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      <Button tone="quiet" disabled={sending > 0} onClick={() => picker.current?.click()}>
        {sending > 0 ? `${count(sending)} pictures on their way …` : 'Put pictures into cells'}
      </Button>
    </div>
  );
}
