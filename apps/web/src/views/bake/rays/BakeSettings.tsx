import { MAP_FORMS, MAP_KINDS } from '@wembrel/core/decisions/map-kinds';
import { RAY_SAMPLES, type RaySettings } from '@wembrel/core/decisions/ray-decisions';
import { Check, Choice, NumberField } from '../../../ui/Field.tsx';
import css from './BakeSettings.module.css';
import { MAP_TITLES } from './map-titles.ts';

interface BakeSettingsProps {
  settings: RaySettings;
  change: (label: string, next: RaySettings) => void;
}

interface GroupProps {
  settings: RaySettings;
  set: (label: string, part: Partial<RaySettings>) => void;
}

/** What a high-to-low bake makes, and how. */
export function BakeSettings({ settings, change }: BakeSettingsProps) {
  const set: GroupProps['set'] = (label, part) => change(label, { ...settings, ...part });
  return (
    <div className={css.form}>
      <fieldset>
        <legend>Casting</legend>
        <Casting settings={settings} set={set} />
      </fieldset>
      <fieldset>
        <legend>Maps</legend>
        <Maps settings={settings} set={set} />
      </fieldset>
      <fieldset>
        <legend>Image files</legend>
        <ImageFiles settings={settings} set={set} />
      </fieldset>
    </div>
  );
}

/** Which rays are cast, and what they may hit. */
function Casting({ settings, set }: GroupProps) {
  return (
    <>
      <Choice
        label="Samples per texel"
        value={String(settings.samples)}
        options={RAY_SAMPLES.map((n) => ({ value: String(n), label: `${n} (${Math.sqrt(n)}×${Math.sqrt(n)})` }))}
        onChange={(v) => set(`${v} samples a texel`, { samples: Number(v) as RaySettings['samples'] })}
      />
      <Choice
        label="Cast along"
        value={settings.cast}
        options={[
          { value: 'smoothed', label: 'smoothed normals' },
          { value: 'own', label: 'own normals' },
          { value: 'faceted', label: 'faceted normals' },
          { value: 'blended', label: 'blended normals' },
        ]}
        onChange={(cast) => set(`Cast along ${cast} normals`, { cast })}
      />
      {settings.cast === 'blended' && (
        <NumberField
          label="Share of own normals"
          unit="%"
          value={Math.round(settings.blend * 100)}
          min={0}
          max={100}
          onCommit={(v) => set('Blend of normals', { blend: v / 100 })}
        />
      )}
      <Choice
        label="Which hit counts"
        value={settings.hit}
        options={[
          { value: 'outside', label: 'first hit from outside' },
          { value: 'nearest', label: 'nearest hit' },
        ]}
        onChange={(hit) => set(hit === 'nearest' ? 'Nearest hits count' : 'First hits from outside count', { hit })}
      />
      <Check
        label="back faces count too"
        checked={settings.backFaces}
        onChange={(backFaces) => set(backFaces ? 'Back faces count' : 'Back faces do not count', { backFaces })}
      />
    </>
  );
}

