import { APART } from '@wembrel/core/decisions/rules';
import type { SheetDecision } from '@wembrel/core/decisions/sheets';

/** Options of a choice where something goes: the sheets, or kept apart. */
export function SheetOptions({ sheets }: { sheets: readonly SheetDecision[] }) {
  return (
    <>
      {sheets.map((sheet, i) => (
        <option key={sheet.id} value={sheet.id}>
          {i + 1} {sheet.name}
        </option>
      ))}
      <option value={APART}>kept apart</option>
    </>
  );
}
