/** The fixed light rig: direction to the light, colour. Directions are of unit length. */
const LIGHTS: { to: [number, number, number]; color: [number, number, number] }[] = [
  { to: [0.48, 0.64, 0.6], color: [2.2, 2.1, 1.95] },
  { to: [-0.8, 0.36, 0.48], color: [0.6, 0.7, 0.9] },
  { to: [0, 0.6, -0.8], color: [0.7, 0.65, 0.6] },
];
export const SKY: readonly [number, number, number] = [0.42, 0.46, 0.52];
export const GROUND: readonly [number, number, number] = [0.2, 0.18, 0.16];

/** What a light gives that no surface changes: with an eye at infinity the half vector is the same everywhere. */
export interface LightTowardEye {
  to: readonly [number, number, number];
  color: readonly [number, number, number];
  half: readonly [number, number, number];
  /** (1 − eye · half)⁵, the Schlick term. */
  fresnel: number;
}

/** The lights as an eye sees them. @param e unit vector to the eye */
export function lightsToward(e: readonly [number, number, number]): LightTowardEye[] {
  return LIGHTS.map(({ to, color }) => {
    const h = [to[0] + e[0], to[1] + e[1], to[2] + e[2]];
    const l = Math.sqrt(h[0] * h[0] + h[1] * h[1] + h[2] * h[2]) || 1;
    const half = [h[0] / l, h[1] / l, h[2] / l] as const;
    const one = 1 - Math.max(0, e[0] * half[0] + e[1] * half[1] + e[2] * half[2]);
    return { to, color, half, fresnel: one * one * one * one * one };
  });
}
