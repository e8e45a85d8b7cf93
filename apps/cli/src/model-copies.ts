import { MODEL_COPIES, type ModelCopy } from '@wembrel/core/decisions/model-copies';
import { type OptionSpec, UsageError, type Values } from './arguments.ts';

export const COPIES: Record<string, OptionSpec> = {
  also: {
    type: 'string',
    multiple: true,
    value: 'gltf|obj',
    help: 'hand the models over once more: as glTF with side files, or OBJ and MTL; repeatable',
  },
};

/** The formats that options ask for besides GLB. @throws UsageError */
export function copiesFrom(values: Values): ModelCopy[] {
  const asked = new Set((values.also as string[] | undefined) ?? []);
  for (const one of asked)
    if (!MODEL_COPIES.includes(one as ModelCopy)) throw new UsageError(`--also takes gltf or obj, not "${one}"`);
  return MODEL_COPIES.filter((copy) => asked.has(copy));
}
