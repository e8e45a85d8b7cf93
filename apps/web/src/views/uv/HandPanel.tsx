import { SHARPEST } from '@wembrel/core/decisions/sheets';
import AlignCenterHorizontal from 'lucide-react/icons/align-center-horizontal';
import AlignCenterVertical from 'lucide-react/icons/align-center-vertical';
import AlignEndHorizontal from 'lucide-react/icons/align-end-horizontal';
import AlignEndVertical from 'lucide-react/icons/align-end-vertical';
import AlignStartHorizontal from 'lucide-react/icons/align-start-horizontal';
import AlignStartVertical from 'lucide-react/icons/align-start-vertical';
import { useState } from 'react';
import type { PackedSheet } from '../../contract/plots.ts';
import { Button } from '../../ui/Button.tsx';
import { NumberField } from '../../ui/Field.tsx';
import { middleDensity } from './bay-tints.ts';
import css from './HandPanel.module.css';
import {
  aligned,
  canFlip,
  distributed,
  type Edge,
  type HandPlace,
  type HandPlot,
  placeOf,
  scaled,
  snapped,
  turned,
} from './hand.ts';

const EDGES: [Edge, string, typeof AlignStartVertical][] = [
  ['left', 'Left edges on one line', AlignStartVertical],
  ['centre', 'Middles on one upright line', AlignCenterVertical],
  ['right', 'Right edges on one line', AlignEndVertical],
  ['top', 'Upper edges on one line', AlignStartHorizontal],
  ['middle', 'Middles on one level line', AlignCenterHorizontal],
  ['bottom', 'Lower edges on one line', AlignEndHorizontal],
];

export interface HandPanelProps {
  sheet: PackedSheet;
  selected: readonly HandPlot[];
  /** Holds bays at places; one undo. */
  put: (label: string, plots: readonly HandPlot[], places: readonly HandPlace[]) => void;
  /** Mirrors bays over an upright (x) or a level (y) axis; one undo. */
  flip: (plots: readonly HandPlot[], axis: 'x' | 'y') => void;
  letGo: (plots: readonly HandPlot[]) => void;
  /** Groups of bays, by key, that keep their places to each other. */
  rigid: readonly (readonly { key: string }[])[];
  /** Bays with faces of the selected ones' parts. */
  ofPart: readonly number[];
  together: (plots: readonly HandPlot[]) => void;
  apart: (plots: readonly HandPlot[]) => void;
  select: (ids: number[]) => void;
}

