import css from './StandInView.module.css';

export interface SlotsApartProps {
  /** Names of the model's slots. */
  slots: readonly string[];
  /** Those that stay as they are, by name. */
  apart: readonly string[];
  onChange: (label: string, apart: string[]) => void;
}

/** Which slots are not baked, beside the alpha-blended ones, which never are. */
export function SlotsApart({ slots, apart, onChange }: SlotsApartProps) {
  if (slots.length < 2) return null;
  const chosen = slots.filter((slot) => apart.includes(slot));
  return (
    <details className={css.slots}>
      <summary>
        {chosen.length === 0 ? 'All slots become one' : `${chosen.length} of ${slots.length} slots stay as they are`}
      </summary>
      <p className={css.note}>Chosen slots stay as they are; alpha-blended ones always do.</p>
      {slots.map((slot) => (
        <label key={slot}>
          <input
            type="checkbox"
            checked={apart.includes(slot)}
            onChange={({ target }) =>
              onChange(
                target.checked ? `${slot} stays` : `${slot} is baked`,
                slots.filter((one) => (one === slot ? target.checked : apart.includes(one))),
              )
            }
          />
          {slot}
        </label>
      ))}
    </details>
  );
}
