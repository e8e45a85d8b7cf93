/** Dark violet to pale ochre; 0 … 1. */
export function sequentialRamp(share: number): string {
  const t = Math.min(1, Math.max(0, share));
  return `oklch(${0.3 + 0.55 * t} ${0.11 - 0.02 * t} ${310 + (445 - 310) * t})`;
}

/** Below the middle violet, above it ochre, grey at it; −1 … 1. */
export function divergingRamp(v: number): string {
  const t = Math.min(1, Math.max(-1, v));
  return `oklch(${0.68 + 0.12 * t} ${0.12 * Math.abs(t)} ${t < 0 ? 310 : 85})`;
}
