import { type Cell, cellsAt, layered, stretchedNoise, valueNoise } from '../noise/periodic.ts';
import { blend, clamp, mix, type StockPainter, step } from './surface-point.ts';

const newCell = (): Cell => ({ near: 0, next: 0, id: 0 });

/** Fired glass on steel: glossy, hardly uneven. White, so that it takes any tint. */
export const enamel: StockPainter = {
  metres: 0.5,
  relief: 0.4,
  courses: null,
  at: (u, v) => {
    const peel = layered(u, v, 36, 2, 11);
    const tone = layered(u, v, 4, 3, 14);
    const speck = step(0.86, 0.95, valueNoise(u * 160, v * 160, 160, 17)) * step(0.5, 0.7, tone);
    return {
      color: blend(blend([226, 228, 224], [240, 241, 237], tone), [196, 196, 190], speck * 0.6),
      roughness: mix(0.12, 0.22, peel) + speck * 0.2,
      metallic: 0,
      occlusion: 1,
      height: peel * 0.12,
    };
  },
};

/** Weathered zinc sheet: cloudy crystals, matt. */
export const zinc: StockPainter = {
  metres: 0.6,
  relief: 0.3,
  courses: null,
  at: (u, v) => {
    const cell = cellsAt(
      u * 22 + layered(u, v, 9, 2, 4) * 0.9,
      v * 22 + layered(u, v, 9, 2, 7) * 0.9,
      22,
      3,
      newCell(),
    );
    const crystal = clamp(cell.id * 0.7 + layered(u, v, 14, 3, 8) * 0.3);
    const chalk = step(0.52, 0.72, layered(u, v, 5, 4, 21));
    const streak = stretchedNoise(u * 46, v * 3, [46, 3], 26);
    return {
      color: blend(blend([128, 134, 138], [168, 173, 175], crystal), [198, 200, 198], chalk * (0.35 + 0.3 * streak)),
      roughness: mix(mix(0.36, 0.52, crystal), 0.74, chalk),
      metallic: mix(0.95, 0.45, chalk),
      occlusion: mix(1, 0.96, chalk),
      height: crystal * 0.06 + chalk * 0.08,
    };
  },
};

/** Handled brass: brushed along u, brown where hands do not reach. */
export const brass: StockPainter = {
  metres: 0.3,
  relief: 0.2,
  courses: null,
  at: (u, v) => {
    const brush =
      stretchedNoise(u * 6, v * 220, [6, 220], 31) * 0.6 + stretchedNoise(u * 24, v * 440, [24, 440], 32) * 0.4;
    const tarnish = step(0.42, 0.7, layered(u, v, 5, 4, 37));
    return {
      color: blend(blend([198, 158, 88], [226, 190, 112], brush), [122, 92, 54], tarnish * 0.75),
      roughness: mix(mix(0.22, 0.34, brush), 0.55, tarnish),
      metallic: mix(1, 0.8, tarnish),
      occlusion: mix(1, 0.95, tarnish),
      height: brush * 0.03 + tarnish * 0.02,
    };
  },
};

/** Iron that has rusted through its skin: scales and pits. */
export const rust: StockPainter = {
  metres: 0.4,
  relief: 1.6,
  courses: null,
  at: (u, v) => {
    const warp = layered(u, v, 24, 3, 41) * 1.6;
    const scale = cellsAt(u * 44 + warp, v * 44 - warp, 44, 44, newCell());
    const plates = mix(1, step(0.02, 0.4, scale.next - scale.near), 0.55);
    const tone = clamp(layered(u, v, 7, 6, 47) * 1.5 - 0.25);
    const pit = step(0.62, 0.8, layered(u, v, 52, 3, 52));
    const fresh = step(0.5, 0.72, layered(u, v, 16, 4, 58)) * plates;
    return {
      color: blend(
        blend(blend([62, 36, 24], [122, 66, 34], tone), [176, 98, 44], fresh * 0.8),
        [40, 26, 20],
        pit * 0.6,
      ),
      roughness: clamp(0.78 + tone * 0.16 + pit * 0.06),
      metallic: 0.08 * (1 - fresh),
      occlusion: mix(0.72, 1, plates) * (1 - pit * 0.3),
      height: plates * (0.5 + scale.id * 0.5) + tone * 0.4 - pit * 0.5,
    };
  },
};

/** Rolled window glass: clear, with waves and dust. */
export const glass: StockPainter = {
  metres: 0.8,
  relief: 0.5,
  courses: null,
  at: (u, v) => {
    const wave = stretchedNoise(u * 5, v * 9, [5, 9], 61) * 0.7 + layered(u, v, 12, 2, 63) * 0.3;
    const dust = step(0.5, 0.9, layered(u, v, 24, 4, 66));
    return {
      color: blend([150, 168, 164], [186, 192, 186], dust),
      roughness: mix(0.06, 0.32, dust),
      metallic: 0,
      occlusion: 1,
      height: wave * 0.3,
    };
  },
};
