/*
 * Fields of decisions that were called otherwise: `repairs.shareTwins`, `rays.recipe`, and `dabs` of a pairing.
 */

type Fields = Record<string, unknown>;

const REPAIRS = ['shareTwins', 'shareDuplicates'] as const;
const RAYS = ['recipe', 'settings'] as const;
const PAIRING = ['dabs', 'localReaches'] as const;

/** The same with one field under another name; where it is not there, as it was. */
function renamed(fields: Fields, from: string, to: string): Fields {
  if (!(from in fields)) return fields;
  const { [from]: value, ...rest } = fields;
  return { ...rest, [to]: value };
}

function withNames(decisions: Fields, rename: (fields: Fields, names: readonly [string, string]) => Fields): Fields {
  const out = { ...decisions };
  if (out.repairs) out.repairs = rename(out.repairs as Fields, REPAIRS);
  if (!out.rays) return out;
  const rays = rename(out.rays as Fields, RAYS);
  const pairings = (rays.pairings ?? []) as Fields[];
  out.rays = { ...rays, pairings: pairings.map((pairing) => rename(pairing, PAIRING)) };
  return out;
}

/** Decisions of any age, under the names of today. */
export const withNewNames = (decisions: object): Fields =>
  withNames({ ...decisions }, (fields, [before, now]) => renamed(fields, before, now));

/** Decisions of today, under the names of before: what stamps of then were made of. */
export const withOldNames = (decisions: object): Fields =>
  withNames({ ...decisions }, (fields, [before, now]) => renamed(fields, now, before));
