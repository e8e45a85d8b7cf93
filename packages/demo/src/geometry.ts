/** Surfaces of one slot, made of charts that each get their own place in the slot's 0–1 square. */

export interface Chart {
  /** Size in metres. */
  width: number;
  height: number;
  /** Vertices: position, normal, place on the chart in metres (V down). */
  positions: number[];
  normals: number[];
  local: number[];
  indices: number[];
  /** Charts with the same label share one place (a stack). */
  stack?: string;
  /** The chart is laid mirrored over its stack. */
  mirrored?: boolean;
}

export type Vec = [number, number, number];

const add = (vec: Vec, b: Vec): Vec => [vec[0] + b[0], vec[1] + b[1], vec[2] + b[2]];
const mul = (vec: Vec, k: number): Vec => [vec[0] * k, vec[1] * k, vec[2] * k];
const cross = (vec: Vec, b: Vec): Vec => [
  vec[1] * b[2] - vec[2] * b[1],
  vec[2] * b[0] - vec[0] * b[2],
  vec[0] * b[1] - vec[1] * b[0],
];
const length = (vec: Vec) => Math.sqrt(vec[0] ** 2 + vec[1] ** 2 + vec[2] ** 2);
const unit = (vec: Vec): Vec => mul(vec, 1 / (length(vec) || 1));

/** A flat rectangle: origin at its upper left seen from the front, edges along u (right) and v (down). */
export function rectangle(origin: Vec, u: Vec, v: Vec, stack?: string, mirrored?: boolean): Chart {
  const vec = unit(cross(v, u));
  const w = length(u);
  const h = length(v);
  const corners = [origin, add(origin, u), add(add(origin, u), v), add(origin, v)];
  return {
    width: w,
    height: h,
    positions: corners.flat(),
    normals: [vec, vec, vec, vec].flat(),
    local: [0, 0, w, 0, w, h, 0, h],
    indices: [0, 2, 1, 0, 3, 2],
    stack,
    mirrored,
  };
}

/** The six faces of a box around `centre`; with `stack`, equal faces of boxes of one label lie on each other. */
export function box(centre: Vec, size: Vec, stack?: string, mirrored?: boolean): Chart[] {
  const [x, y, z] = mul(size, 0.5);
  const at = (dx: number, dy: number, dz: number): Vec => [centre[0] + dx, centre[1] + dy, centre[2] + dz];
  const label = (k: string) => (stack ? `${stack}/${k}` : undefined);
  const [w, h, d] = size;
  return [
    rectangle(at(-x, y, z), [w, 0, 0], [0, -h, 0], label('front'), mirrored),
    rectangle(at(x, y, -z), [-w, 0, 0], [0, -h, 0], label('back'), mirrored),
    rectangle(at(x, y, z), [0, 0, -d], [0, -h, 0], label('right'), mirrored),
    rectangle(at(-x, y, -z), [0, 0, d], [0, -h, 0], label('left'), mirrored),
    rectangle(at(-x, y, -z), [w, 0, 0], [0, 0, d], label('top'), mirrored),
    rectangle(at(-x, -y, z), [w, 0, 0], [0, 0, -d], label('bottom'), mirrored),
  ];
}

/** A turned body around the vertical axis through `foot`: profile points (radius, height) from top to bottom, smooth. */
export function lathe(foot: Vec, profile: [number, number][], sides: number, stack?: string): Chart[] {
  const positions: number[] = [];
  const normals: number[] = [];
  const local: number[] = [];
  const indices: number[] = [];
  const along = [0];
  for (let i = 1; i < profile.length; i++)
    along.push(
      along[i - 1] + Math.sqrt((profile[i][0] - profile[i - 1][0]) ** 2 + (profile[i][1] - profile[i - 1][1]) ** 2),
    );
  const widest = Math.max(...profile.map((p) => p[0]));
  const round = 2 * Math.PI * widest;
  const [sin, cos] = circle(sides);
  for (let i = 0; i < profile.length; i++) {
    const a = profile[Math.max(0, i - 1)];
    const b = profile[Math.min(profile.length - 1, i + 1)];
    const slope = unit([a[1] - b[1], b[0] - a[0], 0]);
    for (let s = 0; s <= sides; s++) {
      positions.push(foot[0] + profile[i][0] * sin[s], foot[1] + profile[i][1], foot[2] + profile[i][0] * cos[s]);
      normals.push(slope[0] * sin[s], slope[1], slope[0] * cos[s]);
      local.push((s / sides) * round, along[i]);
    }
  }
  for (let i = 0; i + 1 < profile.length; i++)
    for (let s = 0; s < sides; s++) {
      const a = i * (sides + 1) + s;
      const b = a + sides + 1;
      if (profile[i][0] > 0) indices.push(a, b, a + 1);
      if (profile[i + 1][0] > 0) indices.push(a + 1, b, b + 1);
    }
  return [{ width: round, height: along[along.length - 1], positions, normals, local, indices, stack }];
}

