/*
 * Fields of decisions that were called otherwise: `repairs.shareTwins`, `rays.recipe`, and `dabs` of a pairing.
 */

type Fields = Record<string, unknown>;

/** The same with one field under its new name; where it was not there, as it was. */
function renamed(fields: Fields, from: string, to: string): Fields {
  if (!(from in fields)) return fields;
  const { [from]: value, ...rest } = fields;
  return { ...rest, [to]: value };
}

/** Decisions of any age, under the names of today. */
export function withNewNames(decisions: Fields): Fields {
  const out = { ...decisions };
  if (out.repairs) out.repairs = renamed(out.repairs as Fields, 'shareTwins', 'shareDuplicates');
  if (!out.rays) return out;
  const rays = renamed(out.rays as Fields, 'recipe', 'settings');
  const pairings = (rays.pairings ?? []) as Fields[];
  out.rays = { ...rays, pairings: pairings.map((pairing) => renamed(pairing, 'dabs', 'localReaches')) };
  return out;
}
