import { z } from 'zod';

/** Formats in which models can be handed over besides GLB. */
export const MODEL_COPIES = ['gltf', 'obj'] as const;
export type ModelCopy = (typeof MODEL_COPIES)[number];

/** The formats that are wanted, each once. */
export const ModelCopies = z
  .array(z.enum(MODEL_COPIES))
  .max(MODEL_COPIES.length)
  .refine((list) => new Set(list).size === list.length, 'a format is named twice');
