import { type Profile, type ProfileChoice, SHIPPED_PROFILES } from '@wembrel/core/decisions/profiles';

export const nameOf = (choice: ProfileChoice): string => (typeof choice === 'string' ? choice : choice.name);

/** The choices with one added or taken away; one that is there from the start is named, an own one is kept whole. */
export function toggled(choices: readonly ProfileChoice[], profile: Profile, on: boolean): ProfileChoice[] {
  const others = choices.filter((choice) => nameOf(choice) !== profile.name);
  if (!on) return others;
  return [...others, SHIPPED_PROFILES.includes(profile) ? profile.name : profile];
}
