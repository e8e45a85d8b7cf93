// shared
// Rays through the hierarchy that bvh.ts builds; the reference in plain TypeScript is src/rays-reference.ts. Intersection is watertight (Woop, Benthin and Wald 2013): edge
// functions are differences of two rounded products, so their sign is right or they are 0, and 0 counts as inside; no shared edge leaks. The
// slab test is padded on its far side by more than it can be wrong (Ize 2013).

const NODE: usize = 256;
const BLOCK: usize = 160;
const FAR: f32 = 1.00000083446502685546875;
// Rays that enter at one place.
const GROUP: i32 = 64;
// Scratch: distances of eight children, a table of shuffles, the node at which a group enters (up to 255 bytes on), the blocks that stopped rays last, the
// stack's children, their distances.
const TABLE: usize = 64;
const ENTRY: usize = 320;
const STOPPED: usize = 896;
const STACK: usize = 1024;
const FARS: usize = 7168;

let nodes: usize = 0;
let blocks: usize = 0;
let stack: usize = 0;
let near: usize = 0;
let table: usize = 0;
// For each kind of direction the block that stopped the last such ray, as a leaf; 0: none yet.
let stopped: usize = 0;
// Counted in nodes, like any child.
let entry: i32 = 0;

/** @param scratch 16384 bytes of this instance alone */
export function setUp(nodesAt: usize, blocksAt: usize, scratch: usize): void {
  nodes = nodesAt;
  blocks = blocksAt;
  near = scratch;
  table = scratch + TABLE;
  stack = scratch + STACK;
  stopped = scratch + STOPPED;
  memory.fill(stopped, 0, 96);
  entry = <i32>((scratch + ENTRY - nodesAt + NODE - 1) / NODE);
  // For each set of four lanes the shuffle that brings those in the set to the front: children are pushed without branches.
  for (let set = 0; set < 16; set++) {
    let o = table + (<usize>set << 4);
    for (let k = 0; k < 4; k++)
      if (set & (1 << k)) {
        store<u32>(o, 0x03020100 + 0x04040404 * k);
        o += 4;
      }
  }
}

// @ts-expect-error: decorator
@inline function away(d: f32): f32 {
  // A direction of 0 along an axis: any number so small that the slab is never left.
  return abs<f32>(d) < 1e-18 ? copysign<f32>(1e-18, d) : d;
}

/**
 * First hits. A ray is ox oy oz from dx dy dz to (f32), `from` and `to` in lengths of d; a hit is t, triangle (i32, −1 none), u, v: the weights of the second
 * and third corner. Equal distances go to the lowest triangle. Rays that follow each other and lie close together share the way down.
 * @param sides 0 both, 1 only triangles that face the ray, 2 only those that face away
 */
export function closest(rays: usize, count: i32, hits: usize, sides: i32): void {
  for (let i = 0; i < count; i += GROUP) {
    const stop = min(count, i + GROUP);
    const first = enter(rays + (<usize>i << 5), rays + (<usize>stop << 5));
    for (let k = i; k < stop; k++) trace(rays + (<usize>k << 5), hits + (<usize>k << 4), sides, first);
  }
}

/**
 * Where a group of rays enters: a node made of at most eight children from anywhere in the hierarchy that hold all that the box about the rays' segments
 * touches, or the only such child, or the root where they lie too far apart.
 */
