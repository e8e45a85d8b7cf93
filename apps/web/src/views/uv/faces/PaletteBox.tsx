import { Button } from '../../../ui/Button.tsx';
import { count } from '../../../ui/format.ts';
import panel from './Faces.module.css';
import css from './PaletteBox.module.css';
import type { PaletteColour } from './palette-colours.ts';
import { ColourField } from './slot-fields.tsx';

export interface PaletteBoxProps {
  colours: readonly PaletteColour[];
  /** Slot of the colour that clicks paint with; null: they select. */
  brush: string | null;
  setBrush: (slot: string | null) => void;
  /** Faces of the model in sight that were painted with the brush by hand. */
  painted: number;
  /** Clicks paint what is alike in all models. */
  everywhere: boolean;
  setEverywhere: (on: boolean) => void;
  add: () => void;
  change: (slot: string, label: string, part: Partial<PaletteColour>) => void;
  remove: (slot: string) => void;
  /** Selects what was painted with a colour. */
  select: (slot: string) => void;
}

/** Colours to paint with: one is chosen, then part after part is clicked. */
export function PaletteBox({ colours, brush, setBrush, add, ...rest }: PaletteBoxProps) {
  const chosen = colours.find((one) => one.slot === brush);
  return (
    <section className={panel.section}>
      <header>
        <h2>Palette</h2>
        <Button onClick={add}>Add a colour</Button>
      </header>
      {colours.length === 0 ? (
        <p className={panel.hint}>Choose a colour once, then click part after part in 3D.</p>
      ) : (
        <div className={css.colours} role="radiogroup" aria-label="Paint with">
          {colours.map((one) => (
            // biome-ignore lint/a11y/useSemanticElements: chips of colour, one of which is chosen
            <button
              key={one.slot}
              type="button"
              role="radio"
              aria-checked={one.slot === brush}
              aria-label={`Paint with ${one.slot}`}
              title={one.slot}
              className={css.colour}
              style={{ background: paintOf(one) }}
              onClick={() => setBrush(one.slot === brush ? null : one.slot)}
            />
          ))}
        </div>
      )}
      {chosen && <Chosen key={chosen.slot} colour={chosen} {...rest} />}
    </section>
  );
}

const paintOf = ({ colour, upper }: PaletteColour): string =>
  upper ? `linear-gradient(to top in oklab, ${colour}, ${upper})` : colour;

type ChosenProps = Omit<PaletteBoxProps, 'colours' | 'brush' | 'setBrush' | 'add'> & { colour: PaletteColour };

function Chosen({ colour: one, painted, everywhere, setEverywhere, change, remove, select }: ChosenProps) {
  return (
    <div className={css.chosen}>
      <p className={panel.hint}>
        Clicks, boxes and lines now paint with <b>{one.slot}</b>. Alt takes it away, Esc stops.
      </p>
      <div className={css.pair}>
        <ColourField
          label="Colour"
          value={one.colour}
          onCommit={(colour) => change(one.slot, `${one.slot} is now ${colour}`, { colour })}
        />
        {one.upper && (
          <ColourField
            label="at the top"
            value={one.upper}
            onCommit={(upper) => change(one.slot, `${one.slot} ends in ${upper}`, { upper })}
          />
        )}
      </div>
      <label>
        <input
          type="checkbox"
          checked={one.upper !== null}
          onChange={(event) =>
            event.target.checked
              ? change(one.slot, `${one.slot} as a gradient`, { upper: '#f2f2f2' })
              : change(one.slot, `${one.slot} in one colour`, { upper: null })
          }
        />{' '}
        gradient, from below to above
      </label>
      <label>
        <input type="checkbox" checked={everywhere} onChange={(event) => setEverywhere(event.target.checked)} /> in all
        models: parts and slots of the same name
      </label>
      <div className={panel.row}>
        <Button tone="quiet" disabled={painted === 0} onClick={() => select(one.slot)}>
          Select its {count(painted)} faces
        </Button>
        <Button tone="quiet" onClick={() => remove(one.slot)}>
          Remove
        </Button>
      </div>
    </div>
  );
}
