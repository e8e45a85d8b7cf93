import type { OverlapLoops, OverlapMemory } from './overlap-solver.ts';

/** Samples that the kernel looks at together; it asks only after each such group whether it has counted enough. */
const GROUP = 4;

/** The loops of assembly/crowd.ts in plain TypeScript, looking at every body instead of those nearby: what the kernel is held against. */
export function overlapReference(m: OverlapMemory): OverlapLoops {
  const { count, width, height, margin, x, y, c, s, size } = m;
  const reachX = (i: number, ci: number, si: number) =>
    (Math.abs(ci) * m.halfWidth[i] + Math.abs(si) * m.halfHeight[i]) * size[i];
  const reachY = (i: number, ci: number, si: number) =>
    (Math.abs(si) * m.halfWidth[i] + Math.abs(ci) * m.halfHeight[i]) * size[i];

  /** Frame of body a in that of body b; null where their boxes keep apart. */
  function frame(a: number, xa: number, ya: number, ca: number, sa: number, b: number, pose: number[]) {
    const [xb, yb, cb, sb] = pose;
    const gb = size[b];
    const [dx, dy] = [xa - xb, ya - yb];
    const tx = (cb * dx + sb * dy) / gb;
    const ty = (cb * dy - sb * dx) / gb;
    const ratio = size[a] / gb;
    const rc = (cb * ca + sb * sa) * ratio;
    const rs = (cb * sa - sb * ca) * ratio;
    const limit = margin / gb;
    const hx = m.halfWidth[b] + limit + Math.abs(rc) * m.halfWidth[a] + Math.abs(rs) * m.halfHeight[a];
    const hy = m.halfHeight[b] + limit + Math.abs(rs) * m.halfWidth[a] + Math.abs(rc) * m.halfHeight[a];
    return tx > hx || tx < -hx || ty > hy || ty < -hy ? null : { dx, dy, tx, ty, rc, rs, limit, k: 1 / m.step[b] };
  }

  /** Distance and gradient of the field of b at a point in its frame; null outside it. */
  function look(b: number, lx: number, ly: number, f: NonNullable<ReturnType<typeof frame>>) {
    const u = (f.tx + f.rc * lx - f.rs * ly - m.left[b]) * f.k;
    const v = (f.ty + f.rs * lx + f.rc * ly - m.top[b]) * f.k;
    if (!(u >= 0 && v >= 0 && u < m.columns[b] - 1 && v < m.rows[b] - 1)) return null;
    const [iu, iv] = [Math.floor(u), Math.floor(v)];
    const [fu, fv] = [u - iu, v - iv];
    const o = m.fieldAt[b] + iv * m.columns[b] + iu;
    const [d00, d10] = [m.field[o], m.field[o + 1]];
    const [d01, d11] = [m.field[o + m.columns[b]], m.field[o + m.columns[b] + 1]];
    const e0 = d00 + (d10 - d00) * fu;
    const e1 = d01 + (d11 - d01) * fu;
    const gx = ((d10 - d00) * (1 - fv) + (d11 - d01) * fv) * f.k;
    return { d: e0 + (e1 - e0) * fv, gx, gy: (e1 - e0) * f.k };
  }

  function push(a: number, b: number, weight: number): number {
    const f = frame(a, x[a], y[a], c[a], s[a], b, [x[b], y[b], c[b], s[b]]);
    if (!f) return 0;
    const [la, lb] = [m.lightness[a], m.lightness[b]];
    const turnA = m.freedom[a] === 2 ? 1 / m.arm2[a] : 0;
    const turnB = m.freedom[b] === 2 ? 1 / m.arm2[b] : 0;
    const gb = size[b];
    const overGb = 1 / gb;
    let worst = 0;
    const sums = [0, 0, 0, 0, 0, 0, 0];
    for (let i = m.sampleAt[a]; i < m.sampleAt[a] + m.sampleCount[a]; i++) {
      const [lx, ly] = [m.sampleX[i], m.sampleY[i]];
      const at = look(b, lx, ly, f);
      if (!at || at.d >= f.limit) continue;
      const depth = (f.limit - at.d) * gb;
      const nx = c[b] * at.gx - s[b] * at.gy;
      const ny = s[b] * at.gx + c[b] * at.gy;
      const px = c[a] * lx - s[a] * ly;
      const py = s[a] * lx + c[a] * ly;
      const armA = px * ny - py * nx;
      const armB = ((px * size[a] + f.dx) * ny - (py * size[a] + f.dy) * nx) * overGb;
      const share = (depth * depth * weight) / (la * (1 + armA * armA * turnA) + lb * (1 + armB * armB * turnB));
      const add = [share * la * nx, share * la * ny, share * la * armA * turnA, share * lb * nx, share * lb * ny];
      [...add, share * lb * armB * turnB, depth * weight].forEach((v, k) => {
        sums[k] += v;
      });
      worst = Math.max(worst, depth);
    }
    if (worst > 0) {
      m.ax[a] += sums[0];
      m.ay[a] += sums[1];
      m.at[a] += sums[2];
      m.aw[a] += sums[6];
      m.ax[b] -= sums[3];
      m.ay[b] -= sums[4];
      m.at[b] -= sums[5];
      m.aw[b] += sums[6];
    }
    return worst;
  }

  function pushIn(a: number): number {
    const e = margin / 2;
    const rx = reachX(a, c[a], s[a]) + e;
    const ry = reachY(a, c[a], s[a]) + e;
    if (x[a] >= rx && y[a] >= ry && x[a] <= width - rx && y[a] <= height - ry) return 0;
    const turn = m.freedom[a] === 2 ? 1 / m.arm2[a] : 0;
    const sums = [0, 0, 0, 0];
    let worst = 0;
    const hit = (depth: number, nx: number, ny: number, px: number, py: number) => {
      const arm = px * ny - py * nx;
      const share = (depth * depth) / (1 + arm * arm * turn);
      sums[0] += share * nx;
      sums[1] += share * ny;
      sums[2] += share * arm * turn;
      sums[3] += depth;
      worst = Math.max(worst, depth);
    };
    for (let i = m.sampleAt[a]; i < m.sampleAt[a] + m.sampleCount[a]; i++) {
      const px = c[a] * m.sampleX[i] - s[a] * m.sampleY[i];
      const py = s[a] * m.sampleX[i] + c[a] * m.sampleY[i];
      const [wx, wy] = [x[a] + px * size[a], y[a] + py * size[a]];
      if (wx < e) hit(e - wx, 1, 0, px, py);
      else if (wx > width - e) hit(wx - width + e, -1, 0, px, py);
      if (wy < e) hit(e - wy, 0, 1, px, py);
      else if (wy > height - e) hit(wy - height + e, 0, -1, px, py);
    }
    m.ax[a] += sums[0];
    m.ay[a] += sums[1];
    m.at[a] += sums[2];
    m.aw[a] += sums[3];
    return worst;
  }

  function depth(a: number, pa: number[], b: number, pb: number[], bound: number): number {
    const f = frame(a, pa[0], pa[1], pa[2], pa[3], b, pb);
    if (!f) return 0;
    const per = m.spacing[a] * size[a] * size[b];
    const most = bound / per;
    let sum = 0;
    for (let i = 0; i < m.sampleCount[a]; i += GROUP) {
      for (let k = i; k < Math.min(i + GROUP, m.sampleCount[a]); k++) {
        const at = look(b, m.sampleX[m.sampleAt[a] + k], m.sampleY[m.sampleAt[a] + k], f);
        if (at && at.d < f.limit) sum += f.limit - at.d;
      }
      if (sum > most) break;
    }
    return sum * per;
  }

  function outside(a: number, xa: number, ya: number, ca: number, sa: number): number {
    const e = margin / 2;
    const rx = reachX(a, ca, sa) + e;
    const ry = reachY(a, ca, sa) + e;
    if (xa >= rx && ya >= ry && xa <= width - rx && ya <= height - ry) return 0;
    let sum = 0;
    for (let i = m.sampleAt[a]; i < m.sampleAt[a] + m.sampleCount[a]; i++) {
      const px = xa + (ca * m.sampleX[i] - sa * m.sampleY[i]) * size[a];
      const py = ya + (sa * m.sampleX[i] + ca * m.sampleY[i]) * size[a];
      if (px < e) sum += e - px;
      else if (px > width - e) sum += px - width + e;
      if (py < e) sum += e - py;
      else if (py > height - e) sum += py - height + e;
    }
    return sum * m.spacing[a] * size[a] * 2;
  }

  const pose = (i: number) => [x[i], y[i], c[i], s[i]];
  return {
    // Every pair is looked at every time: the kernel leaves out those that cannot be too near yet.
    relax(_pairs, _weights, _wake, pairCount, momentum) {
      for (const sum of [m.ax, m.ay, m.at, m.aw]) sum.fill(0);
      let worst = 0;
      for (let p = 0; p < pairCount; p++) {
        const [a, b, w] = [m.pairs[2 * p], m.pairs[2 * p + 1], m.pairWeights[p]];
        worst = Math.max(worst, push(a, b, w), push(b, a, w));
      }
      for (let i = 0; i < count; i++) if (!m.fixed[i]) worst = Math.max(worst, pushIn(i));
      for (let i = 0; i < count; i++) {
        const aw = m.aw[i];
        if (aw === 0 || m.fixed[i]) {
          m.vx[i] = 0;
          m.vy[i] = 0;
          m.vt[i] = 0;
          continue;
        }
        m.vx[i] = momentum * m.vx[i] + m.ax[i] / aw;
        m.vy[i] = momentum * m.vy[i] + m.ay[i] / aw;
        x[i] += m.vx[i];
        y[i] += m.vy[i];
        if (m.freedom[i] !== 2) continue;
        m.vt[i] = momentum * m.vt[i] + m.at[i] / aw;
        const t = m.vt[i] / size[i];
        const [c1, s1] = [c[i] - s[i] * t, s[i] + c[i] * t];
        const l = Math.sqrt(c1 * c1 + s1 * s1);
        c[i] = c1 / l;
        s[i] = s1 / l;
      }
      return worst;
    },
    locate() {},
    move(i, xi, yi, ci, si) {
      [x[i], y[i], c[i], s[i]] = [xi, yi, ci, si];
      m.vx[i] = 0;
      m.vy[i] = 0;
      m.vt[i] = 0;
    },
    cost(a, xa, ya, ca, sa, bound) {
      const at = [xa, ya, ca, sa];
      let total = outside(a, xa, ya, ca, sa) * m.wall[a];
      if (total >= bound) return total;
      for (let o = 0; o < count; o++) {
        if (o === a) continue;
        const room = (bound - total) / m.row[o];
        let over = depth(a, at, o, pose(o), room);
        if (over < room) over += depth(o, pose(o), a, at, room - over);
        total += m.row[o] * over;
        if (total >= bound) return total;
      }
      return total;
    },
    between: (a, b) => depth(a, pose(a), b, pose(b), Infinity) + depth(b, pose(b), a, pose(a), Infinity),
    outside,
  };
}