function enter(ray: usize, stop: usize): i32 {
  let low = f32x4.splat(Infinity);
  let high = f32x4.splat(-Infinity);
  for (; ray < stop; ray += 32) {
    const o = v128.load(ray);
    const d = v128.load(ray, 16);
    const a = f32x4.add(o, f32x4.mul(d, f32x4.splat(load<f32>(ray, 12))));
    const b = f32x4.add(o, f32x4.mul(d, f32x4.splat(load<f32>(ray, 28))));
    low = f32x4.pmin(low, f32x4.pmin(a, b));
    high = f32x4.pmax(high, f32x4.pmax(a, b));
  }
  // More than the ends, and a hit's distance, can be wrong by rounding: 16 units in the last place of the farthest coordinate.
  const size = f32x4.max(f32x4.abs(low), f32x4.abs(high));
  const pad = f32x4.splat(
    max<f32>(max<f32>(f32x4.extract_lane(size, 0), f32x4.extract_lane(size, 1)), f32x4.extract_lane(size, 2)) * 2e-6 +
      1e-9,
  );
  low = f32x4.sub(low, pad);
  high = f32x4.add(high, pad);
  const lowX = v128.shuffle<f32>(low, low, 0, 0, 0, 0);
  const lowY = v128.shuffle<f32>(low, low, 1, 1, 1, 1);
  const lowZ = v128.shuffle<f32>(low, low, 2, 2, 2, 2);
  const highX = v128.shuffle<f32>(high, high, 0, 0, 0, 0);
  const highY = v128.shuffle<f32>(high, high, 1, 1, 1, 1);
  const highZ = v128.shuffle<f32>(high, high, 2, 2, 2, 2);
  const made = nodes + <usize>entry * NODE;
  let node = nodes;
  // Lanes of the node that are taken, and the one whose child is opened; the root is opened into lane 0.
  let taken = 1;
  let lane = 0;
  while (true) {
    let met = 0;
    for (let half: usize = 0; half < 32; half += 16) {
      const over = v128.and(
        v128.and(
          v128.and(f32x4.le(v128.load(node + half), highX), f32x4.ge(v128.load(node + half, 32), lowX)),
          v128.and(f32x4.le(v128.load(node + half, 64), highY), f32x4.ge(v128.load(node + half, 96), lowY)),
        ),
        v128.and(f32x4.le(v128.load(node + half, 128), highZ), f32x4.ge(v128.load(node + half, 160), lowZ)),
      );
      met |= i32x4.bitmask(over) << (half >> 2);
    }
    const children = popcnt(met);
    if (node == nodes && children > 6) return 0;
    if (met == 0) {
      // Nothing of it is touched: the last takes its lane.
      taken--;
      copyLane(made + (<usize>taken << 2), made + (<usize>lane << 2));
    } else if (taken - 1 + children <= 8) {
      copyLane(node + (<usize>ctz(met) << 2), made + (<usize>lane << 2));
      for (met &= met - 1; met; met &= met - 1) {
        copyLane(node + (<usize>ctz(met) << 2), made + (<usize>taken << 2));
        taken++;
      }
    } else lane++;
    while (lane < taken && load<i32>(made + (<usize>lane << 2), 192) < 0) lane++;
    if (lane >= taken) break;
    node = nodes + <usize>load<i32>(made + (<usize>lane << 2), 192) * NODE;
  }
  if (taken == 1) return load<i32>(made, 192);
  for (let i = taken; i < 8; i++) {
    const free = made + (<usize>i << 2);
    for (let k: usize = 0; k < 192; k += 32) store<f32>(free + k, Infinity);
    store<i32>(free, 0, 192);
  }
  return entry;
}

// @ts-expect-error: decorator
@inline function copyLane(from: usize, to: usize): void {
  for (let k: usize = 0; k < 192; k += 32) store<f32>(to + k, load<f32>(from + k));
  store<i32>(to, load<i32>(from, 192), 192);
}

