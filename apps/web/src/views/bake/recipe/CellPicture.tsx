import { useMemo, useState } from 'react';
import type { LiveMaps, LiveMask } from '../../../stage/live-sheet.ts';
import { SheetStage } from '../../../stage/SheetStage.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import { SHOWN_MAPS, type ShownMap, useCellPicture, useHatchPicture } from './map-pictures.ts';
import css from './Recipe.module.css';

export interface CellPictureProps {
  name: string;
  maps: LiveMaps | null;
  /** Maps of the cell that lies around it; null: it lies beside itself. */
  around: LiveMaps | null;
  px: number;
  mask: LiveMask | null;
  place: readonly [number, number] | null;
  onPlace: (place: [number, number] | null) => void;
  onDropPictures: (files: File[]) => void;
}

/** A cell, alone or with those around it. */
export function CellPicture({ name, maps, around, px, mask, place, onPlace, onDropPictures }: CellPictureProps) {
  const [times, setTimes] = useState<'1' | '3'>('3');
  const [kind, setKind] = useState<ShownMap>('color');
  const count = Number(times);
  const image = useCellPicture(maps, around, kind, count);
  const hatch = useHatchPicture(count === 1 ? mask : null);
  const sheet = useMemo(
    () => ({ name, width: px * count, height: px * count, reserves: [], margin: 0, plots: [] }),
    [name, px, count],
  );
  const at = place && (place.map((v) => ((v % 1) + (count - 1) / 2) * px) as [number, number]);
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is an extra; a line with pictures does the same */}
      <div
        className={css.pictures}
        data-show="map"
        onDragOver={(event) => {
          if (!event.dataTransfer.types.includes('Files')) return;
          event.preventDefault();
          event.stopPropagation();
        }}
        onDrop={(event) => {
          event.preventDefault();
          event.stopPropagation();
          onDropPictures([...event.dataTransfer.files]);
        }}
      >
        <div className={css.map}>
          <SheetStage
            sheet={sheet}
            image={image}
            over={hatch}
            showIslands={false}
            lit={null}
            onHover={() => {}}
            mark={at}
            onPoint={(x, y) => onPlace([(x / px) % 1, (y / px) % 1])}
          />
        </div>
      </div>
      <div className={css.tools}>
        <Segments
          label="How often it is shown"
          value={times}
          options={[
            { value: '1', label: 'One cell' },
            { value: '3', label: '3 × 3' },
          ]}
          onChange={setTimes}
        />
        <Choice label="Map" value={kind} options={[...SHOWN_MAPS]} onChange={setKind} />
      </div>
    </>
  );
}
