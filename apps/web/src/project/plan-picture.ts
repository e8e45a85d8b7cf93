import { setAddress, useAddress } from './address.ts';

/** Which picture of the plan is shown. */
export type PlanPicture = 'board' | 'alternatives' | 'proposal';

const PICTURES: readonly PlanPicture[] = ['board', 'alternatives', 'proposal'];

/** It is kept while other views are looked at, and others may ask for one. */
export const usePlanPicture = (): PlanPicture => useAddress('plan', 'picture', PICTURES, 'board')[0];

export const showPlanPicture = (picture: PlanPicture): void =>
  setAddress('plan', 'picture', picture === 'board' ? null : picture);
