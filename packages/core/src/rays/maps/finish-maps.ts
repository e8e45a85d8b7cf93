import { nearestFeature } from '@wembrel/kernels/nearest';
import { MAP_FORMS } from '../../decisions/map-kinds.ts';
import { pullPush } from '../../image/pull-push.ts';
import { linearToSrgb, srgbToLinear } from '../../image/srgb.ts';
import { type BakedMap, decodeValue, encodeValue, type RayMaps } from './baked-maps.ts';
import { FAULT } from './fault-kinds.ts';

/**
 * Fills what was missed inside islands from the nearest hit, carries colours outward by up to `padding` px by the exact nearest texel (see `padSheet`), and fills
 * all beyond smoothly; exact colours and masks take the nearest texel everywhere. Opacity is not filled inside islands: a miss is a hole there.
 */
export function fillMaps(out: RayMaps, padding: number): void {
  const { width, height, island, hit } = out;
  const nearest = nearestFeature(hit, width, height);
  const limit = padding * padding;
  const near = new Uint8Array(nearest.length);
  for (let i = 0; i < nearest.length; i++) {
    const s = nearest[i];
    if (s < 0) continue;
    const dx = (s % width) - (i % width);
    const dy = Math.floor(s / width) - Math.floor(i / width);
    near[i] = Number(island[i] > 0 || dx * dx + dy * dy <= limit);
  }
  for (const map of out.maps) {
    const everywhere = map.kind === 'opacity' || MAP_FORMS[map.kind].holds === 'exact';
    for (let i = 0; i < nearest.length; i++) {
      const s = nearest[i];
      if (s < 0 || s === i || (near[i] === 0 && !everywhere)) continue;
      if (map.kind === 'opacity' && island[i] > 0) continue;
      for (let c = 0; c < map.channels; c++) map.data[i * map.channels + c] = map.data[s * map.channels + c];
    }
    if (!everywhere) fillBeyond(out, map, near);
  }
}

/** Fills a map smoothly where it is far from all islands. */
function fillBeyond({ width, height }: RayMaps, map: BakedMap, known: Uint8Array): void {
  const { channels, data } = map;
  const vector = MAP_FORMS[map.kind].holds === 'vector';
  pullPush({
    width,
    height,
    channels,
    known,
    read: (i, values) => {
      for (let c = 0; c < channels; c++) values[c] = decodeValue(map, data[i * channels + c]);
    },
    write: (i, values) => {
      const length = vector ? Math.sqrt(values[0] ** 2 + values[1] ** 2 + values[2] ** 2) || 1 : 1;
      for (let c = 0; c < channels; c++) data[i * channels + c] = encodeValue(map, values[c] / length);
    },
  });
}

/** Marks texels of islands that come nearer to another island than the margin. */
export function markThinMargins(out: RayMaps, margin: number): void {
  const { width, height, island, faults } = out;
  if (margin <= 0) return;
  const reach = Math.ceil(margin);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const own = island[y * width + x];
      if (own === 0) continue;
      // Only the rim of an island can be near another.
      const rim =
        x === 0 ||
        y === 0 ||
        x === width - 1 ||
        y === height - 1 ||
        island[y * width + x - 1] !== own ||
        island[y * width + x + 1] !== own ||
        island[(y - 1) * width + x] !== own ||
        island[(y + 1) * width + x] !== own;
      if (!rim) continue;
      search: for (let dy = -reach; dy <= reach; dy++)
        for (let dx = -reach; dx <= reach; dx++) {
          // Texels between the two: one less than the distance of their places.
          if (dx * dx + dy * dy > margin * margin) continue;
          const [u, v] = [x + dx, y + dy];
          if (u < 0 || v < 0 || u >= width || v >= height) continue;
          const other = island[v * width + u];
          if (other === 0 || other === own) continue;
          faults[y * width + x] |= FAULT.thin;
          break search;
        }
    }
}

/**
 * Mixes exact colours where two meet, over a width, within islands: each texel takes the share of the two colours that are most frequent around it, and
 * no third.
 * @param width px
 */
export function softenIds(out: RayMaps, map: BakedMap, across: number): void {
  if (across <= 0) return;
  const { width, height, island, hit } = out;
  const source = map.data.slice();
  const radius = across / 2;
  const reach = Math.ceil(radius);
  const key = (i: number) => source[i * 3] | (source[i * 3 + 1] << 8) | (source[i * 3 + 2] << 16);
  const counts = new Map<number, number>();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!hit[i]) continue;
      counts.clear();
      for (let dy = -reach; dy <= reach; dy++)
        for (let dx = -reach; dx <= reach; dx++) {
          const [u, v] = [x + dx, y + dy];
          if (u < 0 || v < 0 || u >= width || v >= height) continue;
          const j = v * width + u;
          if (!hit[j] || island[j] !== island[i]) continue;
          // Texels at the rim of the disc count by how much of them is inside.
          const w = Math.min(1, Math.max(0, radius + 0.5 - Math.sqrt(dx * dx + dy * dy)));
          if (w > 0) counts.set(key(j), (counts.get(key(j)) ?? 0) + w);
        }
      if (counts.size < 2) continue;
      const [[a, wa], [b, wb]] = [...counts].sort(([c, n], [d, m]) => m - n || c - d);
      for (let c = 0; c < 3; c++) {
        const [p, q] = [(a >> (8 * c)) & 255, (b >> (8 * c)) & 255].map((n) => srgbToLinear(n / 255));
        map.data[i * 3 + c] = Math.round(linearToSrgb((p * wa + q * wb) / (wa + wb)) * 255);
      }
    }
}