/** What a hand does with bays: typed places, turns, lines; and which bays to take in hand. */
export function HandPanel({
  sheet,
  selected,
  put,
  flip,
  letGo,
  rigid,
  ofPart,
  together,
  apart,
  select,
}: HandPanelProps) {
  const [grid, setGrid] = useState(1);
  const movable = selected.filter((p) => p.movable);
  const turnable = movable.some((p) => p.mayTurn && p.natural);
  const one = selected.length === 1 ? selected[0] : undefined;
  const name = one ? one.slot : `${movable.length} bays`;
  const place = (label: string, places: HandPlace[]) => put(label, movable, places);
  const median = middleDensity(sheet);
  const bound = new Set(rigid.flatMap((g) => g.map((p) => p.key)));
  const choices: [string, number[]][] = [
    ['this slot', sheet.plots.filter((plot) => selected.some((s) => s.slot === plot.slot)).map((plot) => plot.id)],
    ['this part', [...ofPart]],
    ['stacks', sheet.plots.filter((plot) => plot.stacked > 1).map((plot) => plot.id)],
    ...rigid.map((g, i): [string, number[]] => [
      `group ${i + 1}`,
      sheet.plots.filter((plot) => g.some((pin) => pin.key === plot.key)).map((plot) => plot.id),
    ]),
    ['held', sheet.plots.filter((plot) => plot.pinned).map((plot) => plot.id)],
    ['too near', sheet.tooNear],
    [
      'below half density',
      sheet.plots.filter((plot) => plot.density !== null && plot.density < median / 2).map((plot) => plot.id),
    ],
  ];
  return (
    <section className={css.hand}>
      <h2>By hand</h2>
      {sheet.tooNear.length > 0 && (
        <p className={css.fault} role="alert">
          {sheet.tooNear.length} held {sheet.tooNear.length === 1 ? 'bay is' : 'bays are'} nearer than the margin of{' '}
          {sheet.margin} px.{' '}
          <Button tone="quiet" onClick={() => select(sheet.tooNear)}>
            Show them
          </Button>
        </p>
      )}
      {selected.length === 0 && (
        <p>
          Click a bay, or drag around some: with Shift a box, with Shift and Alt any line. Drag what is selected, its
          corners or the arcs beside them, or press the arrows.
        </p>
      )}
      {one && (
        <dl className={css.facts}>
          <dt>{one.slot}</dt>
          <dd>
            {one.stacked > 1 ? `${one.stacked} islands stacked` : '1 island'}
            {one.flipped.length > 0 ? ', mirrored' : ''}
          </dd>
          <dt>Takes</dt>
          <dd>
            {one.extent[2].toFixed(0)} × {one.extent[3].toFixed(0)} px
          </dd>
          {one.density !== null && (
            <>
              <dt>Density</dt>
              <dd>{one.density.toFixed(0)} px/m</dd>
            </>
          )}
          {one.stretch !== null && (
            <>
              <dt>Stretch</dt>
              <dd>{one.stretch.toFixed(2)} : 1</dd>
            </>
          )}
        </dl>
      )}
      {selected.length > 1 && <p>{selected.length} bays selected</p>}
      {one && !one.movable && <p>Strips and cells stand where their sheet puts them.</p>}
      {one?.movable && (
        <div className={css.pair}>
          <NumberField
            label="Left"
            unit="px"
            value={Number(one.extent[0].toFixed(2))}
            min={0}
            max={sheet.width}
            onCommit={(x) => place(`${name} at ${x} px`, [{ ...placeOf(one), x: placeOf(one).x + x - one.extent[0] }])}
          />
          <NumberField
            label="Top"
            unit="px"
            value={Number(one.extent[1].toFixed(2))}
            min={0}
            max={sheet.height}
            onCommit={(y) => place(`${name} at ${y} px`, [{ ...placeOf(one), y: placeOf(one).y + y - one.extent[1] }])}
          />
          {one.mayTurn && one.natural && (
            <NumberField
              label="Turned"
              unit="°"
              value={Number(one.turned.toFixed(2))}
              min={-180}
              max={180}
              onCommit={(d) => place(`${name} turned to ${d}°`, [{ ...placeOf(one), turned: d }])}
            />
          )}
          {one.natural && (
            <NumberField
              label="Sharpness"
              unit="%"
              value={Number((one.scale * 100).toFixed(1))}
              min={1}
              max={SHARPEST * 100}
              onCommit={(v) => place(`${name} at ${v} % of its source`, [{ ...placeOf(one), scale: v / 100 }])}
            />
          )}
        </div>
      )}
      {movable.length > 0 && (
        <>
          <div className={css.row}>
            <Button tone="quiet" disabled={!turnable} onClick={() => place(`Turn ${name} left`, turned(movable, -90))}>
              ⟲ 90°
            </Button>
            <Button tone="quiet" disabled={!turnable} onClick={() => place(`Turn ${name} right`, turned(movable, 90))}>
              ⟳ 90°
            </Button>
            {(['x', 'y'] as const).map((axis) => (
              <Button
                key={axis}
                tone="quiet"
                onClick={() => flip(movable, axis)}
                disabled={!movable.every((p) => canFlip(p, axis))}
                title={
                  axis === 'x'
                    ? 'Mirror from left to right; what is baked there is mirrored too'
                    : movable.every((p) => canFlip(p, axis))
                      ? 'Mirror from top to bottom; what is baked there is mirrored too'
                      : 'What is never turned is mirrored from left to right only'
                }
              >
                flip {axis === 'x' ? '↔' : '↕'}
              </Button>
            ))}
          </div>
          {movable.length > 1 && (
            <div className={css.row}>
              {EDGES.map(([edge, title, Icon]) => (
                <Button
                  key={edge}
                  tone="quiet"
                  title={title}
                  aria-label={title}
                  onClick={() => place(`${title}: ${name}`, aligned(movable, edge))}
                >
                  <Icon size={16} aria-hidden />
                </Button>
              ))}
            </div>
          )}
          {movable.length > 2 && (
            <div className={css.row}>
              <Button tone="quiet" onClick={() => place(`Equal gaps across: ${name}`, distributed(movable, 'x'))}>
                equal gaps ↔
              </Button>
              <Button tone="quiet" onClick={() => place(`Equal gaps down: ${name}`, distributed(movable, 'y'))}>
                equal gaps ↕
              </Button>
            </div>
          )}
          <div className={css.row}>
            <Button tone="quiet" onClick={() => place(`Enlarge ${name}`, scaled(movable, 1.1))}>
              + 10 %
            </Button>
            <Button tone="quiet" onClick={() => place(`Shrink ${name}`, scaled(movable, 1 / 1.1))}>
              − 10 %
            </Button>
            <Button tone="quiet" onClick={() => place(`${name} onto a grid of ${grid} px`, snapped(movable, grid))}>
              snap to
            </Button>
            <select aria-label="Grid" value={grid} onChange={(event) => setGrid(Number(event.target.value))}>
              {[1, 2, 4, 8, 16, 32, 64].map((g) => (
                <option key={g} value={g}>
                  {g} px
                </option>
              ))}
            </select>
          </div>
          <div className={css.row}>
            <Button
              onClick={() => put(`Hold ${name} in place`, movable, movable.map(placeOf))}
              disabled={movable.every((p) => p.pinned)}
            >
              Lock
            </Button>
            <Button onClick={() => letGo(movable)} disabled={!movable.some((p) => p.pinned)}>
              Unlock
            </Button>
          </div>
          {(movable.length > 1 || movable.some((p) => bound.has(p.key))) && (
            <div className={css.row}>
              <Button
                onClick={() => together(movable)}
                disabled={movable.length < 2}
                title="They keep their places to each other, wherever packing puts them"
              >
                Keep together
              </Button>
              <Button onClick={() => apart(movable)} disabled={!movable.some((p) => bound.has(p.key))}>
                Separate
              </Button>
            </div>
          )}
        </>
      )}
      <div className={css.select}>
        <span>Select</span>
        <div className={css.row}>
          {choices
            .filter(([, ids]) => ids.length > 0)
            .map(([title, ids]) => (
              <Button key={title} onClick={() => select(ids)}>
                {title} ({ids.length})
              </Button>
            ))}
        </div>
      </div>
    </section>
  );
}
