import { useEffect, useMemo, useState } from 'react';
import type { LiveMaps, LiveMask } from '../../../stage/live-sheet.ts';
import { cellsAround, joined, type Neighbours } from './cell-neighbours.ts';

/** Maps that can be looked at, as pictures. */
export const SHOWN_MAPS = [
  { value: 'color', label: 'Base colour' },
  { value: 'normal', label: 'Normal' },
  { value: 'occlusion', label: 'Occlusion' },
  { value: 'roughness', label: 'Roughness' },
  { value: 'metallic', label: 'Metallic' },
  { value: 'emissive', label: 'Emissive' },
] as const;
export type ShownMap = (typeof SHOWN_MAPS)[number]['value'];

const CHANNEL = { occlusion: 0, roughness: 1, metallic: 2 } as const;

function pixelsOf(maps: LiveMaps, kind: ShownMap): ImageData {
  const { width, height } = maps;
  const out = new ImageData(width, height);
  const grey = kind in CHANNEL ? CHANNEL[kind as keyof typeof CHANNEL] : null;
  const rgb = kind === 'normal' ? maps.normal : kind === 'emissive' ? maps.emissive : null;
  for (let i = 0, o = 0; o < out.data.length; i++, o += 4) {
    for (let c = 0; c < 3; c++)
      out.data[o + c] =
        kind === 'color' ? maps.baseColor[o + c] : grey !== null ? maps.orm[i * 3 + grey] : (rgb?.[i * 3 + c] ?? 0);
    out.data[o + 3] = 255;
  }
  return out;
}

/** Lines of a hatch, px of the map. */
const HATCH = 8;

function hatchOf({ width, height, texels }: LiveMask): ImageData {
  const out = new ImageData(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const inside = texels[i] >= 128;
      const border =
        inside !== ((texels[i + 1] ?? 0) >= 128 && x + 1 < width) || inside !== (texels[i + width] ?? 0) >= 128;
      if (!border && !(texels[i] > 16 && (x + y) % HATCH < (texels[i] > 140 ? 2 : 1))) continue;
      const v = (x - y + height) % 6 < 3 ? 20 : 247;
      out.data.set([v, v, v, 255], i * 4);
    }
  return out;
}

/** Address of a picture; null until it is made. It is given back when another one takes its place. */
function usePicture(make: (() => ImageData) | null): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!make) {
      setUrl(null);
      return;
    }
    let over = false;
    const image = make();
    const canvas = new OffscreenCanvas(image.width, image.height);
    canvas.getContext('2d')?.putImageData(image, 0, 0);
    void canvas.convertToBlob().then((blob) => {
      if (!over) setUrl(URL.createObjectURL(blob));
    });
    return () => {
      over = true;
    };
  }, [make]);
  useEffect(() => () => (url ? URL.revokeObjectURL(url) : undefined), [url]);
  return url;
}

export const useMapPicture = (maps: LiveMaps | null, kind: ShownMap): string | null =>
  usePicture(useMemo(() => maps && (() => pixelsOf(maps, kind)), [maps, kind]));

/** One map of a cell in the middle of others. @param times cells along an axis */
function cellPixels(maps: LiveMaps, around: Neighbours<LiveMaps | null>, kind: ShownMap, times: number): ImageData {
  const { width, height } = maps;
  const cell = cellsAround(maps, around, times);
  const known = new Map<LiveMaps, Uint8ClampedArray>();
  const bytes = joined([width, height], times, 4, (column, row) => {
    const one = cell(column, row);
    const pixels = known.get(one) ?? pixelsOf(one, kind).data;
    known.set(one, pixels);
    return pixels;
  });
  return new ImageData(new Uint8ClampedArray(bytes.buffer), width * times, height * times);
}

export const useCellPicture = (
  maps: LiveMaps | null,
  around: Neighbours<LiveMaps | null>,
  kind: ShownMap,
  times: number,
): string | null =>
  usePicture(useMemo(() => maps && (() => cellPixels(maps, around, kind, times)), [maps, around, kind, times]));

export const useHatchPicture = (mask: LiveMask | null): string | null =>
  usePicture(useMemo(() => mask && (() => hatchOf(mask)), [mask]));

/** Linear value of an sRGB byte. */
const linear = (byte: number): number => {
  const v = byte / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
};

/** What the maps hold at a place, in words. @param place shares of the sheet */
export function valuesAt(maps: LiveMaps, [u, v]: readonly [number, number]): [string, string][] {
  const x = Math.min(maps.width - 1, Math.floor(u * maps.width));
  const y = Math.min(maps.height - 1, Math.floor(v * maps.height));
  const i = y * maps.width + x;
  const rgb = [...maps.baseColor.subarray(i * 4, i * 4 + 3)];
  const hex = `#${rgb.map((b) => b.toString(16).padStart(2, '0')).join('')}`;
  const unit = (c: number) => (maps.orm[i * 3 + c] / 255).toFixed(2);
  return [
    ['Base colour', `${hex} (${rgb.map((b) => linear(b).toFixed(3)).join(' ')} linear)`],
    ['Roughness', unit(1)],
    ['Metallic', unit(2)],
    ['Occlusion', unit(0)],
  ];
}
