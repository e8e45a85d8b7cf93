import type { SlotFacts } from '../survey/slot-facts.ts';
import { addTextureBytes, NO_TEXTURE_BYTES, type TextureBytes, textureBytes } from '../survey/texture-memory.ts';
import { SWATCH_SIDE } from '../uv/plots.ts';
import { APART, type MergeDecisions } from './decisions.ts';
import { describeClass, emptiest, repeatsReason } from './route.ts';

/** Where a slot goes and what it carries there. */
export interface Flow {
  /** Position in the facts. */
  slot: number;
  /** Position in the decisions' sheets, or −1: kept apart. */
  sheet: number;
  /** Why it is kept apart. */
  code?: string;
  reason?: string;
  /** It was not routed by hand. */
  spread: boolean;
}

export interface PredictedSheet {
  /** Share that its islands will cover. */
  coverage: number;
  /** px per texel of the sources, at most 1. */
  scale: number;
  slots: number;
  bays: number;
  bytes: TextureBytes;
}

export interface Prediction {
  flows: Flow[];
  sheets: PredictedSheet[];
  drawCalls: number;
  slots: number;
  textures: number;
  bytes: TextureBytes;
  triangles: number;
  /** Area-weighted 5 % of the texel density on sheets, px/m; null when nothing is merged. */
  lowestDensity: number | null;
}

/** Size of a picture by its key. */
export type PictureSizes = (key: string) => { width: number; height: number };

/** Share of a sheet that islands with their margins are assumed to fill: an assumption, not a measurement. */
const FILL = 0.8;

/** What of that is left for the islands alone at even density, where their margins are not counted one by one: assumed as well. */
const EVEN_FILL = 0.85;

/**
 * What a plan will cost, before anything is packed or baked. Draw calls, slots, textures and memory are exact; coverage,
 * scale and density are estimates. Pure and quick: it runs while a slot is being dragged.
 */
export function predict(slots: SlotFacts[], decisions: MergeDecisions, sizes: PictureSizes): Prediction {
  const flows = resolveRoutes(slots, decisions);
  const sheets = decisions.sheets.map((sheet, s): PredictedSheet => {
    const own = flows.filter((f) => f.sheet === s).map((f) => slots[f.slot]);
    const byLook = new Map<string, SlotFacts[]>();
    for (const f of own) byLook.set(f.look, [...(byLook.get(f.look) ?? []), f]);
    // A slot of one colour takes a swatch.
    const bays = [...byLook.values()].flatMap((twins) => {
      const areas = distinctAreas(twins);
      return areas.length > 0 ? areas : [0];
    });
    const scale = estimateScale(bays, sheet.size, sheet.margin);
    const area = bays.reduce((n, a) => n + (a > 0 ? a * scale * scale : SWATCH_SIDE ** 2), 0);
    let bytes: TextureBytes = { ...NO_TEXTURE_BYTES };
    if (own.length > 0) {
      const maps = 2 + Number(own.some((f) => f.maps.normal)) + Number(own.some((f) => f.maps.emissive));
      for (let i = 0; i < maps; i++) bytes = addTextureBytes(bytes, textureBytes(sheet.size, sheet.size));
    }
    return { coverage: Math.min(1, area / sheet.size ** 2), scale, slots: own.length, bays: bays.length, bytes };
  });
  const kept = new Map<string, TextureBytes>();
  for (const f of flows) {
    if (f.sheet >= 0) continue;
    for (const [channel, key] of Object.entries(slots[f.slot].images)) {
      const colour = channel === 'baseColor' || channel === 'emissive';
      const { width, height } = sizes(key);
      kept.set(`${key}:${colour}`, textureBytes(width, height));
    }
  }
  const used = sheets.filter((s) => s.slots > 0);
  const mapCount = decisions.sheets.reduce((n, _, s) => {
    const own = flows.filter((f) => f.sheet === s).map((f) => slots[f.slot]);
    if (own.length === 0) return n;
    return n + 2 + Number(own.some((f) => f.maps.normal)) + Number(own.some((f) => f.maps.emissive));
  }, 0);
  return {
    flows,
    sheets,
    drawCalls: predictDrawCalls(slots, flows, decisions),
    slots: outputSlots(slots, flows),
    textures: mapCount + kept.size,
    bytes: [...used.map((s) => s.bytes), ...kept.values()].reduce(addTextureBytes, { ...NO_TEXTURE_BYTES }),
    triangles: slots.reduce((n, f) => n + f.parts.reduce((k, p) => k + p.triangles, 0), 0),
    lowestDensity: lowestDensity(slots, flows, sheets, decisions),
  };
}

