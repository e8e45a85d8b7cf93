import { Color, SRGBColorSpace } from 'three';

const known = new Map<string, Color>();
let brush: CanvasRenderingContext2D | null = null;

/** A colour as the page's style would show it: the 3D library does not know all that CSS knows, so the browser is asked. */
export function cssColour(style: string): Color {
  let colour = known.get(style);
  if (!colour) {
    brush ??= document.createElement('canvas').getContext('2d', { willReadFrequently: true });
    colour = new Color(0x808080);
    if (brush) {
      brush.fillStyle = style;
      brush.fillRect(0, 0, 1, 1);
      const [r, g, b] = brush.getImageData(0, 0, 1, 1).data;
      colour.setRGB(r / 255, g / 255, b / 255, SRGBColorSpace);
    }
    known.set(style, colour);
  }
  return colour;
}
