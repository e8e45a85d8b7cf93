import Minus from 'lucide-react/icons/minus';
import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import { Dialog as Radix } from 'radix-ui';
import { type KeyboardEvent, useMemo, useState } from 'react';
import { Button } from '../../ui/Button.tsx';
import { percent } from '../../ui/format.ts';
import { KeyCap } from '../../ui/KeyCap.tsx';
import type { ShownChannels } from '../../workers/texel-picture.ts';
import {
  centred,
  fitted,
  nextScale,
  readingText,
  readTexel,
  scaledAt,
  type TexelKind,
  type TexelPlace,
} from '../../workers/texel-values.ts';
import { notify } from '../notices.ts';
import type { TexelPicture } from './open-texels.ts';
import { Readout } from './Readout.tsx';
import { TexelStage } from './TexelStage.tsx';
import css from './TexelViewer.module.css';
import { useTexels } from './use-texels.ts';

const KIND_TITLES: Record<TexelKind, string> = { colour: 'sRGB', data: 'linear data', normal: 'tangent-space normals' };

const ALL: ShownChannels = { red: true, green: true, blue: true, alpha: false };

const CHANNELS: [keyof ShownChannels, string][] = [
  ['red', 'R'],
  ['green', 'G'],
  ['blue', 'B'],
  ['alpha', 'A'],
];

const ARROWS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** Any map, sheet or texture, texel by texel, in a window over the page: scale, channels, mips, and the values of the texel below the pointer. */
export function TexelViewer({ picture, onClose }: { picture: TexelPicture; onClose: () => void }) {
  const [level, setLevel] = useState(0);
  const [shown, setShown] = useState(ALL);
  const [engine, setEngine] = useState(false);
  const [own, setPlace] = useState<TexelPlace | null>(null);
  const [size, setSize] = useState<{ width: number; height: number } | null>(null);
  const [at, setAt] = useState<[number, number] | null>(null);
  const { opened, drawn, problem } = useTexels({ source: picture.source, kind: picture.kind, level, shown, engine });
  const texels = drawn?.texels ?? null;
  const fit = useMemo(() => (texels && size ? fitted(texels, size) : null), [texels, size]);
  const place = own ?? fit;
  const reading = texels && at ? readTexel(texels, picture.kind, ...at) : null;

  const scaleTo = (scale: number, around?: [number, number]) => {
    if (place && size) setPlace(scaledAt(place, scale, around ?? [size.width / 2, size.height / 2]));
  };
  const copy = () => {
    if (!reading || !at) return;
    void navigator.clipboard
      .writeText(readingText(...at, reading))
      .then(() => notify({ tone: 'plain', text: `Copied ${reading.hex}` }))
      .catch(() => notify({ tone: 'fault', text: 'The clipboard could not be written to.' }));
  };
  const key = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement && event.key.startsWith('Arrow')) return;
    const step = ARROWS[event.key];
    if (step && texels) {
      const [x, y] = at ?? [0, 0];
      setAt([
        Math.min(texels.width - 1, Math.max(0, x + step[0])),
        Math.min(texels.height - 1, Math.max(0, y + step[1])),
      ]);
    } else if ((event.key === '+' || event.key === '=') && place) scaleTo(nextScale(place.scale, 1));
    else if (event.key === '-' && place) scaleTo(nextScale(place.scale, -1));
    else if (event.key.toLowerCase() === 'f') setPlace(null);
    else if (event.key.toLowerCase() === 'c' && !event.ctrlKey && !event.metaKey) copy();
    else return;
    event.preventDefault();
  };
  const chooseLevel = (to: number) => {
    // What is in the middle stays there, at the same size on the screen.
    if (own) setPlace({ ...own, scale: own.scale * 2 ** (to - level) });
    if (at) setAt([at[0], at[1]].map((v) => Math.floor(v * 2 ** (level - to))) as [number, number]);
    setLevel(to);
  };
  return (
    <Radix.Root open onOpenChange={(open) => !open && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className={css.overlay} />
        <Radix.Content className={css.box} onKeyDown={key} aria-describedby={undefined}>
          <header className={css.head}>
            <Radix.Title className={css.title} title={picture.title}>
              {picture.title}
            </Radix.Title>
            <p>
              {opened
                ? `${opened.width} × ${opened.height} px, ${opened.bits} bit, ${KIND_TITLES[picture.kind]}`
                : 'Decoding …'}
            </p>
            <Radix.Close asChild>
              <Button tone="quiet" aria-label="Close">
                <X size={16} aria-hidden />
              </Button>
            </Radix.Close>
          </header>
          <div className={css.tools}>
            <Button
              aria-label="Zoom out"
              disabled={!place}
              onClick={() => place && scaleTo(nextScale(place.scale, -1))}
            >
              <Minus size={14} aria-hidden />
            </Button>
            <output className={css.scale}>{place ? percent(place.scale) : '–'}</output>
            <Button aria-label="Zoom in" disabled={!place} onClick={() => place && scaleTo(nextScale(place.scale, 1))}>
              <Plus size={14} aria-hidden />
            </Button>
            <Button disabled={!place} onClick={() => setPlace(null)}>
              Fit <KeyCap>F</KeyCap>
            </Button>
            <Button disabled={!place} onClick={() => texels && size && setPlace(centred(texels, size, 1))}>
              100 %
            </Button>
            <fieldset className={css.channels} aria-label="Channels">
              {CHANNELS.map(([channel, letter]) => (
                <label key={channel}>
                  <input
                    type="checkbox"
                    checked={shown[channel]}
                    onChange={(event) => setShown({ ...shown, [channel]: event.target.checked })}
                  />
                  {letter}
                </label>
              ))}
            </fieldset>
            <label
              className={css.engine}
              title="As a shader reads it: colours over checks where they are clear, data as light, normals with the Z that follows from X and Y"
            >
              <input type="checkbox" checked={engine} onChange={(event) => setEngine(event.target.checked)} />
              As the engine sees it
            </label>
            {opened && opened.levels > 1 && (
              <label className={css.mips}>
                Mip {level}
                <input
                  type="range"
                  min={0}
                  max={opened.levels - 1}
                  value={level}
                  aria-valuetext={`${level}, ${opened.width >> level} × ${opened.height >> level} px`}
                  onChange={(event) => chooseLevel(Number(event.target.value))}
                />
              </label>
            )}
          </div>
          {problem ? (
            <p className={css.problem} role="alert">
              The picture cannot be shown: {problem}.
            </p>
          ) : (
            <TexelStage
              label={`${picture.title}, texel by texel`}
              drawn={drawn}
              place={place}
              at={reading ? at : null}
              onAt={setAt}
              onMove={(dx, dy) => place && setPlace({ ...place, x: place.x + dx, y: place.y + dy })}
              onScale={(way, around) => place && scaleTo(nextScale(place.scale, way), around)}
              onSize={setSize}
            />
          )}
          <Readout
            at={at}
            reading={reading}
            level={level}
            size={texels}
            where={reading && at ? (picture.placeAt?.(at[0] * 2 ** level, at[1] * 2 ** level) ?? null) : null}
            onCopy={copy}
          />
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
