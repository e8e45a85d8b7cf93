import type { PairingDecision } from '@wembrel/core/decisions/ray-decisions';
import { useMemo, useState } from 'react';
import type { ProjectView, RaySheetView } from '../../../contract/project.ts';
import { modelAddress } from '../../../project/model-address.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import type { Ring } from '../../../stage/rings.ts';
import { SheetStage } from '../../../stage/SheetStage.tsx';
import { Button } from '../../../ui/Button.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import css from './RaysView.module.css';

type On = 'lit' | 'map' | 'both' | 'high';

const LABELS: Record<On, string> = {
  lit: '3D picture of the low-poly',
  map: '3D picture of the low-poly with the chosen map',
  both: '3D picture of the low-poly under the high-poly',
  high: '3D picture of the high-poly',
};

export interface ResultSideProps {
  project: ProjectView;
  pairing: PairingDecision | undefined;
  sheet: RaySheetView;
  map: RaySheetView['maps'][number] | undefined;
  address: (file: string) => string;
  /** The picked texel, px. */
  at: readonly [number, number] | null;
  /** Called with shares of the sheet. */
  onPoint: (at: readonly [number, number]) => void;
  /** Bakes the part around the picked texel; null while that cannot be. */
  bakePart: (() => void) | null;
  /** The local reaches of the pairing. */
  rings: readonly Ring[];
  /** Called with points of the low-poly that are clicked; null: clicks do nothing. */
  onModelPoint: ((point: readonly [number, number, number]) => void) | null;
}

/** Beside the section: the chosen map with its faults, and the model. */
export function ResultSide({
  project,
  pairing,
  sheet,
  map,
  address,
  at,
  onPoint,
  bakePart,
  rings,
  onModelPoint,
}: ResultSideProps) {
  const [on, setOn] = useState<On>('lit');
  const [marks, setMarks] = useState(true);
  const [sun, setSun] = useState<number | null>(null);
  const { size } = sheet;
  const high = highAddress(project, pairing);
  const low = address(`delivery/${encodeURIComponent(sheet.model)}`);
  const view = map ? address(`views/${map.view}`) : null;
  const overlay = useMemo(
    () => pairing && { nodes: new Set(pairing.high.map((object) => object.name)), move: pairing.move },
    [pairing],
  );
  const overlaid = on === 'both' && high !== null;
  return (
    <aside className={css.side}>
      <div className={css.map}>
        <SheetStage
          sheet={{ name: sheet.name, width: size, height: size, reserves: [], margin: 0, plots: [] }}
          image={view}
          over={marks ? address(`views/${sheet.faultPicture}`) : null}
          showIslands={false}
          lit={null}
          onHover={() => {}}
          mark={at}
          onPoint={(x, y) => onPoint([x / size, y / size])}
        />
      </div>
      <div className={css.over}>
        <label className={css.check}>
          <input type="checkbox" checked={marks} onChange={(event) => setMarks(event.target.checked)} /> faults on the
          map
        </label>
        <Button
          onClick={bakePart ?? undefined}
          disabled={!bakePart}
          title="A square around the picked texel, a quarter of the side wide, at full size with all rays"
        >
          Bake this part
        </Button>
      </div>
      <div className={onModelPoint && on !== 'high' ? `${css.model} ${css.pointed}` : css.model}>
        <ModelView
          label={LABELS[on]}
          url={on === 'high' ? high : low}
          second={overlaid ? high : null}
          mode={overlaid ? 'over' : 'one'}
          overlay={overlaid ? overlay : null}
          map={on === 'map' ? view : null}
          mapFor={sheet.name}
          sun={sun}
          rings={rings}
          onPick={onModelPoint && on !== 'high' ? (face) => face && onModelPoint(face.point) : undefined}
        />
      </div>
      <Segments
        label="On the model"
        value={on}
        options={[
          { value: 'lit', label: 'low-poly' },
          { value: 'map', label: 'map' },
          { value: 'both', label: 'both' },
          { value: 'high', label: 'high-poly' },
        ]}
        onChange={setOn}
      />
      {on !== 'map' && (
        <label className={css.light}>
          Light from
          <input
            type="range"
            min={-180}
            max={180}
            step={5}
            value={sun ?? 40}
            onChange={(event) => setSun(Number(event.target.value))}
            aria-label="Direction of a raking light, degrees"
          />
          <Button tone="quiet" onClick={() => setSun(null)} disabled={sun === null}>
            soft
          </Button>
        </label>
      )}
    </aside>
  );
}

/** The file of a pairing's first high-poly, as the survey shows it. */
function highAddress(project: ProjectView, pairing: PairingDecision | undefined): string | null {
  const at = project.survey?.models.findIndex((model) => model.path === pairing?.high[0]?.path) ?? -1;
  return at < 0 ? null : modelAddress(project, at, false);
}

/** A quarter of the sheet's side about a point, shares. */
export function around([x, y]: readonly [number, number]): [number, number, number, number] {
  const from = (v: number) => Math.min(0.75, Math.max(0, v - 0.125));
  return [from(x), from(y), from(x) + 0.25, from(y) + 0.25];
}
