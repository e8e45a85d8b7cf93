import { BAKED_VALUES, IMAGE_FORMATS, type ImageFormat, type ProfileImage } from '@wembrel/core/decisions/profiles';
import { Button } from '../../ui/Button.tsx';
import css from './ProfileEditor.module.css';
import { CHANNELS, type Channel, channelText, withChannel } from './profile-draft.ts';

const FORMATS: Record<ImageFormat, string> = {
  png: 'PNG',
  webp: 'WebP, lossless',
  'webp-lossy': 'WebP, lossy',
  tga: 'TGA',
  'ktx2-etc1s': 'KTX2, ETC1S',
  'ktx2-uastc': 'KTX2, UASTC',
};

const CONSTANTS = [0, 0.5, 1];

export interface ImageEditorProps {
  image: ProfileImage;
  onChange: (image: ProfileImage) => void;
  onRemove: () => void;
}

/** One image of a profile: its file, and what each channel carries. */
export function ImageEditor({ image, onChange, onRemove }: ImageEditorProps) {
  const set = (part: Partial<ProfileImage>) => onChange({ ...image, ...part });
  return (
    <li className={css.image}>
      <div className={css.file}>
        <input
          className={css.text}
          aria-label="File name"
          value={image.name}
          onChange={(event) => set({ name: event.target.value })}
        />
        <select
          aria-label="Format"
          value={image.format}
          onChange={(event) => set({ format: event.target.value as ImageFormat })}
        >
          {IMAGE_FORMATS.map((format) => (
            <option key={format} value={format}>
              {FORMATS[format]}
            </option>
          ))}
        </select>
        <select
          aria-label="Colour space"
          value={image.space}
          onChange={(event) => set({ space: event.target.value as ProfileImage['space'] })}
        >
          <option value="srgb">sRGB</option>
          <option value="linear">linear</option>
        </select>
        <select
          aria-label="Size"
          value={image.divisor}
          onChange={(event) => set({ divisor: Number(event.target.value) as ProfileImage['divisor'] })}
        >
          {[1, 2, 4, 8].map((divisor) => (
            <option key={divisor} value={divisor}>
              {divisor === 1 ? 'full size' : `1/${divisor} of the side`}
            </option>
          ))}
        </select>
        <label>
          <input
            type="checkbox"
            checked={image.write === 'always'}
            onChange={(event) => set({ write: event.target.checked ? 'always' : 'needed' })}
          />
          also if constant
        </label>
        <Button tone="quiet" onClick={onRemove}>
          Remove
        </Button>
      </div>
      <div className={css.channels}>
        {CHANNELS.map((channel) => (
          <ChannelChoice key={channel} image={image} channel={channel} onChange={onChange} />
        ))}
      </div>
    </li>
  );
}

interface ChannelChoiceProps {
  image: ProfileImage;
  channel: Channel;
  onChange: (image: ProfileImage) => void;
}

function ChannelChoice({ image, channel, onChange }: ChannelChoiceProps) {
  const text = channelText(image[channel]);
  const own = image[channel] && 'constant' in image[channel] ? [image[channel].constant] : [];
  const constants = [...new Set([...CONSTANTS, ...own])].sort((a, b) => a - b);
  const missing = channel === 'alpha' && !image.green;
  return (
    <label title={missing ? 'Alpha needs green and blue' : undefined}>
      {channel}
      <select
        aria-label={channel}
        value={text}
        disabled={missing}
        onChange={(event) => onChange(withChannel(image, channel, event.target.value))}
      >
        {channel !== 'red' && <option value="">none</option>}
        <optgroup label="as baked">
          {BAKED_VALUES.map((value) => (
            <option key={value}>{value}</option>
          ))}
        </optgroup>
        <optgroup label="inverted">
          {BAKED_VALUES.map((value) => (
            <option key={value} value={`1 − ${value}`}>
              1 − {value}
            </option>
          ))}
        </optgroup>
        <optgroup label="constant">
          {constants.map((value) => (
            <option key={value} value={`=${value}`}>
              {value}
            </option>
          ))}
        </optgroup>
      </select>
    </label>
  );
}