/** Which sheet each slot goes to: by hand, else to the emptiest sheet, largest first. Same rules as `route` and `spread`. */
function resolveRoutes(slots: SlotFacts[], decisions: MergeDecisions): Flow[] {
  const flows = slots.map((f, i): Flow => {
    const route = decisions.routes[f.name];
    const apart = (code: string, reason: string): Flow => ({ slot: i, sheet: -1, code, reason, spread: false });
    if (route === APART) return apart('named', 'kept apart by name');
    if (f.obstacle) return apart(f.obstacle.code, f.obstacle.reason);
    if (f.repeats > decisions.maxRepeats + 1e-4)
      return apart('repeats', repeatsReason(f.repeats, decisions.maxRepeats));
    const sheet = decisions.sheets.findIndex((s) => s.id === route);
    return { slot: i, sheet, spread: sheet < 0 };
  });
  const counts = new Map<string, number>();
  for (const f of flows) if (!f.code) counts.set(slots[f.slot].classKey, (counts.get(slots[f.slot].classKey) ?? 0) + 1);
  const largest = [...counts].reduce((best, c) => (c[1] > best[1] ? c : best), ['', 0])[0];
  for (const f of flows) {
    const s = slots[f.slot];
    if (f.code || s.classKey === largest || (counts.get(s.classKey) as number) > 1) continue;
    f.sheet = -1;
    f.spread = false;
    f.code = 'alone';
    f.reason = `${describeClass(s.classKey)}, as no other slot is; merging it would save no draw call`;
  }
  // Twins that are not routed apart by hand stay together, so areas are counted once a look.
  const load = decisions.sheets.map(() => 0);
  const groups = new Map<string, Flow[]>();
  for (const f of flows) {
    if (f.code) continue;
    const key = `${f.spread ? '' : f.sheet}:${slots[f.slot].look}`;
    const list = groups.get(key);
    if (list) list.push(f);
    else groups.set(key, [f]);
  }
  const area = (list: Flow[]) => distinctAreas(list.map((f) => slots[f.slot])).reduce((n, a) => n + a, 0);
  const sizes = decisions.sheets.map((s) => s.size);
  const waiting: Flow[][] = [];
  for (const list of groups.values()) {
    if (list[0].spread) waiting.push(list);
    else load[list[0].sheet] += area(list);
  }
  waiting.sort((a, b) => area(b) - area(a));
  for (const list of waiting) {
    const best = emptiest(load, sizes, area(list));
    load[best] += area(list);
    for (const f of list) f.sheet = best;
  }
  return flows;
}

/** Areas of the islands of twins, those that sample the same texels once. */
function distinctAreas(twins: SlotFacts[]): number[] {
  return [...new Map(twins.flatMap((f) => f.islands.map((i) => [i.key, i.area] as const))).values()];
}

/** The scale at which the islands with half a margin around each fill the usable share of a sheet. */
function estimateScale(bays: number[], size: number, margin: number): number {
  const taken = (s: number) => bays.reduce((n, a) => n + ((a > 0 ? Math.sqrt(a) * s : SWATCH_SIDE) + margin) ** 2, 0);
  const room = FILL * size * size;
  if (taken(1) <= room) return 1;
  let low = 0;
  let high = 1;
  for (let i = 0; i < 40; i++) {
    const mid = (low + high) / 2;
    if (taken(mid) <= room) low = mid;
    else high = mid;
  }
  return low;
}

