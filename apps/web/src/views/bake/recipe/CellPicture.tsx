import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { useEffect, useMemo, useState } from 'react';
import type { LiveSubject } from '../../../contract/live-recipe.ts';
import type { LiveMaps, LiveMask } from '../../../stage/live-sheet.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import { SheetStage } from '../../../stage/SheetStage.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import { cellGlb } from './cell-glb.ts';
import { joinedMaps, type Neighbours, SIDES } from './cell-neighbours.ts';
import { LIVE_SLOT } from './live-slot.ts';
import { SHOWN_MAPS, type ShownMap, useCellPicture, useHatchPicture } from './map-pictures.ts';
import { PictureDrop } from './PictureDrop.tsx';
import css from './Recipe.module.css';
import type { Laying } from './use-laid.ts';
import { useNeighbours } from './use-neighbours.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';

export interface CellPictureProps {
  project: string;
  on: LiveSubject | null;
  name: string;
  /** m */
  metres: readonly [number, number];
  maps: LiveMaps | null;
  /** Other cells of the platform. */
  others: readonly RecipeUse[];
  laying: Laying;
  mask: LiveMask | null;
  place: readonly [number, number] | null;
  onPlace: (place: [number, number] | null) => void;
  onDropPictures: (files: File[]) => void;
}

const SIDE_WORDS: Neighbours<string> = {
  left: 'to its left',
  right: 'to its right',
  above: 'above it',
  below: 'below it',
};

/** A cell, alone or with those around it, as a map or as it lies in the light. */
export function CellPicture(props: CellPictureProps) {
  const { project, on, name, metres, maps, others, laying, mask, place, onPlace, onDropPictures } = props;
  const [times, setTimes] = useState<'1' | '3'>('3');
  const [show, setShow] = useState<'lit' | 'both' | 'map'>('map');
  const [kind, setKind] = useState<ShownMap>('color');
  const around = useNeighbours(project, on, others, laying);
  const count = Number(times);
  const px = laying.side;
  const image = useCellPicture(show === 'lit' ? null : maps, around.maps, kind, count);
  const hatch = useHatchPicture(count === 1 ? mask : null);
  const url = useCellModel(metres[0] * count, metres[1] * count);
  const lit = show === 'map' ? null : maps;
  const live = useMemo(
    () => ({ slotName: LIVE_SLOT, maps: lit && joinedMaps(lit, around.maps, count) }),
    [lit, around.maps, count],
  );
  const sheet = useMemo(
    () => ({ name, width: px * count, height: px * count, reserves: [], margin: 0, plots: [] }),
    [name, px, count],
  );
  const at = place && (place.map((v) => ((v % 1) + (count - 1) / 2) * px) as [number, number]);
  return (
    <>
      <PictureDrop
        className={css.pictures}
        show={show === 'lit' ? 'model' : show}
        onDrop={(files) => {
          onDropPictures(files);
          return true;
        }}
      >
        {show !== 'map' && (
          <div className={css.model}>
            <ModelView
              label={`3D picture of ${name}, lying in the light`}
              url={url}
              live={live}
              onPick={(face) => onPlace(face?.uv ? [(face.uv[0] * count) % 1, (face.uv[1] * count) % 1] : null)}
            />
          </div>
        )}
        {show !== 'lit' && (
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
        )}
      </PictureDrop>
      <div className={css.tools}>
        <Segments
          label="What is shown"
          value={show}
          options={[
            { value: 'map', label: 'Map' },
            { value: 'both', label: 'Both' },
            { value: 'lit', label: 'In the light' },
          ]}
          onChange={setShow}
        />
        <Segments
          label="How often it is shown"
          value={times}
          options={[
            { value: '1', label: 'One cell' },
            { value: '3', label: '3 × 3' },
          ]}
          onChange={setTimes}
        />
        {show !== 'lit' && <Choice label="Map" value={kind} options={[...SHOWN_MAPS]} onChange={setKind} />}
      </div>
      {count > 1 && others.length > 0 && (
        <p className={css.around}>
          {'Around it lie: '}
          {SIDES.map((side, i) => (
            <span key={side}>
              {i > 0 && ', '}
              {SIDE_WORDS[side]}{' '}
              <ChoiceWord
                label={`The cell ${SIDE_WORDS[side]}`}
                value={around.names[side] ?? ''}
                options={[
                  { value: '', label: 'itself' },
                  ...others.map(({ recipe }) => ({ value: recipe.name, label: recipe.name })),
                ]}
                onChange={(chosen) => around.choose(side, chosen || null)}
              />
            </span>
          ))}
          .
        </p>
      )}
    </>
  );
}

/** Address of a square of ground. @param width m @param depth m */
function useCellModel(width: number, depth: number): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    const made = URL.createObjectURL(new Blob([cellGlb([width, depth])], { type: 'model/gltf-binary' }));
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [width, depth]);
  return url;
}
