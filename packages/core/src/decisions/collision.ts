import { z } from 'zod';

export const COLLISION_KINDS = ['box', 'sphere', 'capsule', 'hull', 'pieces'] as const;
export type CollisionKind = (typeof COLLISION_KINDS)[number];

/** Which collision shapes models get when they are handed over. */
export const Collision = z.object({
  as: z.enum(['none', ...COLLISION_KINDS]).default('none'),
  /** Most flat faces of a hull. */
  faces: z.number().int().min(6).max(255).default(32),
  /** Most convex pieces of a model. */
  pieces: z.number().int().min(1).max(64).default(8),
  /** One for a model, or one for each node that draws. */
  by: z.enum(['model', 'object']).default('model'),
});
export type Collision = z.infer<typeof Collision>;
