import { create } from 'zustand';

/** Which picture of the plan is shown. */
export type PlanPicture = 'board' | 'alternatives' | 'proposal';

/** It is kept while other views are looked at, and others may ask for one. */
export const usePlanPicture = create<{ picture: PlanPicture }>(() => ({ picture: 'board' }));

export const showPlanPicture = (picture: PlanPicture): void => usePlanPicture.setState({ picture });
