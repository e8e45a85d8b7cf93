/** Name of the material that recipes are laid on; see `LIVE_MATERIAL` of the runner. */
export const LIVE_SLOT = 'wembrel-recipe';
