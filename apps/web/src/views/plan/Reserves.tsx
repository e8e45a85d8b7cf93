import { fitReserve, type Reserve, type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import { Button } from '../../ui/Button.tsx';
import css from './SheetList.module.css';

const FIELDS = [
  { key: 'x', title: 'from left' },
  { key: 'y', title: 'from top' },
  { key: 'width', title: 'width' },
  { key: 'height', title: 'height' },
] as const;

/** Room that stays free on a sheet, in numbers. */
export function Reserves({
  sheet,
  set,
}: {
  sheet: SheetDecision;
  set: (label: string, part: Partial<SheetDecision>) => void;
}) {
  const [width, height] = sheetSides(sheet);
  const change = (label: string, id: string, part: Partial<Reserve>) =>
    set(label, {
      reserves: sheet.reserves.map((r) => (r.id === id ? fitReserve({ ...r, ...part }, width, height) : r)),
    });
  const add = () => {
    let n = 1;
    while (sheet.reserves.some((r) => r.id === String(n))) n++;
    // A quarter of the sheet at its lower right, where packing from the upper left comes last.
    const [w, h] = [Math.floor(width / 2), Math.floor(height / 2)];
    const free: Reserve = { id: String(n), x: width - w, y: height - h, width: w, height: h, note: '' };
    set(`Keep room free on ${sheet.name}`, { reserves: [...sheet.reserves, free] });
  };
  return (
    <div className={css.reserves}>
      {sheet.reserves.map((r) => (
        <div key={r.id} className={css.row}>
          {FIELDS.map(({ key, title }) => (
            <label key={key} title={title}>
              {title}{' '}
              <input
                className={css.gap}
                aria-label={`Free room ${r.id}: ${title}, px`}
                inputMode="numeric"
                defaultValue={r[key]}
                key={`${key} ${r[key]}`}
                onBlur={(e) => {
                  const v = Math.round(Number(e.target.value));
                  if (Number.isFinite(v) && v !== r[key]) change(`Free room: ${title} ${v} px`, r.id, { [key]: v });
                }}
                onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
              />
            </label>
          ))}
          <input
            className={css.note}
            aria-label={`What free room ${r.id} is for`}
            placeholder="what it is for"
            defaultValue={r.note}
            key={`note ${r.note}`}
            maxLength={200}
            onBlur={(e) =>
              e.target.value !== r.note && change('Note on free room', r.id, { note: e.target.value.trim() })
            }
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          />
          <Button
            tone="quiet"
            aria-label={`Give free room ${r.id} up`}
            onClick={() => set('Give free room up', { reserves: sheet.reserves.filter((x) => x.id !== r.id) })}
          >
            Give up
          </Button>
        </div>
      ))}
      <Button onClick={add}>Keep room free</Button>
    </div>
  );
}
