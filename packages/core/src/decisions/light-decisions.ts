import { z } from 'zod';
import { linearOf } from '../image/srgb.ts';

/** What is decided of light that goes into vertex colours. */
export const LightDecisions = z.strictObject({
  /** Exact names of slots that receive it; empty: all. Everything casts shadows. */
  slots: z.array(z.string()).max(10_000).default([]),
  ao: z
    .strictObject({
      /** How dark it gets; 0: none. */
      strength: z.number().min(0).max(1).default(1),
      /** How far it looks, m; null: without limit. */
      distance: z.number().gt(0).max(1e9).nullable().default(null),
      /** Rays at each corner of a face. */
      rays: z.number().int().min(4).max(4096).default(64),
    })
    .prefault({}),
  sun: z
    .strictObject({
      /** Its share of the light; 0: no sun. */
      strength: z.number().min(0).max(1).default(0.7),
      /** Where it stands: degrees about the vertical from +z towards +x, and above the horizon. */
      azimuth: z.number().min(-180).max(180).default(40),
      height: z.number().min(-90).max(90).default(45),
      /** Half the angle under which it is seen, degrees. */
      softness: z.number().min(0).max(60).default(2),
      tint: z
        .string()
        .regex(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb')
        .default('#ffe9c8'),
    })
    .prefault({}),
});
export type LightDecisions = z.infer<typeof LightDecisions>;

/** Unit vector to a sun. */
export function wayToSun(azimuth: number, height: number): [number, number, number] {
  const [a, h] = [azimuth, height].map((d) => (d * Math.PI) / 180);
  return [Math.sin(a) * Math.cos(h), Math.sin(h), Math.cos(a) * Math.cos(h)];
}

/** @returns null when there would be no light to add */
export function vertexLightOf(d: LightDecisions): VertexLight | null {
  const { ao, sun } = d;
  if (ao.strength === 0 && sun.strength === 0) return null;
  return {
    ao: ao.strength > 0 ? { rays: ao.rays, distance: ao.distance ?? 1e9, strength: ao.strength } : null,
    sun:
      sun.strength > 0
        ? {
            direction: wayToSun(sun.azimuth, sun.height),
            softness: sun.softness,
            strength: sun.strength,
            tint: linearOf(sun.tint),
            rays: Math.max(4, Math.round(ao.rays / 2)),
          }
        : null,
  };
}

/** Light that goes into vertex colours. */
export interface VertexLight {
  /** AO: rays a corner of a face, how far they look (m), how dark it gets (0 … 1). */
  ao: { rays: number; distance: number; strength: number } | null;
  /**
   * A sun: the way to it (any length), half the angle under which it is seen (degrees: soft borders), how much of the light is its own (0 … 1), linear
   * colour; what it does not reach keeps the rest of the light.
   */
  sun: {
    direction: readonly [number, number, number];
    softness: number;
    strength: number;
    tint: readonly [number, number, number];
    rays: number;
  } | null;
}