function outputSlots(slots: SlotFacts[], flows: Flow[]): number {
  const perModel = new Set<string>();
  for (const f of flows) {
    const s = slots[f.slot];
    perModel.add(f.sheet < 0 ? `${s.model}:own ${s.slot}` : `${s.model}:${f.sheet} ${s.classKey}`);
  }
  return perModel.size;
}

/** Follows `joinParts`: first inside each mesh, then across nodes that nothing keeps apart. */
function predictDrawCalls(slots: SlotFacts[], flows: Flow[], decisions: MergeDecisions): number {
  let calls = 0;
  const inMesh = new Map<string, { calls: number; apart: boolean; across: string }>();
  for (const f of flows) {
    const s = slots[f.slot];
    const merged = f.sheet >= 0;
    const withNormals = merged && flows.some((g) => g.sheet === f.sheet && slots[g.slot].maps.normal);
    const material = merged ? `sheet ${f.sheet} ${s.classKey}` : `own ${s.slot}`;
    for (const p of s.parts) {
      if (!decisions.join || !p.joinable || p.drawCalls === 0) {
        calls += p.drawCalls;
        continue;
      }
      const across = `${s.model}:${material} ${(merged ? mergedSemantics(p, withNormals) : p.semantics).join(' ')}`;
      inMesh.set(`${across} mesh ${p.mesh}`, { calls: p.drawCalls, apart: p.apart, across });
    }
  }
  const joined = new Set<string>();
  for (const group of inMesh.values()) {
    if (group.apart) calls += group.calls;
    else joined.add(group.across);
  }
  return calls + joined.size;
}

/** Attributes of a part after it has been merged; see `applyTargets`. */
function mergedSemantics(p: SlotFacts['parts'][number], withNormals: boolean): string[] {
  const kept = p.semantics.filter((s) => {
    const set = /^TEXCOORD_(\d+)$/.exec(s)?.[1];
    return s !== 'TANGENT' && (set === undefined || (set !== '0' && !p.uvSets.includes(Number(set))));
  });
  const others = kept.filter((s) => !s.startsWith('TEXCOORD_'));
  const uvs = kept.length - others.length + 1;
  const out = new Set([...others, 'NORMAL', ...Array.from({ length: uvs }, (_, i) => `TEXCOORD_${i}`)]);
  if (withNormals) out.add('TANGENT');
  return [...out].sort();
}

function lowestDensity(
  slots: SlotFacts[],
  flows: Flow[],
  sheets: PredictedSheet[],
  decisions: MergeDecisions,
): number | null {
  const rows: { density: number; surface: number }[] = [];
  for (const f of flows) {
    const s = slots[f.slot];
    if (f.sheet < 0 || !s.density) continue;
    rows.push({ density: s.density.p5 * sheets[f.sheet].scale, surface: s.surface });
  }
  if (rows.length === 0) return null;
  if (decisions.scale === 'even') return evenDensity(slots, flows, sheets, decisions);
  rows.sort((a, b) => a.density - b.density);
  const total = rows.reduce((n, r) => n + r.surface, 0);
  let seen = 0;
  for (const r of rows) {
    seen += r.surface;
    if (seen >= 0.05 * total) return r.density;
  }
  return rows[rows.length - 1].density;
}

function evenDensity(
  slots: SlotFacts[],
  flows: Flow[],
  sheets: PredictedSheet[],
  decisions: MergeDecisions,
): number | null {
  let lowest = Infinity;
  sheets.forEach((_, i) => {
    const own = flows.filter((f) => f.sheet === i && slots[f.slot].density).map((f) => slots[f.slot]);
    const surface = own.reduce((n, s) => n + s.surface, 0);
    if (surface === 0) return;
    const filled = Math.sqrt((FILL * EVEN_FILL * decisions.sheets[i].size ** 2) / surface);
    const sharpest = Math.max(...own.map((s) => s.density?.median ?? 0));
    lowest = Math.min(lowest, filled, sharpest);
  });
  return Number.isFinite(lowest) ? lowest : null;
}
