import { z } from 'zod';

const Limit = (max: number) => z.number().min(0).max(max).nullable().default(null);

/** What a scene may cost on the device that it is for. Null: no limit. */
export const Budget = z.object({
  device: z.enum(['phone', 'headset', 'console', 'desktop', 'retro', 'own']).default('own'),
  drawCalls: Limit(1e6),
  /** Bytes with all mips, in `format`. */
  textureBytes: Limit(1e13),
  format: z.enum(['bc7', 'bc1', 'astc6x6', 'astc4x4', 'rgba8']).default('bc7'),
  triangles: Limit(1e10),
  gpuVertices: Limit(1e10),
  /** Longest side of any texture, px. */
  largestTexture: Limit(65536),
  /** px/m that surfaces should have. */
  density: Limit(1e6),
});
export type Budget = z.infer<typeof Budget>;

const MIB = 1024 ** 2;

/** Where to start from, by class of device: a scene of props, not the whole of what the device can do. Meant to be changed. */
export const BUDGETS: Record<Exclude<Budget['device'], 'own'>, Budget> = {
  phone: start('phone', 120, 96 * MIB, 'astc6x6', 250_000, 300_000, 1024, 256),
  headset: start('headset', 100, 128 * MIB, 'astc6x6', 200_000, 250_000, 2048, 512),
  console: start('console', 1_000, 512 * MIB, 'bc7', 2_000_000, 2_400_000, 4096, 1024),
  desktop: start('desktop', 2_000, 1024 * MIB, 'bc7', 4_000_000, 5_000_000, 4096, 1024),
  retro: start('retro', 60, 4 * MIB, 'rgba8', 20_000, 30_000, 256, 64),
};

export const DEVICE_TITLES: Record<Budget['device'], string> = {
  phone: 'phone',
  headset: 'standalone headset',
  console: 'console',
  desktop: 'desktop',
  retro: 'retro',
  own: 'own figures',
};

function start(
  device: Budget['device'],
  drawCalls: number,
  textureBytes: number,
  format: Budget['format'],
  triangles: number,
  gpuVertices: number,
  largestTexture: number,
  density: number,
): Budget {
  return { device, drawCalls, textureBytes, format, triangles, gpuVertices, largestTexture, density };
}

/** Figures that a budget limits. */
export interface Measured {
  drawCalls: number;
  textureBytes: number;
  triangles: number;
  gpuVertices: number;
  largestTexture: number;
  /** Lowest density, px/m; null where nothing has one. */
  density: number | null;
}

export type BudgetLine = keyof Measured;

/** What the lines are called in a sentence. */
export const LINE_TITLES: Record<BudgetLine, string> = {
  drawCalls: 'draw calls',
  textureBytes: 'texture memory',
  triangles: 'triangles',
  gpuVertices: 'GPU vertices',
  largestTexture: 'largest texture',
  density: 'lowest density',
};

/** The lines that are over (density: under), with how far: 1.25 is a quarter over. */
export function overBudget(budget: Budget, m: Partial<Measured>): Partial<Record<BudgetLine, number>> {
  const out: Partial<Record<BudgetLine, number>> = {};
  for (const line of ['drawCalls', 'textureBytes', 'triangles', 'gpuVertices', 'largestTexture'] as const) {
    const [limit, is] = [budget[line], m[line]];
    if (limit !== null && is !== undefined && is > limit) out[line] = limit > 0 ? is / limit : Number.POSITIVE_INFINITY;
  }
  if (budget.density !== null && m.density !== undefined && m.density !== null && m.density < budget.density)
    out.density = budget.density / Math.max(m.density, 1e-9);
  return out;
}
