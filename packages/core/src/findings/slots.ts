import type { SurveyFacts } from '../survey/facts.ts';
import { type Finding, few } from './finding.ts';
import { groupBy } from './group-by.ts';
import { mergedDuplicates } from './uvs.ts';

const indices = (n: number) => Array.from({ length: n }, (_, i) => i);

/** Materials that are the same, or the same but for numbers. */
export function duplicateMaterials(facts: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  const byLook = groupBy(indices(facts.slots.length), (i) => facts.slots[i].look);
  const duplicates = [...byLook.values()].filter((g) => g.length > 1);
  for (const group of duplicates) {
    const names = [...new Set(group.map((i) => facts.slots[i].name))];
    // Inside one model two slots of one look are draw calls for nothing.
    const saved = [...groupBy(group, (i) => facts.slots[i].model).values()].reduce((sum, g) => sum + g.length - 1, 0);
    out.push({
      code: 'duplicate-materials',
      severity: 'info',
      subject: names[0],
      message: `${group.length} slots look exactly alike: ${few(names)}`,
      saves: saved > 0 ? { drawCalls: saved } : {},
      objects: { slots: group, models: [...new Set(group.map((i) => facts.slots[i].model))] },
      action: { do: 'repair', label: 'Share one copy', repairs: { shareDuplicates: true } },
    });
  }
  const firstOfLook = [...byLook.values()].map((g) => g[0]);
  for (const group of groupBy(firstOfLook, (i) => facts.slots[i].apartFromFactors).values()) {
    if (group.length < 2) continue;
    const all = group.flatMap((i) => byLook.get(facts.slots[i].look) ?? []);
    const names = [...new Set(all.map((i) => facts.slots[i].name))];
    const plain = Object.keys(facts.slots[group[0]].images).length === 0;
    out.push({
      code: 'factor-materials',
      severity: 'info',
      subject: names[0],
      message: `${group.length} materials differ only by ${plain ? 'plain colours and values' : 'factors'}: ${few(names)}; as swatches of one sheet they are one material`,
      saves: { drawCalls: mergedCalls(facts, all) },
      objects: { slots: all, models: [...new Set(all.map((i) => facts.slots[i].model))] },
      action: { do: 'route-together', label: 'Route these to one palette sheet', slots: names },
    });
  }
  return out;
}

/** Draw calls that go when slots of one class become one slot in every model, with parts joined where nothing stands against it. */
function mergedCalls(facts: SurveyFacts, slots: number[]): number {
  let saved = 0;
  for (const group of groupBy(slots, (i) => `${facts.slots[i].model} ${facts.slots[i].classKey}`).values()) {
    const parts = group.flatMap((i) => facts.slots[i].parts);
    const joinable = parts.filter((part) => part.joinable && !part.apart && part.drawCalls === 1);
    saved += Math.max(0, joinable.length - 1);
  }
  return saved;
}

/** Draw calls that need not be: slots that could be one, parts that could be joined. */
export function spareDrawCalls(facts: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  facts.models.forEach((model, at) => {
    const own = facts.slots.flatMap((slot, i) => (slot.model === at ? [i] : []));
    const free = own.filter((i) => !facts.slots[i].obstacle);
    for (const group of groupBy(free, (i) => facts.slots[i].classKey).values()) {
      const saved = mergedCalls(facts, group);
      if (group.length < 2 || saved === 0) continue;
      out.push({
        code: 'mergeable-slots',
        severity: 'warning',
        subject: model.path,
        message: `${group.length} slots of ${model.path} could be one: ${few(group.map((i) => facts.slots[i].name))}`,
        saves: { drawCalls: saved },
        objects: { models: [at], slots: group },
        action: { do: 'go', label: 'Merge them on a sheet', to: 'plan' },
      });
    }
    let joined = 0;
    const slots: number[] = [];
    for (const i of own) {
      const parts = facts.slots[i].parts.filter((part) => part.joinable && !part.apart && part.drawCalls === 1);
      if (parts.length < 2) continue;
      joined += parts.length - 1;
      slots.push(i);
    }
    if (joined > 0)
      out.push({
        code: 'joinable-parts',
        severity: 'info',
        subject: model.path,
        message: `parts of ${model.path} share slots (${few(slots.map((i) => facts.slots[i].name))}) and nothing moves or names them apart`,
        saves: { drawCalls: joined },
        objects: { models: [at], slots },
        action: { do: 'join', label: 'Join parts that share a slot' },
      });
  });
  return out;
}

