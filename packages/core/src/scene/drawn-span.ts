import type { Model } from './model.ts';

/** The longest side of the box around all that a model draws, scene units; 0 where it draws no triangles. */
export function drawnSpan(model: Pick<Model, 'parts'>): number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { positions, indices, instances } of model.parts) {
    const used = new Uint8Array(positions.length / 3);
    for (let i = 0; i < indices.length; i++) used[indices[i]] = 1;
    for (const { world: m } of instances)
      for (let v = 0; v < used.length; v++) {
        if (used[v] === 0) continue;
        const [x, y, z] = [positions[v * 3], positions[v * 3 + 1], positions[v * 3 + 2]];
        for (let k = 0; k < 3; k++) {
          const at = Math.fround(m[k] * x + m[4 + k] * y + m[8 + k] * z + m[12 + k]);
          if (at < low[k]) low[k] = at;
          if (at > high[k]) high[k] = at;
        }
      }
  }
  if (!(high[0] >= low[0])) return 0;
  return Math.max(...high.map((h, k) => h - low[k]));
}
