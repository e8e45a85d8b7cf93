import { marginForMip, protectedMip, type SheetDecision } from '@wembrel/core/decisions/sheets';
import type { PackedSheet } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import { withSheet } from '../../project/change-plan.ts';
import type { Packing } from '../../project/packing/use-packing.ts';
import { SCALES } from '../../project/scale-titles.ts';
import { SHEET_SIZES } from '../../project/sheet-sizes.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { Check, Choice, NumberField } from '../../ui/Field.tsx';
import { percent } from '../../ui/format.ts';
import css from './BaysView.module.css';
import { smallerSides } from './smaller-sides.ts';

const TURNS: Record<MergeDecisions['rotate'], string> = {
  free: 'Rotation: free',
  quarter: 'Quarter turns',
  none: 'Never turn islands',
};

const SIDES = SHEET_SIZES.map((s) => ({ value: String(s), label: `${s} px` }));

export interface SheetSettingsProps {
  decided: SheetDecision;
  /** Position of the sheet. */
  index: number;
  sheet: PackedSheet | undefined;
  decisions: MergeDecisions;
  packing: Packing;
  edit: ViewProps['edit'];
}

/** What a sheet is like, and how all are packed. */
export function SheetSettings({ decided, index, sheet, decisions, packing, edit }: SheetSettingsProps) {
  const mip = protectedMip(decided.margin);
  const set = (label: string, part: Partial<SheetDecision>) =>
    edit(label, (decisions) => withSheet(decisions, decided.id, part));
  const smaller = sheet && smallerSides(decided, sheet);
  return (
    <>
      <section className={css.settings}>
        <h2>Sheet</h2>
        <Choice
          label="Width"
          value={String(decided.size)}
          options={SIDES}
          onChange={(v) => set(`${decided.name}: ${v} px`, { size: Number(v) })}
        />
        <Choice
          label="Height"
          value={String(decided.height ?? '')}
          options={[{ value: '', label: 'same as width' }, ...SIDES]}
          onChange={(v) =>
            set(`${decided.name}: ${v === '' ? 'square' : `${v} px high`}`, { height: v === '' ? null : Number(v) })
          }
        />
        {smaller && sheet && (
          <p className={css.hint}>
            All is as sharp as its sources on {percent(sheet.coverage)} of the sheet; a smaller one may do.{' '}
            <Button
              tone="quiet"
              onClick={() =>
                set(`${decided.name}: ${smaller.join(' × ')} px`, {
                  size: smaller[0],
                  height: smaller[1] === smaller[0] ? null : smaller[1],
                })
              }
            >
              Try {smaller.join(' × ')} px
            </Button>
          </p>
        )}
        <NumberField
          label="Margin"
          unit="px"
          value={decided.margin}
          min={0}
          max={256}
          onCommit={(margin) => set(`Margin of ${decided.name}: ${margin} px`, { margin })}
          note={
            mip < 0
              ? `Too small even for mip 0; ${marginForMip(0)} px protects it.`
              : `Keeps islands apart down to mip ${mip}; ${marginForMip(mip + 1)} px would protect mip ${mip + 1}.`
          }
        />
      </section>
      <section className={css.settings}>
        <h2>Packing</h2>
        <Choice
          label="Rotation"
          value={decisions.rotate}
          options={[
            { value: 'free', label: 'free' },
            { value: 'quarter', label: '90° steps' },
            { value: 'none', label: 'never' },
          ]}
          onChange={(rotate) => edit(TURNS[rotate], (decisions) => ({ ...decisions, rotate }))}
        />
        <Choice
          label="Island size"
          value={decisions.scale}
          options={Object.entries(SCALES).map(([value, { title }]) => ({
            value: value as MergeDecisions['scale'],
            label: title,
          }))}
          onChange={(scale) => edit(SCALES[scale].done, (decisions) => ({ ...decisions, scale }))}
        />
        <NumberField
          label="Search effort"
          unit="×"
          value={decided.search?.rounds ?? decisions.effort}
          min={0}
          max={100_000}
          onCommit={(effort) =>
            edit(`${effort} packing rounds`, (decisions) => ({
              ...decisions,
              effort,
              sheets: decisions.sheets.map((sheet) => ({ ...sheet, search: null })),
            }))
          }
          note={
            decided.search
              ? `Looked for with seed ${decided.search.seed}. A number given here packs every sheet anew.`
              : 'Sheets of more than 100 bays get fewer, since a round of theirs takes longer.'
          }
        />
        <Button
          onClick={() => (packing.searching > 0 ? packing.stop() : packing.search(index))}
          disabled={!sheet || (packing.searching === 0 && packing.share !== null)}
        >
          {packing.searching > 0 ? 'Stop the search' : 'Search for a tighter packing'}
        </Button>
        <Check
          label="Align to texels"
          checked={decisions.snap}
          onChange={(snap) =>
            edit(snap ? 'Islands on whole texels' : 'Islands between texels too', (decisions) => ({
              ...decisions,
              snap,
            }))
          }
        />
      </section>
    </>
  );
}
