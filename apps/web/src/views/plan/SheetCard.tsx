import { useDroppable } from '@dnd-kit/core';
import {
  marginForMip,
  protectedMip,
  type SheetDecision,
  type SheetMap,
  sheetSides,
} from '@wembrel/core/decisions/sheets';
import type { TextureFormat } from '@wembrel/core/image/texture-memory';
import { cellPadding } from '@wembrel/core/layout/whole-bays';
import { type CSSProperties, type ReactNode, useEffect, useMemo, useState } from 'react';
import { withoutSheet, withSheet } from '../../project/change-plan.ts';
import type { Forecast } from '../../project/prediction.ts';
import { SHEET_SIZES } from '../../project/sheet-sizes.ts';
import type { ViewProps } from '../../project/view-props.ts';
import type { SheetBay } from '../../stage/bay.ts';
import { Texels } from '../../stage/Texels.tsx';
import { Button } from '../../ui/Button.tsx';
import { bytes, percent } from '../../ui/format.ts';
import { Tooltip } from '../../ui/Tooltip.tsx';
import type { BayPaint } from '../../workers/bay-pictures.worker.ts';
import { CellDrop } from './CellDrop.tsx';
import { Reserves } from './Reserves.tsx';
import css from './SheetList.module.css';

/** What each kind holds, in a sentence. */
const KINDS: Record<SheetDecision['kind'], string> = {
  atlas: 'Every island has a place of its own.',
  trim: 'Strips over the whole width, which go on repeating along it. Slots are sent to it by hand, by a rule or as a way for a tiling one.',
  tile: 'A grid of cells, a whole texture in each, for faces that take whole squares. Slots are sent to it by hand or by a rule.',
  palette: 'Slots of one colour, each as a swatch.',
};

const MAPS: { map: SheetMap; title: string; off: boolean }[] = [
  { map: 'baseColor', title: 'base colour', off: false },
  { map: 'orm', title: 'AO, roughness, metallic', off: true },
  { map: 'normal', title: 'normal', off: true },
  { map: 'emissive', title: 'emissive', off: true },
];

export interface SheetCardProps {
  sheet: SheetDecision;
  index: number;
  /** Drawn px for each px of the sheet. */
  scale: number;
  /** Width of the column of drawings, px. */
  column: number;
  figures: Forecast['sheets'][number];
  /** Where packing put its bays; null while that is not known. */
  bays: readonly SheetBay[] | null;
  /** What they show, by material. */
  paints: ReadonlyMap<number, BayPaint>;
  /** The figures come of packing. */
  measured: boolean;
  format: TextureFormat;
  last: boolean;
  edit: ViewProps['edit'];
  /** Null while no final was baked. */
  onHold: (() => void) | null;
  onRoute: (() => void) | null;
}

