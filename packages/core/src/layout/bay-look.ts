import { Wrap } from '@wembrel/kernels/sample';
import { linearToSrgb } from '../image/srgb.ts';
import { type ImageSizes, referenceSize } from '../plan/layout-texture.ts';
import type { RoutedMaterial } from '../plan/route.ts';

/** What the bays of a material show before anything is baked: a colour, times a picture where there is one. */
export interface BayLook {
  /** sRGB, 0 … 1. */
  colour: [red: number, green: number, blue: number];
  /** Alpha counts for nothing. */
  opaque: boolean;
  picture: BayPicture | null;
}

/** How the picture of the base colour lies in layout coordinates. */
interface BayPicture {
  /** Its size there, texels of the material. */
  width: number;
  height: number;
  /** What it does beyond its sides. */
  across: Repeat;
  down: Repeat;
  /** It is enlarged without blending. */
  nearest: boolean;
}

type Repeat = 'repeat' | 'mirror' | 'clamp';

/**
 * The base colour of a material as its bays show it. Layout coordinates follow the picture of the base colour wherever that is not flat
 * (`layoutUse`), so that it needs no transform of its own. Vertex colours are left out.
 */
export function bayLook(material: RoutedMaterial, sizes: ImageSizes): BayLook {
  const { look } = material;
  const [red, green, blue] = look.baseColorFactor;
  const use = look.baseColor;
  const [width, height] = referenceSize(material, sizes);
  return {
    colour: [linearToSrgb(red), linearToSrgb(green), linearToSrgb(blue)],
    opaque: look.alphaMode === 'OPAQUE',
    picture: use && { width, height, across: repeatOf(use.wrapS), down: repeatOf(use.wrapT), nearest: use.nearest },
  };
}

const repeatOf = (wrap: number): Repeat =>
  wrap === Wrap.repeat ? 'repeat' : wrap === Wrap.mirror ? 'mirror' : 'clamp';
