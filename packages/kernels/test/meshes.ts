/** Meshes for the tests of rays, plain and nasty. */
export interface TestMesh {
  positions: Float32Array;
  indices: Uint32Array;
}

/** Repeatable numbers in 0 … 1. */
export function numbers(seed: number): () => number {
  let s = seed | 1;
  return () => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) / 4294967296;
  };
}

/** A closed sphere with bumps; its poles and its seam share their vertices. */
export function bumpySphere(rows: number, scale = 1, centre: readonly number[] = [0, 0, 0], bump = 0.02): TestMesh {
  const columns = rows * 2;
  const positions: number[] = [centre[0], centre[1] + scale, centre[2]];
  for (let r = 1; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const [t, p] = [(Math.PI * r) / rows, (2 * Math.PI * c) / columns];
      const radius = scale * (1 + bump * Math.sin(9 * t) * Math.sin(11 * p));
      positions.push(
        centre[0] + radius * Math.sin(t) * Math.cos(p),
        centre[1] + radius * Math.cos(t),
        centre[2] - radius * Math.sin(t) * Math.sin(p),
      );
    }
  positions.push(centre[0], centre[1] - scale, centre[2]);
  const south = positions.length / 3 - 1;
  const at = (r: number, c: number) => (r === 0 ? 0 : r === rows ? south : 1 + (r - 1) * columns + (c % columns));
  const indices: number[] = [];
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      if (r > 0) indices.push(at(r, c), at(r + 1, c), at(r, c + 1));
      if (r < rows - 1) indices.push(at(r, c + 1), at(r + 1, c), at(r + 1, c + 1));
    }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}

/** Triangles anywhere, of very different sizes. */
export function soup(count: number, seed: number, scale = 1): TestMesh {
  const next = numbers(seed);
  const positions = new Float32Array(count * 9);
  for (let t = 0; t < count; t++) {
    const size = scale * 10 ** (-3 * next());
    const middle = [next(), next(), next()];
    for (let c = 0; c < 3; c++)
      for (let k = 0; k < 3; k++) positions[t * 9 + c * 3 + k] = scale * middle[k] + size * (next() - 0.5);
  }
  return { positions, indices: Uint32Array.from({ length: count * 3 }, (_, i) => i) };
}

/** Long thin triangles, triangles without area, and every triangle twice. */
export function nasty(seed: number): TestMesh {
  const next = numbers(seed);
  const list: number[] = [];
  for (let t = 0; t < 300; t++) {
    const a = [next(), next(), next()];
    const b = [next(), next(), next()];
    const kind = t % 3;
    const thin = kind === 0 ? 1e-5 : 0;
    const c = kind === 2 ? a : a.map((v, k) => (v + b[k]) / 2 + thin * next());
    list.push(...a, ...b, ...c);
    const big = [next(), next(), next(), next(), next(), next(), next(), next(), next()];
    list.push(...big, ...big);
  }
  return { positions: Float32Array.from(list), indices: Uint32Array.from({ length: list.length / 3 }, (_, i) => i) };
}

/** A flat square of many cells in the plane z = 0, its corners on whole numbers. */
export function plate(cells: number): TestMesh {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let y = 0; y <= cells; y++) for (let x = 0; x <= cells; x++) positions.push(x, y, 0);
  for (let y = 0; y < cells; y++)
    for (let x = 0; x < cells; x++) {
      const a = y * (cells + 1) + x;
      indices.push(a, a + 1, a + cells + 2, a, a + cells + 2, a + cells + 1);
    }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}
