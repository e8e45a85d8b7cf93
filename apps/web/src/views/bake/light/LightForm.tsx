import type { LightDecisions } from '@wembrel/core/decisions/light-decisions';
import { Field, NumberField } from '../../../ui/Field.tsx';
import css from './LightView.module.css';

export interface LightFormProps {
  light: LightDecisions;
  /** Names of all slots. */
  slots: readonly string[];
  change: (label: string, next: LightDecisions) => void;
}

/** What light goes into vertex colours, and into which slots. */
export function LightForm({ light, slots, change }: LightFormProps) {
  const { ao, sun } = light;
  const setAo = (label: string, part: Partial<LightDecisions['ao']>) =>
    change(label, { ...light, ao: { ...ao, ...part } });
  const setSun = (label: string, part: Partial<LightDecisions['sun']>) =>
    change(label, { ...light, sun: { ...sun, ...part } });
  const receives = (slot: string) => light.slots.length === 0 || light.slots.includes(slot);
  const percent = (v: number) => Math.round(v * 100);
  return (
    <div className={css.form}>
      <h2>AO</h2>
      <NumberField
        label="AO strength"
        unit="%"
        value={percent(ao.strength)}
        min={0}
        max={100}
        step={5}
        note={ao.strength === 0 ? 'no AO' : undefined}
        onCommit={(v) => setAo('Darkness of AO', { strength: v / 100 })}
      />
      <NumberField
        label="AO distance"
        unit="m"
        value={ao.distance ?? 0}
        min={0}
        max={1e9}
        step={0.1}
        note={ao.distance === null ? '0: without limit' : undefined}
        onCommit={(m) => setAo('Distance of AO', { distance: m > 0 ? m : null })}
      />
      <NumberField
        label="Rays per vertex"
        unit="rays"
        value={ao.rays}
        min={4}
        max={4096}
        onCommit={(rays) => setAo('Rays of light', { rays })}
      />
      <h2>Sun</h2>
      <NumberField
        label="Sun share of light"
        unit="%"
        value={percent(sun.strength)}
        min={0}
        max={100}
        step={5}
        note={sun.strength === 0 ? 'no sun' : 'the rest stays in the shade'}
        onCommit={(v) => setSun('Strength of the sun', { strength: v / 100 })}
      />
      <NumberField
        label="Azimuth"
        unit="°"
        value={sun.azimuth}
        min={-180}
        max={180}
        step={5}
        note="about the vertical: 0 from the front, 90 from the right"
        onCommit={(azimuth) => setSun('Direction of the sun', { azimuth })}
      />
      <NumberField
        label="Elevation"
        unit="°"
        value={sun.height}
        min={-90}
        max={90}
        step={5}
        onCommit={(height) => setSun('Height of the sun', { height })}
      />
      <NumberField
        label="Softness"
        unit="°"
        value={sun.softness}
        min={0}
        max={60}
        note="half the angle under which it is seen"
        onCommit={(softness) => setSun('Softness of the sun', { softness })}
      />
      <Field label="Colour">
        {(id) => (
          <input
            id={id}
            type="color"
            value={sun.tint}
            onChange={(event) => setSun('Colour of the sun', { tint: event.target.value })}
          />
        )}
      </Field>
      <details>
        <summary>
          {light.slots.length === 0
            ? 'All slots receive it'
            : `${light.slots.length} of ${slots.length} slots receive it`}
        </summary>
        <div className={css.slots}>
          {slots.map((slot) => (
            <label key={slot}>
              <input
                type="checkbox"
                checked={receives(slot)}
                onChange={() => {
                  const next = slots.filter((text) => (text === slot) !== receives(text));
                  change(`Light on ${slot}`, { ...light, slots: next.length === slots.length ? [] : next });
                }}
              />
              {slot}
            </label>
          ))}
        </div>
      </details>
    </div>
  );
}
