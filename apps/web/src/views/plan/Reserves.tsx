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
      reserves: sheet.reserves.map((reserve) =>
        reserve.id === id ? fitReserve({ ...reserve, ...part }, width, height) : reserve,
      ),
    });
  const add = () => {
    let n = 1;
    while (sheet.reserves.some((reserve) => reserve.id === String(n))) n++;
    // A quarter of the sheet at its lower right, where packing from the upper left comes last.
    const [w, h] = [Math.floor(width / 2), Math.floor(height / 2)];
    const free: Reserve = { id: String(n), x: width - w, y: height - h, width: w, height: h, note: '' };
    set(`Keep room free on ${sheet.name}`, { reserves: [...sheet.reserves, free] });
  };
  return (
    <div className={css.reserves}>
      {sheet.reserves.map((reserve) => (
        <div key={reserve.id} className={css.row}>
          {FIELDS.map(({ key, title }) => (
            <label key={key} title={title}>
              {title}{' '}
              <input
                className={css.gap}
                aria-label={`Free room ${reserve.id}: ${title}, px`}
                inputMode="numeric"
                defaultValue={reserve[key]}
                key={`${key} ${reserve[key]}`}
                onBlur={(event) => {
                  const v = Math.round(Number(event.target.value));
                  if (Number.isFinite(v) && v !== reserve[key])
                    change(`Free room: ${title} ${v} px`, reserve.id, { [key]: v });
                }}
                onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
              />
            </label>
          ))}
          <input
            className={css.note}
            aria-label={`What free room ${reserve.id} is for`}
            placeholder="what it is for"
            defaultValue={reserve.note}
            key={`note ${reserve.note}`}
            maxLength={200}
            onBlur={(event) =>
              event.target.value !== reserve.note &&
              change('Note on free room', reserve.id, { note: event.target.value.trim() })
            }
            onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          />
          <Button
            tone="quiet"
            aria-label={`Give free room ${reserve.id} up`}
            onClick={() => set('Give free room up', { reserves: sheet.reserves.filter((x) => x.id !== reserve.id) })}
          >
            Remove
          </Button>
        </div>
      ))}
      <Button onClick={add}>Keep room free</Button>
    </div>
  );
}