/** Which maps there are, and what is decided for each. */
function Maps({ settings, set }: GroupProps) {
  const has = (k: (typeof MAP_KINDS)[number]) => settings.maps.includes(k);
  return (
    <>
      <div className={css.kinds}>
        {MAP_KINDS.map((k) => (
          <label key={k} title={MAP_FORMS[k].about}>
            <input
              type="checkbox"
              checked={has(k)}
              disabled={has(k) && settings.maps.length === 1}
              onChange={(event) =>
                set(`${event.target.checked ? 'Bake' : 'Leave out'} ${MAP_TITLES[k]}`, {
                  maps: MAP_KINDS.filter((channel) => (channel === k ? event.target.checked : has(channel))),
                })
              }
            />
            {MAP_TITLES[k]}
          </label>
        ))}
      </div>
      {has('ao') && (
        <>
          <NumberField
            label="AO rays per texel"
            unit="rays"
            value={settings.ao.rays}
            min={4}
            max={4096}
            onCommit={(rays) => set('AO rays', { ao: { ...settings.ao, rays } })}
          />
          <LengthField
            label="AO distance"
            metres={settings.ao.distance}
            open="without limit"
            onCommit={(distance) => set('Distance of AO', { ao: { ...settings.ao, distance } })}
          />
          <Choice
            label="AO sees"
            value={settings.ao.sees}
            options={[
              { value: 'own', label: 'its own pairing' },
              { value: 'all', label: 'everything' },
            ]}
            onChange={(sees) =>
              set(sees === 'all' ? 'AO sees everything' : 'AO sees its own pairing', { ao: { ...settings.ao, sees } })
            }
          />
        </>
      )}
      {(has('curvature') || has('convex') || has('concave')) && (
        <LengthField
          label="Curvature: white at radius"
          metres={settings.curvature.radius}
          open="a hundredth of the largest side"
          onCommit={(radius) => set('Radius of curvature', { curvature: { ...settings.curvature, radius } })}
        />
      )}
      {has('thickness') && (
        <LengthField
          label="White at thickness"
          metres={settings.thickness.distance}
          open="half of the largest side"
          onCommit={(distance) => set('White at thickness', { thickness: { ...settings.thickness, distance } })}
        />
      )}
      {has('id') && (
        <>
          <Choice
            label="One ID colour per"
            value={settings.id.by}
            options={[
              { value: 'material', label: 'material' },
              { value: 'part', label: 'part' },
              { value: 'island', label: 'island' },
              { value: 'own-colour', label: 'material, in its own colour' },
              { value: 'vertex-color', label: 'vertex colour' },
              { value: 'group', label: 'face group' },
              { value: 'piece', label: 'loose piece' },
            ]}
            onChange={(by) => set('One ID colour per', { id: { ...settings.id, by } })}
          />
          <NumberField
            label="Soften ID borders"
            unit="px"
            value={settings.id.soften}
            min={0}
            max={16}
            onCommit={(soften) => set('Soft ID borders', { id: { ...settings.id, soften } })}
          />
        </>
      )}
    </>
  );
}

/** How the maps are written. */
function ImageFiles({ settings, set }: GroupProps) {
  return (
    <>
      <Choice
        label="Size"
        value={String(settings.size)}
        options={[256, 512, 1024, 2048, 4096, 8192].map((n) => ({ value: String(n), label: `${n} px` }))}
        onChange={(v) => set(`Maps of ${v} px`, { size: Number(v) })}
      />
      <Choice
        label="Normal map"
        value={settings.normalY}
        options={[
          { value: 'up', label: 'Y up' },
          { value: 'down', label: 'Y down' },
        ]}
        onChange={(normalY) => set(`Normal map with Y ${normalY}`, { normalY })}
      />
      <Choice
        label="Bit depth"
        value={String(settings.bits)}
        options={[
          { value: '8', label: '8, dithered' },
          { value: '16', label: '16' },
          { value: '32', label: '32, float EXR' },
        ]}
        onChange={(v) => set(`${v} bits a channel`, { bits: Number(v) as RaySettings['bits'] })}
      />
      <NumberField
        label="Padding"
        unit="px"
        value={settings.padding}
        min={0}
        max={512}
        onCommit={(padding) => set('Padding', { padding })}
      />
      <NumberField
        label="Minimum margin"
        unit="px"
        value={settings.margin}
        min={0}
        max={256}
        onCommit={(margin) => set('Minimum margin', { margin })}
      />
    </>
  );
}

interface LengthFieldProps {
  label: string;
  /** Null: left open. */
  metres: number | null;
  /** What 0 stands for. */
  open: string;
  onCommit: (metres: number | null) => void;
}

/** A length in mm that may be left open by 0. */
function LengthField({ label, metres, open, onCommit }: LengthFieldProps) {
  return (
    <NumberField
      label={label}
      unit="mm"
      value={metres === null ? 0 : Number((metres * 1000).toPrecision(6))}
      min={0}
      max={1e9}
      note={metres === null ? `0: ${open}` : undefined}
      onCommit={(mm) => onCommit(mm > 0 ? mm / 1000 : null)}
    />
  );
}
