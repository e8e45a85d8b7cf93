type Json = Record<string, unknown>;

const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * Puts right in a glTF document, in place, what breaks the standard but can only be meant in one way: names that are no texts, empty lists. What
 * it does not know stays; `checkDocument` judges the rest.
 * @returns what was put right, as sentences
 */
export function mendDocument(json: unknown): string[] {
  if (!isObject(json)) return [];
  let names = 0;
  for (const list of Object.values(json)) {
    if (!Array.isArray(list)) continue;
    for (const entry of list) if (isObject(entry)) names += Number(mendName(entry));
  }
  const empty = dropEmptyLists(json);
  const mended: string[] = [];
  if (names > 0) mended.push(`${names} name${names === 1 ? ' is' : 's are'} no text`);
  if (empty.length > 0) mended.push(`${empty.join(', ')}: the list is empty`);
  return mended;
}

/** @returns whether the name of an entry was something else than a text */
function mendName(entry: Json): boolean {
  const { name } = entry;
  if (name === undefined || typeof name === 'string') return false;
  if (typeof name === 'number' || typeof name === 'boolean') entry.name = String(name);
  else delete entry.name;
  return true;
}

/** Lists of the document, and of its scenes and nodes, that the standard wants left out where they would be empty. */
function dropEmptyLists(json: Json): string[] {
  const dropped: string[] = [];
  const drop = (holder: Json, key: string, where: string) => {
    const list = holder[key];
    if (!Array.isArray(list) || list.length > 0) return;
    delete holder[key];
    dropped.push(where);
  };
  for (const key of Object.keys(json)) drop(json, key, key);
  for (const [holders, key] of [
    ['scenes', 'nodes'],
    ['nodes', 'children'],
  ]) {
    const list = json[holders];
    if (!Array.isArray(list)) continue;
    list.forEach((holder, i) => {
      if (isObject(holder)) drop(holder, key, `${key} of ${holders.slice(0, -1)} ${i}`);
    });
  }
  return dropped;
}
