/** The six stages and their views, in the order of the work. */
export const VIEWS = ['survey', 'plan', 'uv', 'bake', 'compare', 'handover'] as const;
export type ViewName = (typeof VIEWS)[number];

export const VIEW_TITLES: Record<ViewName, string> = {
  survey: 'Survey',
  plan: 'Plan',
  uv: 'UV layout',
  bake: 'Bake',
  compare: 'Compare',
  handover: 'Hand over',
};

export function isViewName(v: string | undefined): v is ViewName {
  return VIEWS.includes(v as ViewName);
}
