import { box, type Chart } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';
import { metal, stone, wood } from './looks.ts';
import { laid, primitive, textured } from './pieces.ts';

/** Long bars along x whose long faces share one strip of texture each, over and over: what a trim sheet is for. */
interface Bar {
  name: string;
  /** Metres of one repeat. */
  repeat: number;
  bars: Chart[][];
}

/** Rails, kerbs and battens of the halt: three textures that repeat along one axis only. */
export function buildRails(): Uint8Array {
  const glbWriter = new GlbWriter();
  const looks = {
    HandrailSteel: () => textured(glbWriter, 'HandrailSteel', metal([44, 88, 92], [150, 152, 148], 0.25, 41), 256, 64),
    KerbStone: () => textured(glbWriter, 'KerbStone', stone([118, 116, 110], [168, 164, 152], 53), 256, 128),
    BattenWood: () => textured(glbWriter, 'BattenWood', wood(67), 256, 64),
  };
  const bars: (Bar & { name: keyof typeof looks })[] = [
    {
      name: 'HandrailSteel',
      repeat: 0.8,
      bars: [0.95, 0.55].map((y) => box([0, y, 1.4], [9.6, 0.05, 0.05])),
    },
    { name: 'KerbStone', repeat: 0.8, bars: [box([0, 0.1, 2.2], [12, 0.2, 0.25])] },
    {
      name: 'BattenWood',
      repeat: 0.8,
      bars: [0, 1, 2, 3].map((i) => box([0, 1.9 + 0.12 * i, -1.2], [4, 0.08, 0.03])),
    },
  ];
  const root = glbWriter.node({ name: 'rails' });
  for (const { name, repeat, bars: all } of bars) {
    // Sides along the bar lie one below the other over the strip's height; the ends take a piece of its beginning.
    const charts = all.flat();
    const place = (chart: number, u: number, v: number): [number, number] => {
      const c = charts[chart];
      return [u / repeat, 0.02 + (0.96 * v) / c.height];
    };
    glbWriter.node(
      { name, mesh: glbWriter.mesh(name, [primitive(glbWriter, laid(charts, place), looks[name]())]) },
      root,
    );
  }
  return glbWriter.glb();
}