function trace(ray: usize, hit: usize, sides: i32, first: i32): void {
  const from = load<f32>(ray, 12);
  let best = load<f32>(ray, 28);
  let bestId = -1;
  let bestU: f32 = 0;
  let bestV: f32 = 0;
  const x = load<f32>(ray, 16);
  const y = load<f32>(ray, 20);
  const z = load<f32>(ray, 24);
  const ox = f32x4.splat(load<f32>(ray));
  const oy = f32x4.splat(load<f32>(ray, 4));
  const oz = f32x4.splat(load<f32>(ray, 8));
  const rx = <f32>1 / away(x);
  const ry = <f32>1 / away(y);
  const rz = <f32>1 / away(z);
  const ix = f32x4.splat(rx);
  const iy = f32x4.splat(ry);
  const iz = f32x4.splat(rz);
  const fx = f32x4.splat(rx * FAR);
  const fy = f32x4.splat(ry * FAR);
  const fz = f32x4.splat(rz * FAR);
  const nearX: usize = rx < 0 ? 32 : 0;
  const nearY: usize = ry < 0 ? 96 : 64;
  const nearZ: usize = rz < 0 ? 160 : 128;
  const farX: usize = 32 - nearX;
  const farY: usize = 160 - nearY;
  const farZ: usize = 288 - nearZ;
  const start = f32x4.splat(from);
  let end = f32x4.splat(best);
  // The axis along which the ray is longest, and the two others in the order that keeps the winding.
  const ax = abs<f32>(x);
  const ay = abs<f32>(y);
  const az = abs<f32>(z);
  const kz: usize = ax > ay ? (ax > az ? 0 : 8) : ay > az ? 4 : 8;
  let kx: usize = kz == 8 ? 0 : kz + 4;
  let ky: usize = kx == 8 ? 0 : kx + 4;
  const dz = load<f32>(ray + kz, 16);
  if (dz < 0) {
    const k = kx;
    kx = ky;
    ky = k;
  }
  const sz = <f32>1 / dz;
  const shearX = f32x4.splat(load<f32>(ray + kx, 16) * sz);
  const shearY = f32x4.splat(load<f32>(ray + ky, 16) * sz);
  const shearZ = f32x4.splat(sz);
  const px = f32x4.splat(load<f32>(ray + kx));
  const py = f32x4.splat(load<f32>(ray + ky));
  const pz = f32x4.splat(load<f32>(ray + kz));
  const bx = kx << 2;
  const by = ky << 2;
  const bz = kz << 2;
  const zero = f32x4.splat(0);
  let top = stack;
  let current = first;
  while (true) {
    if (current >= 0) {
      const node = nodes + <usize>current * NODE;
      const n0 = f32x4.pmax(
        f32x4.pmax(
          f32x4.mul(f32x4.sub(v128.load(node + nearX), ox), ix),
          f32x4.mul(f32x4.sub(v128.load(node + nearY), oy), iy),
        ),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nearZ), oz), iz), start),
      );
      const f0 = f32x4.pmin(f32x4.pmin(
            f32x4.pmin(
              f32x4.mul(f32x4.sub(v128.load(node + farX), ox), fx),
              f32x4.mul(f32x4.sub(v128.load(node + farY), oy), fy),
            ),
            f32x4.mul(f32x4.sub(v128.load(node + farZ), oz), fz),
          ), end);
      const n1 = f32x4.pmax(
        f32x4.pmax(
          f32x4.mul(f32x4.sub(v128.load(node + nearX, 16), ox), ix),
          f32x4.mul(f32x4.sub(v128.load(node + nearY, 16), oy), iy),
        ),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nearZ, 16), oz), iz), start),
      );
      const f1 = f32x4.pmin(f32x4.pmin(
            f32x4.pmin(
              f32x4.mul(f32x4.sub(v128.load(node + farX, 16), ox), fx),
              f32x4.mul(f32x4.sub(v128.load(node + farY, 16), oy), fy),
            ),
            f32x4.mul(f32x4.sub(v128.load(node + farZ, 16), oz), fz),
          ), end);
      const h0 = f32x4.le(n0, f0);
      const h1 = f32x4.le(n1, f1);
      const met = i32x4.bitmask(h0) | (i32x4.bitmask(h1) << 4);
      if (met) {
        if ((met & (met - 1)) == 0) {
          current = load<i32>(node + (<usize>ctz(met) << 2), 192);
          continue;
        }
        // The nearest is next, the others wait in no order: those behind the hit are dropped when their turn comes.
        const k0 = v128.bitselect(n0, f32x4.splat(Infinity), h0);
        const k1 = v128.bitselect(n1, f32x4.splat(Infinity), h1);
        let least = f32x4.pmin(k0, k1);
        least = f32x4.pmin(least, v128.shuffle<f32>(least, least, 2, 3, 0, 1));
        least = f32x4.pmin(least, v128.shuffle<f32>(least, least, 1, 0, 3, 2));
        const nearest = i32x4.bitmask(f32x4.eq(k0, least)) | (i32x4.bitmask(f32x4.eq(k1, least)) << 4);
        current = load<i32>(node + (<usize>ctz(nearest) << 2), 192);
        const others = met & ~(nearest & -nearest);
        const s0 = v128.load(table + (<usize>(others & 15) << 4));
        v128.store(top, v128.swizzle(v128.load(node, 192), s0));
        v128.store(top, v128.swizzle(n0, s0), FARS);
        top += <usize>popcnt(others & 15) << 2;
        const s1 = v128.load(table + (<usize>(others >> 4) << 4));
        v128.store(top, v128.swizzle(v128.load(node, 208), s1));
        v128.store(top, v128.swizzle(n1, s1), FARS);
        top += <usize>popcnt(others >> 4) << 2;
        continue;
      }
    } else {
      let p = blocks + <usize>((current & 0x7fffffff) >> 3) * BLOCK;
      const stop = p + <usize>((current & 7) + 1) * BLOCK;
      for (; p < stop; p += BLOCK) {
        const a2 = f32x4.sub(v128.load(p + bz), pz);
        const b2 = f32x4.sub(v128.load(p + bz, 48), pz);
        const c2 = f32x4.sub(v128.load(p + bz, 96), pz);
        const a0 = f32x4.sub(f32x4.sub(v128.load(p + bx), px), f32x4.mul(shearX, a2));
        const a1 = f32x4.sub(f32x4.sub(v128.load(p + by), py), f32x4.mul(shearY, a2));
        const b0 = f32x4.sub(f32x4.sub(v128.load(p + bx, 48), px), f32x4.mul(shearX, b2));
        const b1 = f32x4.sub(f32x4.sub(v128.load(p + by, 48), py), f32x4.mul(shearY, b2));
        const c0 = f32x4.sub(f32x4.sub(v128.load(p + bx, 96), px), f32x4.mul(shearX, c2));
        const c1 = f32x4.sub(f32x4.sub(v128.load(p + by, 96), py), f32x4.mul(shearY, c2));
        const u = f32x4.sub(f32x4.mul(c0, b1), f32x4.mul(c1, b0));
        const v = f32x4.sub(f32x4.mul(a0, c1), f32x4.mul(a1, c0));
        const w = f32x4.sub(f32x4.mul(b0, a1), f32x4.mul(b1, a0));
        const least = f32x4.pmin(f32x4.pmin(u, v), w);
        const most = f32x4.pmax(f32x4.pmax(u, v), w);
        let inside =
          sides == 0
            ? v128.or(f32x4.ge(least, zero), f32x4.le(most, zero))
            : sides == 1
              ? f32x4.ge(least, zero)
              : f32x4.le(most, zero);
        const det = f32x4.add(f32x4.add(u, v), w);
        inside = v128.and(inside, f32x4.ne(det, zero));
        if (!v128.any_true(inside)) continue;
        const t = f32x4.div(
          f32x4.mul(shearZ, f32x4.add(f32x4.add(f32x4.mul(u, a2), f32x4.mul(v, b2)), f32x4.mul(w, c2))),
          det,
        );
        let bits = i32x4.bitmask(v128.and(inside, v128.and(f32x4.ge(t, start), f32x4.le(t, end))));
        if (!bits) continue;
        const over = f32x4.div(f32x4.splat(1), det);
        const t1 = near;
        v128.store(t1, t);
        do {
          const k = <usize>ctz(bits) << 2;
          bits &= bits - 1;
          const d = load<f32>(t1 + k);
          const id = load<i32>(p + k, 144);
          if (d < best || (d == best && (bestId < 0 || id < bestId))) {
            best = d;
            bestId = id;
            v128.store(near, f32x4.mul(v, over), 16);
            bestU = load<f32>(near + k, 16);
            v128.store(near, f32x4.mul(w, over), 16);
            bestV = load<f32>(near + k, 16);
          }
        } while (bits);
        end = f32x4.splat(best);
      }
    }
    do {
      if (top == stack) {
        store<f32>(hit, best);
        store<i32>(hit, bestId, 4);
        store<f32>(hit, bestU, 8);
        store<f32>(hit, bestV, 12);
        return;
      }
      top -= 4;
    } while (load<f32>(top, FARS) > best);
    current = load<i32>(top);
  }
}