/** A flat disc facing +Y or −Y, or along Z. */
export function disc(centre: Vec, radius: number, facing: '+y' | '-y' | '+z' | '-z', sides: number): Chart {
  const positions: number[] = [...centre];
  const vec: Vec =
    facing === '+y' ? [0, 1, 0] : facing === '-y' ? [0, -1, 0] : facing === '+z' ? [0, 0, 1] : [0, 0, -1];
  const u: Vec = facing === '-z' ? [-1, 0, 0] : [1, 0, 0];
  const v = cross(u, vec); // down on the chart
  const normals: number[] = [...vec];
  const local: number[] = [radius, radius];
  const indices: number[] = [];
  const [sin, cos] = circle(sides);
  for (let s = 0; s < sides; s++) {
    positions.push(...add(centre, add(mul(u, radius * cos[s]), mul(v, radius * sin[s]))));
    normals.push(...vec);
    local.push(radius + radius * cos[s], radius + radius * sin[s]);
    indices.push(0, 1 + ((s + 1) % sides), 1 + s);
  }
  return { width: 2 * radius, height: 2 * radius, positions, normals, local, indices };
}

function circle(sides: number): [number[], number[]] {
  const sin: number[] = [];
  const cos: number[] = [];
  for (let s = 0; s <= sides; s++) {
    sin.push(Math.fround(Math.sin((2 * Math.PI * (s % sides)) / sides)));
    cos.push(Math.fround(Math.cos((2 * Math.PI * (s % sides)) / sides)));
  }
  return [sin, cos];
}

/** Moves charts. */
export function moved(charts: Chart[], by: Vec): Chart[] {
  return charts.map((chart) => ({ ...chart, positions: chart.positions.map((v, i) => v + by[i % 3]) }));
}

export interface Surface {
  positions: Float32Array;
  normals: Float32Array;
  uvs: Float32Array;
  indices: Uint32Array;
}

/**
 * Lays the charts of one slot side by side in its 0–1 square, in rows of falling height, at the greatest common scale that
 * fits, and returns one mesh per group of charts. They stay within the upper left `used` × `used` of the square.
 */
export function layCharts(groups: Chart[][], gap = 0.012, used = 1): Surface[] {
  const all = groups.flat();
  const places = new Map<string, Chart>();
  all.forEach((chart, i) => {
    const key = chart.stack ?? `#${i}`;
    if (!places.has(key)) places.set(key, chart);
  });
  const entries = [...places].sort((a, b) => b[1].height - a[1].height || b[1].width - a[1].width);
  const tryScale = (k: number): Map<string, [number, number]> | null => {
    const at = new Map<string, [number, number]>();
    let x = gap;
    let y = gap;
    let row = 0;
    for (const [key, chart] of entries) {
      const w = chart.width * k;
      const h = chart.height * k;
      if (w + 2 * gap > used) return null;
      if (x + w + gap > used) {
        x = gap;
        y += row + gap;
        row = 0;
      }
      if (y + h + gap > used) return null;
      at.set(key, [x, y]);
      x += w + gap;
      row = Math.max(row, h);
    }
    return at;
  };
  let low = 1e-4;
  let high = 100;
  for (let i = 0; i < 50; i++) {
    const mid = (low + high) / 2;
    if (tryScale(mid)) low = mid;
    else high = mid;
  }
  const at = tryScale(low) as Map<string, [number, number]>;
  let n = 0;
  return groups.map((charts) => {
    const positions: number[] = [];
    const normals: number[] = [];
    const uvs: number[] = [];
    const indices: number[] = [];
    for (const chart of charts) {
      const [ox, oy] = at.get(chart.stack ?? `#${n}`) as [number, number];
      n++;
      const base = positions.length / 3;
      positions.push(...chart.positions);
      normals.push(...chart.normals);
      for (let i = 0; i < chart.local.length; i += 2) {
        const u = chart.mirrored ? chart.width - chart.local[i] : chart.local[i];
        uvs.push(ox + u * low, oy + chart.local[i + 1] * low);
      }
      indices.push(...chart.indices.map((v) => v + base));
    }
    return {
      positions: Float32Array.from(positions),
      normals: Float32Array.from(normals),
      uvs: Float32Array.from(uvs),
      indices: Uint32Array.from(indices),
    };
  });
}
