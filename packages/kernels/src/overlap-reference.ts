import type { OverlapLoops, OverlapMemory } from './overlap-solver.ts';

/** Samples that the kernel looks at together; it asks only after each such group whether it has counted enough. */
const GROUP = 4;

/** The loops of assembly/crowd.ts in plain TypeScript, looking at every body instead of those nearby: what the kernel is held against. */
export function overlapReference(overlapMemory: OverlapMemory): OverlapLoops {
  const { count, width, height, margin, x, y, c, s, size } = overlapMemory;
  const reachX = (i: number, ci: number, si: number) =>
    (Math.abs(ci) * overlapMemory.halfWidth[i] + Math.abs(si) * overlapMemory.halfHeight[i]) * size[i];
  const reachY = (i: number, ci: number, si: number) =>
    (Math.abs(si) * overlapMemory.halfWidth[i] + Math.abs(ci) * overlapMemory.halfHeight[i]) * size[i];

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
    const hx =
      overlapMemory.halfWidth[b] +
      limit +
      Math.abs(rc) * overlapMemory.halfWidth[a] +
      Math.abs(rs) * overlapMemory.halfHeight[a];
    const hy =
      overlapMemory.halfHeight[b] +
      limit +
      Math.abs(rs) * overlapMemory.halfWidth[a] +
      Math.abs(rc) * overlapMemory.halfHeight[a];
    return tx > hx || tx < -hx || ty > hy || ty < -hy
      ? null
      : { dx, dy, tx, ty, rc, rs, limit, k: 1 / overlapMemory.step[b] };
  }

  /** Distance and gradient of the field of b at a point in its frame; null outside it. */
  function look(b: number, lx: number, ly: number, f: NonNullable<ReturnType<typeof frame>>) {
    const u = (f.tx + f.rc * lx - f.rs * ly - overlapMemory.left[b]) * f.k;
    const v = (f.ty + f.rs * lx + f.rc * ly - overlapMemory.top[b]) * f.k;
    if (!(u >= 0 && v >= 0 && u < overlapMemory.columns[b] - 1 && v < overlapMemory.rows[b] - 1)) return null;
    const [iu, iv] = [Math.floor(u), Math.floor(v)];
    const [fu, fv] = [u - iu, v - iv];
    const o = overlapMemory.fieldAt[b] + iv * overlapMemory.columns[b] + iu;
    const [d00, d10] = [overlapMemory.field[o], overlapMemory.field[o + 1]];
    const [d01, d11] = [
      overlapMemory.field[o + overlapMemory.columns[b]],
      overlapMemory.field[o + overlapMemory.columns[b] + 1],
    ];
    const e0 = d00 + (d10 - d00) * fu;
    const e1 = d01 + (d11 - d01) * fu;
    const gx = ((d10 - d00) * (1 - fv) + (d11 - d01) * fv) * f.k;
    return { d: e0 + (e1 - e0) * fv, gx, gy: (e1 - e0) * f.k };
  }

  function push(a: number, b: number, weight: number): number {
    const f = frame(a, x[a], y[a], c[a], s[a], b, [x[b], y[b], c[b], s[b]]);
    if (!f) return 0;
    const [la, lb] = [overlapMemory.lightness[a], overlapMemory.lightness[b]];
    const turnA = overlapMemory.freedom[a] === 2 ? 1 / overlapMemory.arm2[a] : 0;
    const turnB = overlapMemory.freedom[b] === 2 ? 1 / overlapMemory.arm2[b] : 0;
    const gb = size[b];
    const overGb = 1 / gb;
    let worst = 0;
    const sums = [0, 0, 0, 0, 0, 0, 0];
    for (let i = overlapMemory.sampleAt[a]; i < overlapMemory.sampleAt[a] + overlapMemory.sampleCount[a]; i++) {
      const [lx, ly] = [overlapMemory.sampleX[i], overlapMemory.sampleY[i]];
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
      overlapMemory.ax[a] += sums[0];
      overlapMemory.ay[a] += sums[1];
      overlapMemory.at[a] += sums[2];
      overlapMemory.aw[a] += sums[6];
      overlapMemory.ax[b] -= sums[3];
      overlapMemory.ay[b] -= sums[4];
      overlapMemory.at[b] -= sums[5];
      overlapMemory.aw[b] += sums[6];
    }
    return worst;
  }

  function pushIn(a: number): number {
    const e = margin / 2;
    const rx = reachX(a, c[a], s[a]) + e;
    const ry = reachY(a, c[a], s[a]) + e;
    if (x[a] >= rx && y[a] >= ry && x[a] <= width - rx && y[a] <= height - ry) return 0;
    const turn = overlapMemory.freedom[a] === 2 ? 1 / overlapMemory.arm2[a] : 0;
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
    for (let i = overlapMemory.sampleAt[a]; i < overlapMemory.sampleAt[a] + overlapMemory.sampleCount[a]; i++) {
      const px = c[a] * overlapMemory.sampleX[i] - s[a] * overlapMemory.sampleY[i];
      const py = s[a] * overlapMemory.sampleX[i] + c[a] * overlapMemory.sampleY[i];
      const [wx, wy] = [x[a] + px * size[a], y[a] + py * size[a]];
      if (wx < e) hit(e - wx, 1, 0, px, py);
      else if (wx > width - e) hit(wx - width + e, -1, 0, px, py);
      if (wy < e) hit(e - wy, 0, 1, px, py);
      else if (wy > height - e) hit(wy - height + e, 0, -1, px, py);
    }
    overlapMemory.ax[a] += sums[0];
    overlapMemory.ay[a] += sums[1];
    overlapMemory.at[a] += sums[2];
    overlapMemory.aw[a] += sums[3];
    return worst;
  }

  function depth(a: number, pa: number[], b: number, pb: number[], bound: number): number {
    const f = frame(a, pa[0], pa[1], pa[2], pa[3], b, pb);
    if (!f) return 0;
    const per = overlapMemory.spacing[a] * size[a] * size[b];
    const most = bound / per;
    let sum = 0;
    for (let i = 0; i < overlapMemory.sampleCount[a]; i += GROUP) {
      for (let k = i; k < Math.min(i + GROUP, overlapMemory.sampleCount[a]); k++) {
        const at = look(
          b,
          overlapMemory.sampleX[overlapMemory.sampleAt[a] + k],
          overlapMemory.sampleY[overlapMemory.sampleAt[a] + k],
          f,
        );
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
    for (let i = overlapMemory.sampleAt[a]; i < overlapMemory.sampleAt[a] + overlapMemory.sampleCount[a]; i++) {
      const px = xa + (ca * overlapMemory.sampleX[i] - sa * overlapMemory.sampleY[i]) * size[a];
      const py = ya + (sa * overlapMemory.sampleX[i] + ca * overlapMemory.sampleY[i]) * size[a];
      if (px < e) sum += e - px;
      else if (px > width - e) sum += px - width + e;
      if (py < e) sum += e - py;
      else if (py > height - e) sum += py - height + e;
    }
    return sum * overlapMemory.spacing[a] * size[a] * 2;
  }

  const pose = (i: number) => [x[i], y[i], c[i], s[i]];
  return {
    // Every pair is looked at every time: the kernel leaves out those that cannot be too near yet.
    relax(_pairs, _weights, _wake, pairCount, momentum) {
      for (const sum of [overlapMemory.ax, overlapMemory.ay, overlapMemory.at, overlapMemory.aw]) sum.fill(0);
      let worst = 0;
      for (let p = 0; p < pairCount; p++) {
        const [a, b, w] = [overlapMemory.pairs[2 * p], overlapMemory.pairs[2 * p + 1], overlapMemory.pairWeights[p]];
        worst = Math.max(worst, push(a, b, w), push(b, a, w));
      }
      for (let i = 0; i < count; i++) if (!overlapMemory.fixed[i]) worst = Math.max(worst, pushIn(i));
      for (let i = 0; i < count; i++) {
        const aw = overlapMemory.aw[i];
        if (aw === 0 || overlapMemory.fixed[i]) {
          overlapMemory.vx[i] = 0;
          overlapMemory.vy[i] = 0;
          overlapMemory.vt[i] = 0;
          continue;
        }
        overlapMemory.vx[i] = momentum * overlapMemory.vx[i] + overlapMemory.ax[i] / aw;
        overlapMemory.vy[i] = momentum * overlapMemory.vy[i] + overlapMemory.ay[i] / aw;
        x[i] += overlapMemory.vx[i];
        y[i] += overlapMemory.vy[i];
        if (overlapMemory.freedom[i] !== 2) continue;
        overlapMemory.vt[i] = momentum * overlapMemory.vt[i] + overlapMemory.at[i] / aw;
        const t = overlapMemory.vt[i] / size[i];
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
      overlapMemory.vx[i] = 0;
      overlapMemory.vy[i] = 0;
      overlapMemory.vt[i] = 0;
    },
    cost(a, xa, ya, ca, sa, bound) {
      const at = [xa, ya, ca, sa];
      let total = outside(a, xa, ya, ca, sa) * overlapMemory.wall[a];
      if (total >= bound) return total;
      for (let o = 0; o < count; o++) {
        if (o === a) continue;
        const room = (bound - total) / overlapMemory.row[o];
        let over = depth(a, at, o, pose(o), room);
        if (over < room) over += depth(o, pose(o), a, at, room - over);
        total += overlapMemory.row[o] * over;
        if (total >= bound) return total;
      }
      return total;
    },
    between: (a, b) => depth(a, pose(a), b, pose(b), Infinity) + depth(b, pose(b), a, pose(a), Infinity),
    outside,
  };
}
