// The nearest set cell of a grid: the loops of src/nearest-reference.ts over linear memory, with the same numbers, so that both agree on every tie.

/**
 * @param mask a byte a cell @param out i32 a cell: the nearest feature's index, −1 when there is none at all
 * @param work 28 bytes a column and 16 more
 */
export function nearest(mask: usize, width: i32, height: i32, out: usize, work: usize): void {
  const far: f64 = 536870912;
  const last = work;
  const site = last + (<usize>width << 2);
  const rows = site + (<usize>width << 2);
  const from = (rows + (<usize>width << 2) + 7) & ~(<usize>7);
  const cost = from + (<usize>(width + 1) << 3);
  // Columns: the nearest feature's row in the same column; ties go to the upper one.
  memory.fill(last, 0xff, <usize>width << 2);
  for (let y = 0; y < height; y++) {
    const m = mask + <usize>(y * width);
    const o = out + (<usize>(y * width) << 2);
    for (let x = 0; x < width; x++) {
      if (load<u8>(m + <usize>x)) store<i32>(last + (<usize>x << 2), y);
      store<i32>(o + (<usize>x << 2), load<i32>(last + (<usize>x << 2)));
    }
  }
  memory.fill(last, 0xff, <usize>width << 2);
  for (let y = height - 1; y >= 0; y--) {
    const m = mask + <usize>(y * width);
    const o = out + (<usize>(y * width) << 2);
    for (let x = 0; x < width; x++) {
      if (load<u8>(m + <usize>x)) store<i32>(last + (<usize>x << 2), y);
      const below = load<i32>(last + (<usize>x << 2));
      const above = load<i32>(o + (<usize>x << 2));
      if (below >= 0 && (above < 0 || below - y < y - above)) store<i32>(o + (<usize>x << 2), below);
    }
  }
  // Rows: the lower envelope of parabolas.
  for (let y = 0; y < height; y++) {
    const o = out + (<usize>(y * width) << 2);
    memory.copy(rows, o, <usize>width << 2);
    let count = 0;
    for (let x = 0; x < width; x++) {
      const r = load<i32>(rows + (<usize>x << 2));
      const d = <f64>(r - y);
      const c = r < 0 ? far : d * d;
      store<f64>(cost + (<usize>x << 3), c);
      if (r < 0) continue;
      let start: f64 = -Infinity;
      while (count > 0) {
        const s = load<i32>(site + (<usize>(count - 1) << 2));
        start =
          (c + <f64>x * <f64>x - load<f64>(cost + (<usize>s << 3)) - <f64>s * <f64>s) / <f64>(2 * (x - s));
        if (start >= load<f64>(from + (<usize>(count - 1) << 3))) break;
        count--;
        start = -Infinity;
      }
      store<i32>(site + (<usize>count << 2), x);
      store<f64>(from + (<usize>count << 3), count == 0 ? -Infinity : start);
      count++;
    }
    if (count == 0) {
      memory.fill(o, 0xff, <usize>width << 2);
      continue;
    }
    let k = 0;
    for (let x = 0; x < width; x++) {
      const at = <f64>x;
      while (k + 1 < count && load<f64>(from + (<usize>(k + 1) << 3)) < at) k++;
      const s = load<i32>(site + (<usize>k << 2));
      let index = load<i32>(rows + (<usize>s << 2)) * width + s;
      // At an exact tie several are equally near: the lowest index wins.
      for (let j = k + 1; j < count && load<f64>(from + (<usize>j << 3)) == at; j++) {
        const t = load<i32>(site + (<usize>j << 2));
        const other = load<i32>(rows + (<usize>t << 2)) * width + t;
        if (other < index) index = other;
      }
      store<i32>(o + (<usize>x << 2), index);
    }
  }
}
