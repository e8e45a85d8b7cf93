import type { Plot } from './plot.ts';

/**
 * The border of a plot's shape as an SVG path in px: edges that belong to one triangle only, chained into loops. Overlapping
 * islands of a stack each keep their border.
 * @param place px of a point of the shape
 */
export function outlineOf(plot: Pick<Plot, 'shape'>, place: (x: number, y: number) => [number, number]): string {
  const { shape } = plot;
  const edges = new Map<string, [number, number, number, number]>();
  const key = (x: number, y: number) => `${Math.round(x * 64)},${Math.round(y * 64)}`;
  for (let i = 0; i < shape.length; i += 6)
    for (let k = 0; k < 3; k++) {
      const j = (k + 1) % 3;
      const a: [number, number] = [shape[i + k * 2], shape[i + k * 2 + 1]];
      const b: [number, number] = [shape[i + j * 2], shape[i + j * 2 + 1]];
      const forward = `${key(...a)} ${key(...b)}`;
      const back = `${key(...b)} ${key(...a)}`;
      if (edges.has(back)) edges.delete(back);
      else if (edges.has(forward)) edges.delete(forward);
      else edges.set(forward, [...a, ...b]);
    }
  const next = new Map<string, [number, number, number, number][]>();
  for (const edge of edges.values()) {
    const from = key(edge[0], edge[1]);
    const list = next.get(from);
    if (list) list.push(edge);
    else next.set(from, [edge]);
  }
  const round = (v: number) => Math.round(v * 100) / 100;
  const point = (x: number, y: number) => {
    const [px, py] = place(x, y);
    return `${round(px)} ${round(py)}`;
  };
  let path = '';
  for (const list of next.values())
    while (list.length > 0) {
      let e = list.pop() as [number, number, number, number];
      path += `M${point(e[0], e[1])}`;
      const start = key(e[0], e[1]);
      for (;;) {
        const at = key(e[2], e[3]);
        if (at === start) {
          path += 'Z';
          break;
        }
        path += `L${point(e[2], e[3])}`;
        const follow = next.get(at)?.pop();
        if (!follow) break;
        e = follow;
      }
    }
  return path;
}
