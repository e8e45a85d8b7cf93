import type { PartFacts, SlotFacts } from '../survey/slot-facts.ts';

/** What a prediction reads of a slot. */
export interface PlanSlot
  extends Pick<
    SlotFacts,
    | 'model'
    | 'slot'
    | 'name'
    | 'path'
    | 'objects'
    | 'look'
    | 'classKey'
    | 'alphaMode'
    | 'obstacle'
    | 'unfit'
    | 'uncut'
    | 'cut'
    | 'stripCut'
    | 'whole'
    | 'repeats'
    | 'flat'
    | 'maps'
    | 'constant'
    | 'images'
    | 'islands'
    | 'surface'
    | 'density'
    | 'densityProfile'
    | 'evenProfile'
  > {
  parts: Pick<
    PartFacts,
    | 'mesh'
    | 'name'
    | 'objects'
    | 'own'
    | 'copies'
    | 'drawCalls'
    | 'triangles'
    | 'gpuVertices'
    | 'joinable'
    | 'apart'
    | 'semantics'
    | 'uvSets'
  >[];
}