/** One sheet: drawn to scale with what covers it and what is kept free, and everything that is decided about it. */
export function SheetCard({
  sheet,
  index,
  scale,
  column,
  figures,
  bays,
  paints,
  measured,
  format,
  last,
  edit,
  onHold,
  onRoute,
}: SheetCardProps) {
  const { setNodeRef, isOver } = useDroppable({ id: sheet.id });
  const [more, setMore] = useState(false);
  const [width, height] = sheetSides(sheet);
  const about = measured ? '' : '≈ ';
  const painted = useMemo(
    () =>
      bays && paints.size > 0
        ? {
            bays,
            paints,
            view: { x: 0, y: 0, k: scale },
            width: Math.max(34, width * scale),
            height: Math.max(34, height * scale),
            dragged: null,
            change: null,
          }
        : null,
    [bays, paints, scale, width, height],
  );
  return (
    <section
      ref={setNodeRef}
      className={`${css.sheet} ${isOver ? css.over : ''}`}
      aria-label={`Sheet ${sheet.name}`}
      style={{ gridTemplateColumns: `${column}px 1fr` }}
    >
      <Cells sheet={sheet} edit={edit}>
        <div
          className={css.square}
          data-flow-target={String(index)}
          style={
            {
              width: Math.max(34, width * scale),
              height: Math.max(34, height * scale),
              '--fill': percent(figures.places.length > 0 ? 0 : figures.coverage, 1).replace(' ', ''),
            } as CSSProperties
          }
        >
          {painted && <Texels {...painted} />}
          {(painted ? [] : figures.places).map((place) => (
            <span
              key={`${place.x} ${place.y} ${place.width}`}
              className={css.bay}
              style={{
                left: percent(place.x / width, 2).replace(' ', ''),
                top: percent(place.y / height, 2).replace(' ', ''),
                width: percent(place.width / width, 2).replace(' ', ''),
                height: percent(place.height / height, 2).replace(' ', ''),
              }}
            />
          ))}
          {sheet.reserves.map((reserve) => (
            <span
              key={reserve.id}
              className={css.reserve}
              title={`kept free${reserve.note ? `: ${reserve.note}` : ''}`}
              style={{
                left: percent(reserve.x / width, 2).replace(' ', ''),
                top: percent(reserve.y / height, 2).replace(' ', ''),
                width: percent(reserve.width / width, 2).replace(' ', ''),
                height: percent(reserve.height / height, 2).replace(' ', ''),
              }}
            />
          ))}
          <span className={css.number}>{index + 1}</span>
        </div>
      </Cells>
      <div className={css.facts}>
        <div className={css.row}>
          <NameField sheet={sheet} index={index} edit={edit} />
          {!last && (
            <Button
              tone="quiet"
              onClick={() => edit(`Remove the sheet ${sheet.name}`, (decisions) => withoutSheet(decisions, sheet.id))}
              aria-label={`Remove the sheet ${sheet.name}`}
            >
              Remove
            </Button>
          )}
        </div>
        <div className={css.row}>
          <label>
            Width{' '}
            <select
              value={sheet.size}
              aria-label={`Width of ${sheet.name}`}
              onChange={(event) =>
                edit(`${sheet.name}: ${event.target.value} px`, (decisions) =>
                  withSheet(decisions, sheet.id, { size: Number(event.target.value) }),
                )
              }
            >
              {SHEET_SIZES.map((s) => (
                <option key={s} value={s}>
                  {s} px
                </option>
              ))}
            </select>
          </label>
          <MarginField sheet={sheet} edit={edit} />
        </div>
        <dl>
          <div>
            <dt>slots</dt>
            <dd>{figures.slots}</dd>
          </div>
          <div>
            <dt>sharpness</dt>
            <dd>
              {about}
              {percent(Math.min(1, figures.scale))}
            </dd>
          </div>
          <div>
            <dt>covered</dt>
            <dd>
              {about}
              {percent(figures.coverage)}
            </dd>
          </div>
          <div>
            <dt>memory</dt>
            <dd>{bytes(figures.bytes[format])}</dd>
          </div>
        </dl>
        <div className={css.row}>
          <Button
            onClick={onRoute ?? undefined}
            aria-disabled={!onRoute}
            title={onRoute ? undefined : 'Select slots first'}
          >
            Route selected here
          </Button>
          <Button tone="quiet" aria-expanded={more} onClick={() => setMore(!more)}>
            {more ? 'Less' : 'Sheet options'}
          </Button>
        </div>
      </div>
      {more && <More sheet={sheet} edit={edit} figures={figures} onHold={onHold} />}
    </section>
  );
}

/** The drawing of a sheet; a tile sheet takes pictures into its cells. */
const Cells = ({ sheet, edit, children }: Pick<SheetCardProps, 'sheet' | 'edit'> & { children: ReactNode }) =>
  sheet.kind === 'tile' ? (
    <CellDrop sheet={sheet} edit={edit}>
      {children}
    </CellDrop>
  ) : (
    <div>{children}</div>
  );

function NameField({ sheet, index, edit }: { sheet: SheetDecision; index: number; edit: ViewProps['edit'] }) {
  const [name, setName] = useState(sheet.name);
  useEffect(() => setName(sheet.name), [sheet.name]);
  const valid = /^[A-Za-z0-9][A-Za-z0-9 _.-]{0,60}$/.test(name);
  const rename = () => {
    if (!valid) setName(sheet.name);
    else if (name !== sheet.name)
      edit(`Rename ${sheet.name} to ${name}`, (decisions) => withSheet(decisions, sheet.id, { name }));
  };
  return (
    <input
      className={css.name}
      aria-label={`Name of sheet ${index + 1}`}
      aria-invalid={!valid}
      value={name}
      onChange={(event) => setName(event.target.value)}
      onBlur={rename}
      onKeyDown={(event) => event.key === 'Enter' && rename()}
    />
  );
}

function MarginField({ sheet, edit }: { sheet: SheetDecision; edit: ViewProps['edit'] }) {
  const [margin, setMargin] = useState(String(sheet.margin));
  useEffect(() => setMargin(String(sheet.margin)), [sheet.margin]);
  const mip = protectedMip(sheet.margin);
  const set = () => {
    const v = Number(margin);
    if (margin.trim() === '' || !Number.isFinite(v) || v < 0 || v > 256) setMargin(String(sheet.margin));
    else if (v !== sheet.margin)
      edit(`Margin of ${sheet.name}: ${v} px`, (decisions) => withSheet(decisions, sheet.id, { margin: v }));
  };
  return (
    <Tooltip
      text={
        mip < 0
          ? `Too small even for mip 0; ${marginForMip(0)} px protects it.`
          : `Keeps islands apart down to mip ${mip}; ${marginForMip(mip + 1)} px would protect mip ${mip + 1}.`
      }
    >
      <label>
        Margin{' '}
        <input
          className={`${css.gap} ${mip < 0 ? css.bad : ''}`}
          aria-label={`Margin of ${sheet.name}, px`}
          inputMode="decimal"
          value={margin}
          onChange={(event) => setMargin(event.target.value)}
          onBlur={set}
          onKeyDown={(event) => event.key === 'Enter' && set()}
        />{' '}
        px <em>{mip < 0 ? 'no mip' : `mip ${mip}`}</em>
      </label>
    </Tooltip>
  );
}