/** Blending that costs and shows nothing, and all that blends. */
export function blendedSlots(facts: SurveyFacts): Finding[] {
  const byKey = new Map(facts.pictures.map((picture) => [picture.key, picture]));
  return facts.slots.flatMap((slot, i): Finding[] => {
    if (slot.alphaMode !== 'BLEND') return [];
    const picture = slot.images.baseColor ? byKey.get(slot.images.baseColor) : undefined;
    const least = slot.alphaFactor * (picture?.min[3] ?? 1);
    const colours = slot.parts.some((part) => part.colours);
    if (least >= 1 - 1 / 255 && !colours)
      return [
        {
          code: 'needless-blending',
          severity: 'warning',
          subject: slot.name,
          message: `"${slot.name}" is alpha-blended over ${area(slot.surface)}, but opaque everywhere`,
          saves: {},
          objects: { slots: [i], models: [slot.model] },
          action: { do: 'repair', label: 'Draw it opaque', repairs: { opaque: [slot.name] } },
        },
      ];
    return [
      {
        code: 'alpha-blended',
        severity: 'info',
        subject: slot.name,
        message: `"${slot.name}" is alpha-blended over ${area(slot.surface)}: it is sorted, and drawn over what lies behind`,
        saves: {},
        objects: { slots: [i], models: [slot.model] },
        action: { do: 'keep-apart', label: 'Keep it apart', slots: [slot.name] },
      },
    ];
  });
}

function area(m2: number): string {
  return m2 >= 0.1 ? `${m2.toFixed(m2 < 10 ? 2 : 0)} m²` : `${(m2 * 1e4).toFixed(0)} cm²`;
}

/** Density that is far from the target, or far from that of its neighbours. */
export function densityFindings(facts: SurveyFacts, target: number | null): Finding[] {
  return mergedDuplicates(facts, densityPerSlot(facts, target));
}

function densityPerSlot(facts: SurveyFacts, target: number | null): Finding[] {
  return facts.slots.flatMap((slot, i): Finding[] => {
    const out: Finding[] = [];
    if (target !== null && slot.density && slot.density.median < target / 2)
      out.push({
        code: 'low-density',
        severity: 'warning',
        subject: slot.name,
        message: `"${slot.name}" has ${Math.round(slot.density.median)} px/m (median), less than half of the ${target} px/m that are wanted`,
        saves: {},
        objects: { slots: [i], models: [slot.model] },
        action: { do: 'go', label: 'Give it more room', to: 'plan' },
      });
    const tiles = slot.uv?.tiles ?? [];
    const dense = (slot.uv?.tileDensity ?? []).filter((d) => d > 0);
    if (tiles.length > 1 && dense.length > 1) {
      const [low, high] = [Math.min(...dense), Math.max(...dense)];
      if (high > low * 1.25)
        out.push({
          code: 'uneven-tiles',
          severity: 'warning',
          subject: slot.name,
          message: `the UV tiles of "${slot.name}" have ${Math.round(low)} to ${Math.round(high)} px/m: seams will show`,
          saves: {},
          objects: { slots: [i], models: [slot.model] },
          action: { do: 'go', label: 'Even it out on a sheet', to: 'plan' },
        });
    }
    if (slot.uv?.stretch && slot.uv.stretch.median > 2)
      out.push({
        code: 'stretched-uvs',
        severity: 'info',
        subject: slot.name,
        message: `half of "${slot.name}" is stretched ${slot.uv.stretch.median.toFixed(1)} : 1 or more`,
        saves: {},
        objects: { slots: [i], models: [slot.model] },
        action: { do: 'go', label: 'See its layout', to: 'uv' },
      });
    return out;
  });
}