/** Whether each ray meets anything between `from` and `to`: 1 or 0, a byte a ray. Rays as in `closest`; both sides of triangles count. */
export function any(rays: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i++) store<u8>(out + <usize>i, meets(rays + (<usize>i << 5)) ? 1 : 0);
}

function meets(ray: usize): bool {
  const start = f32x4.splat(load<f32>(ray, 12));
  const end = f32x4.splat(load<f32>(ray, 28));
  const x = load<f32>(ray, 16);
  const y = load<f32>(ray, 20);
  const z = load<f32>(ray, 24);
  const ox = f32x4.splat(load<f32>(ray));
  const oy = f32x4.splat(load<f32>(ray, 4));
  const oz = f32x4.splat(load<f32>(ray, 8));
  const rx = <f32>1 / away(x);
  const ry = <f32>1 / away(y);
  const rz = <f32>1 / away(z);
  const ix = f32x4.splat(rx);
  const iy = f32x4.splat(ry);
  const iz = f32x4.splat(rz);
  const fx = f32x4.splat(rx * FAR);
  const fy = f32x4.splat(ry * FAR);
  const fz = f32x4.splat(rz * FAR);
  const nearX: usize = rx < 0 ? 32 : 0;
  const nearY: usize = ry < 0 ? 96 : 64;
  const nearZ: usize = rz < 0 ? 160 : 128;
  const farX: usize = 32 - nearX;
  const farY: usize = 160 - nearY;
  const farZ: usize = 288 - nearZ;
  const ax = abs<f32>(x);
  const ay = abs<f32>(y);
  const az = abs<f32>(z);
  const kz: usize = ax > ay ? (ax > az ? 0 : 8) : ay > az ? 4 : 8;
  const kx: usize = kz == 8 ? 0 : kz + 4;
  const ky: usize = kx == 8 ? 0 : kx + 4;
  const sz = <f32>1 / load<f32>(ray + kz, 16);
  const shearX = f32x4.splat(load<f32>(ray + kx, 16) * sz);
  const shearY = f32x4.splat(load<f32>(ray + ky, 16) * sz);
  const shearZ = f32x4.splat(sz);
  const px = f32x4.splat(load<f32>(ray + kx));
  const py = f32x4.splat(load<f32>(ray + ky));
  const pz = f32x4.splat(load<f32>(ray + kz));
  const bx = kx << 2;
  const by = ky << 2;
  const bz = kz << 2;
  const zero = f32x4.splat(0);
  // What stopped the last ray in about this direction (signs and longest axis) often stops this one too.
  const kind = stopped + ((<usize>(<i32>(rx < 0) | (<i32>(ry < 0) << 1) | (<i32>(rz < 0) << 2)) * 3) << 2) + kz;
  let top = stack;
  let current = load<i32>(kind);
  if (current) {
    store<i32>(top, 0);
    top += 4;
  }
  while (true) {
    if (current >= 0) {
      const node = nodes + <usize>current * NODE;
      const n0 = f32x4.pmax(
        f32x4.pmax(
          f32x4.mul(f32x4.sub(v128.load(node + nearX), ox), ix),
          f32x4.mul(f32x4.sub(v128.load(node + nearY), oy), iy),
        ),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nearZ), oz), iz), start),
      );
      const f0 = f32x4.pmin(f32x4.pmin(
            f32x4.pmin(
              f32x4.mul(f32x4.sub(v128.load(node + farX), ox), fx),
              f32x4.mul(f32x4.sub(v128.load(node + farY), oy), fy),
            ),
            f32x4.mul(f32x4.sub(v128.load(node + farZ), oz), fz),
          ), end);
      const n1 = f32x4.pmax(
        f32x4.pmax(
          f32x4.mul(f32x4.sub(v128.load(node + nearX, 16), ox), ix),
          f32x4.mul(f32x4.sub(v128.load(node + nearY, 16), oy), iy),
        ),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nearZ, 16), oz), iz), start),
      );
      const f1 = f32x4.pmin(f32x4.pmin(
            f32x4.pmin(
              f32x4.mul(f32x4.sub(v128.load(node + farX, 16), ox), fx),
              f32x4.mul(f32x4.sub(v128.load(node + farY, 16), oy), fy),
            ),
            f32x4.mul(f32x4.sub(v128.load(node + farZ, 16), oz), fz),
          ), end);
      const m0 = <usize>i32x4.bitmask(f32x4.le(n0, f0));
      const m1 = <usize>i32x4.bitmask(f32x4.le(n1, f1));
      v128.store(top, v128.swizzle(v128.load(node, 192), v128.load(table + (m0 << 4))));
      top += <usize>popcnt(m0) << 2;
      v128.store(top, v128.swizzle(v128.load(node, 208), v128.load(table + (m1 << 4))));
      top += <usize>popcnt(m1) << 2;
    } else {
      let p = blocks + <usize>((current & 0x7fffffff) >> 3) * BLOCK;
      const stop = p + <usize>((current & 7) + 1) * BLOCK;
      for (; p < stop; p += BLOCK) {
        const a2 = f32x4.sub(v128.load(p + bz), pz);
        const b2 = f32x4.sub(v128.load(p + bz, 48), pz);
        const c2 = f32x4.sub(v128.load(p + bz, 96), pz);
        const a0 = f32x4.sub(f32x4.sub(v128.load(p + bx), px), f32x4.mul(shearX, a2));
        const a1 = f32x4.sub(f32x4.sub(v128.load(p + by), py), f32x4.mul(shearY, a2));
        const b0 = f32x4.sub(f32x4.sub(v128.load(p + bx, 48), px), f32x4.mul(shearX, b2));
        const b1 = f32x4.sub(f32x4.sub(v128.load(p + by, 48), py), f32x4.mul(shearY, b2));
        const c0 = f32x4.sub(f32x4.sub(v128.load(p + bx, 96), px), f32x4.mul(shearX, c2));
        const c1 = f32x4.sub(f32x4.sub(v128.load(p + by, 96), py), f32x4.mul(shearY, c2));
        const u = f32x4.sub(f32x4.mul(c0, b1), f32x4.mul(c1, b0));
        const v = f32x4.sub(f32x4.mul(a0, c1), f32x4.mul(a1, c0));
        const w = f32x4.sub(f32x4.mul(b0, a1), f32x4.mul(b1, a0));
        const least = f32x4.pmin(f32x4.pmin(u, v), w);
        const most = f32x4.pmax(f32x4.pmax(u, v), w);
        const det = f32x4.add(f32x4.add(u, v), w);
        const inside = v128.and(
          v128.or(f32x4.ge(least, zero), f32x4.le(most, zero)),
          f32x4.ne(det, zero),
        );
        if (!v128.any_true(inside)) continue;
        const t = f32x4.div(
          f32x4.mul(shearZ, f32x4.add(f32x4.add(f32x4.mul(u, a2), f32x4.mul(v, b2)), f32x4.mul(w, c2))),
          det,
        );
        if (v128.any_true(v128.and(inside, v128.and(f32x4.ge(t, start), f32x4.le(t, end))))) {
          store<i32>(kind, 0x80000000 | (<i32>((p - blocks) / BLOCK) << 3));
          return true;
        }
      }
    }
    if (top == stack) return false;
    top -= 4;
    current = load<i32>(top);
  }
}