function More({ sheet, edit, figures, onHold }: Pick<SheetCardProps, 'sheet' | 'edit' | 'figures' | 'onHold'>) {
  const set = (label: string, part: Partial<SheetDecision>) =>
    edit(label, (decisions) => withSheet(decisions, sheet.id, part));
  const has = new Set(figures.maps.map((map) => map.map));
  const pinnedCount = Object.keys(sheet.pinned).length;
  return (
    <div className={css.more}>
      <div className={css.row}>
        <label title={KINDS[sheet.kind]}>
          Kind{' '}
          <select
            value={sheet.kind}
            aria-label={`Kind of ${sheet.name}`}
            onChange={(event) =>
              set(`${sheet.name}: ${event.target.value}`, { kind: event.target.value as SheetDecision['kind'] })
            }
          >
            <option value="atlas">atlas</option>
            <option value="trim">trim sheet</option>
            <option value="tile">tile sheet</option>
            <option value="palette">palette</option>
          </select>
        </label>
        <label>
          Height{' '}
          <select
            value={sheet.height ?? ''}
            aria-label={`Height of ${sheet.name}`}
            onChange={(event) => {
              const height = event.target.value === '' ? null : Number(event.target.value);
              set(`${sheet.name}: ${height === null ? 'square' : `${height} px high`}`, { height });
            }}
          >
            <option value="">same as width</option>
            {SHEET_SIZES.map((s) => (
              <option key={s} value={s}>
                {s} px
              </option>
            ))}
          </select>
        </label>
        {sheet.kind === 'tile' && (
          <label title="Side of the picture in a cell, and its padding on each side, which comes on top.">
            Cells{' '}
            <select
              value={sheet.cell}
              aria-label={`Cells of ${sheet.name}`}
              onChange={(event) => set(`Cells of ${event.target.value} px`, { cell: Number(event.target.value) })}
            >
              {[16, 32, 64, 128, 256, 512, 1024, 2048].map((s) => (
                <option key={s} value={s}>
                  {s} px
                </option>
              ))}
            </select>{' '}
            + 2 × {cellPadding(sheet)} px
          </label>
        )}
        {sheet.kind === 'palette' && (
          <label>
            Swatches{' '}
            <select
              value={sheet.swatch}
              aria-label={`Swatches of ${sheet.name}`}
              onChange={(event) => set(`Swatches of ${event.target.value} px`, { swatch: Number(event.target.value) })}
            >
              {[4, 8, 16, 32, 64].map((s) => (
                <option key={s} value={s}>
                  {s} px
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
      <table className={css.maps}>
        <tbody>
          {MAPS.map(({ map, title, off }) => (
            <tr key={map} className={has.has(map) || sheet.maps[map] === 'off' ? '' : css.absent}>
              <th scope="row">{title}</th>
              <td>
                <select
                  aria-label={`${title} of ${sheet.name}`}
                  value={String(sheet.maps[map])}
                  onChange={(event) => {
                    const by = event.target.value === 'off' ? 'off' : Number(event.target.value);
                    const said = by === 'off' ? 'left out' : by === 1 ? 'at full size' : `at 1/${by}`;
                    set(`${sheet.name}, ${title}: ${said}`, {
                      maps: { ...sheet.maps, [map]: by } as SheetDecision['maps'],
                    });
                  }}
                >
                  <option value="1">full size</option>
                  <option value="2">half</option>
                  <option value="4">a quarter</option>
                  <option value="8">an eighth</option>
                  {off && <option value="off">left out</option>}
                </select>
              </td>
              <td>
                {figures.maps
                  .filter((m) => m.map === map)
                  .map((map) => `${map.width} × ${map.height}`)
                  .join('') || (sheet.maps[map] === 'off' ? 'left out' : 'no slot has one')}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Reserves sheet={sheet} set={set} />
      <div className={css.row}>
        {pinnedCount > 0 ? (
          <>
            <span>
              {pinnedCount} {pinnedCount === 1 ? 'bay stays' : 'bays stay'} where handed over
            </span>
            <Button tone="quiet" onClick={() => set(`Let the bays of ${sheet.name} move`, { pinned: {} })}>
              Let them move
            </Button>
          </>
        ) : (
          <Button
            onClick={onHold ?? undefined}
            aria-disabled={!onHold}
            title={
              onHold
                ? 'What was handed over stays where it is; new slots take free room.'
                : 'Once a final is baked, its bays can be held where they are.'
            }
          >
            Lock bays
          </Button>
        )}
      </div>
    </div>
  );
}
