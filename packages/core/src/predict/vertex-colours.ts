import type { Read } from '../decisions/reads.ts';
import { APART, routeOf, type SlotTraits } from '../decisions/rules.ts';
import type { Obstacle } from '../plan/assign.ts';
import type { PlanSlot } from './plan-slot.ts';

/** What decides whether the colour of a slot goes into its vertices. */
export type ColourDecisions = Read<'colouring'>;

/** Why the base colour of a slot cannot be kept in vertex colours, or null: it may have a base colour picture, and no other. */
export function uncoloured(
  alphaMode: PlanSlot['alphaMode'],
  channels: readonly string[],
  obstacle: Obstacle | null,
): string | null {
  if (obstacle) return obstacle.reason;
  if (alphaMode === 'MASK') return 'it is alpha-tested';
  return channels.some((channel) => channel !== 'baseColor') ? 'it has other maps than base colour' : null;
}

/** True when the plan puts the slot's colour into its vertices: it says so, it can be, and the slot is not kept apart. */
export function isColoured(
  s: SlotTraits & { obstacle: Obstacle | null },
  channels: readonly string[],
  decisions: ColourDecisions,
): boolean {
  if (decisions.keepAll || !decisions.vertexColours.includes(s.name)) return false;
  return uncoloured(s.alphaMode, channels, s.obstacle) === null && routeOf(decisions, s)?.to !== APART;
}

/** Slots as they are once colours have gone into vertices: of one colour, white, a swatch. */
export function withVertexColours(slots: readonly PlanSlot[], decisions: ColourDecisions): readonly PlanSlot[] {
  if (decisions.vertexColours.length === 0) return slots;
  return slots.map((slot): PlanSlot => {
    const traits = { ...slot, model: slot.path, pictures: Object.values(slot.images) };
    if (!isColoured(traits, Object.keys(slot.images), decisions)) return slot;
    const none = 'it has no picture';
    return {
      ...slot,
      flat: true,
      repeats: 1,
      images: {},
      islands: [],
      density: null,
      densityProfile: [],
      evenProfile: [],
      unfit: { trim: none, tile: none },
      uncut: none,
      cut: null,
      stripCut: null,
      whole: null,
    };
  });
}
