import { useMemo, useRef, useState } from 'react';
import type { LiveMaps, LiveMask } from '../../../stage/live-sheet.ts';
import { ModelView, type ModelViewHandle } from '../../../stage/ModelView.tsx';
import type { PickedFace } from '../../../stage/model-stage.ts';
import type { Mark } from '../../../stage/rings.ts';
import { SheetStage } from '../../../stage/SheetStage.tsx';
import type { BrushPoint } from '../../../stage/use-brush.ts';
import { Choice } from '../../../ui/Field.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import { LIVE_SLOT } from './live-slot.ts';
import { SHOWN_MAPS, type ShownMap, useHatchPicture, useMapPicture } from './map-pictures.ts';
import { PictureDrop } from './PictureDrop.tsx';
import css from './Recipe.module.css';

export interface RecipePictureProps {
  name: string;
  url: string | null;
  /** It is the model with its own UVs, not its source yet: places of the sheet are known. */
  laidOut: boolean;
  maps: LiveMaps | null;
  /** Side of the maps once they are as sharp as is asked for, px. */
  px: number;
  /** Maps of another recipe, beside it. */
  other: LiveMaps | null;
  otherName: string | null;
  mask: LiveMask | null;
  marks: readonly Mark[];
  /** Where the sheet was clicked, shares of its sides. */
  place: readonly [number, number] | null;
  onPlace: (place: [number, number] | null) => void;
  onBrush?: (point: BrushPoint) => void;
  /** A picture was dropped on the model. */
  onDropPicture: (file: File, face: PickedFace) => void;
  onKey: (key: string) => boolean;
}

/** What the recipe looks like now: the model large, its sheet beside it or alone. */
export function RecipePicture(props: RecipePictureProps) {
  const { name, url, laidOut, maps, px, other, otherName, mask, marks, place, onPlace, onBrush, onDropPicture, onKey } =
    props;
  const [show, setShow] = useState<'model' | 'both' | 'map'>('both');
  const [kind, setKind] = useState<ShownMap>('color');
  const picture = useRef<ModelViewHandle>(null);
  const frame = useRef<HTMLDivElement>(null);
  const image = useMapPicture(show === 'model' ? null : maps, kind);
  const hatch = useHatchPicture(show === 'model' ? null : mask);
  /** By keyboard: what a click in the middle of the picture would do. */
  const atMiddle = (): boolean => {
    const box = frame.current?.getBoundingClientRect();
    const face = box && picture.current?.pickAt(box.left + box.width / 2, box.top + box.height / 2);
    if (!face || !laidOut) return false;
    if (!onBrush) onPlace(face.uv);
    else for (const step of ['begin', 'end'] as const) onBrush({ step, face, shift: false, alt: false });
    return true;
  };
  const live = useMemo(() => ({ slotName: LIVE_SLOT, maps, second: other, mask }), [maps, other, mask]);
  const sheet = useMemo(() => ({ name, width: px, height: px, reserves: [], margin: 0, plots: [] }), [name, px]);
  return (
    <>
      <div className={css.pictures} data-show={show === 'both' && !maps ? 'model' : show}>
        {show !== 'map' && (
          <PictureDrop
            className={css.model}
            frame={frame}
            aim={laidOut}
            onDrop={([file], at) => {
              const face = picture.current?.pickAt(at.x, at.y);
              if (!file || !face || !/\.(png|jpe?g|webp|tga|tiff?|exr)$/i.test(file.name)) return false;
              onDropPicture(file, face);
              return true;
            }}
          >
            <ModelView
              ref={picture}
              label={`3D picture of ${name} with its recipe`}
              url={url}
              second={other ? url : null}
              mode={other ? 'side' : 'one'}
              live={live}
              rings={marks}
              onBrush={onBrush}
              onPick={(face) => laidOut && onPlace(face?.uv ?? null)}
              onKey={(key) => (key === 'Enter' ? atMiddle() : onKey(key))}
            />
            {otherName && other && (
              <p className={css.sides}>
                <span>as it is tuned</span>
                <span>{otherName}</span>
              </p>
            )}
          </PictureDrop>
        )}
        {show !== 'model' && maps && (
          <div className={css.map}>
            <SheetStage
              sheet={sheet}
              image={image}
              over={hatch}
              showIslands={false}
              lit={null}
              onHover={() => {}}
              mark={
                place && [
                  (place[0] - Math.floor(place[0])) * sheet.width,
                  (place[1] - Math.floor(place[1])) * sheet.height,
                ]
              }
              onPoint={(x, y) => onPlace([x / sheet.width, y / sheet.height])}
            />
          </div>
        )}
      </div>
      <div className={css.tools}>
        <Segments
          label="What is shown"
          value={show}
          options={[
            { value: 'model', label: 'Model' },
            { value: 'both', label: 'Both' },
            { value: 'map', label: 'Map' },
          ]}
          onChange={setShow}
        />
        {show !== 'model' && <Choice label="Map" value={kind} options={[...SHOWN_MAPS]} onChange={setKind} />}
      </div>
    </>
  );
}
