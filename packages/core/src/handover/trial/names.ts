/** Characters that some file systems do not take in names. */
const UNSAFE = /[<>:"|?*\\\p{Cc}]/u;

/** Names that some systems keep for devices. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)(\..*)?$/i;

/** What is wrong with the names of a delivery's files, wherever it is unpacked. @param files paths with / below its folder */
export function nameProblemsOf(files: readonly string[]): { file: string; text: string }[] {
  const seen = new Map<string, string>();
  return files.flatMap((file) => {
    const problems: string[] = [];
    const last = file.split('/').at(-1) ?? file;
    if (UNSAFE.test(file)) problems.push('its name has characters that some file systems do not take');
    if (RESERVED.test(last) || /[. ]$/.test(last)) problems.push('its name cannot be used on some file systems');
    const key = file.normalize('NFC').toLowerCase();
    const other = seen.get(key);
    if (other !== undefined)
      problems.push(`its name differs from ${other} only in case: one takes the place of the other`);
    seen.set(key, file);
    return problems.map((text) => ({ file, text }));
  });
}

/** A material in use, for what is said about equal names. */
export interface NamedMaterial {
  file: string;
  name: string;
  /** What it is made of, as text: equal for equal materials. */
  content: string;
}

/** Materials of one name that are not the same: importers that go by names use one of them for all. */
export function materialProblems(materials: readonly NamedMaterial[]): { file: string; text: string }[] {
  const first = new Map<string, NamedMaterial>();
  const said = new Set<string>();
  return materials.flatMap((material) => {
    const { file, name, content } = material;
    const other = first.get(name);
    if (!other) first.set(name, material);
    if (name === '' || !other || other.content === content || said.has(name)) return [];
    said.add(name);
    const where = other.file === file ? '' : ` in ${other.file}`;
    return [
      {
        file,
        text: `its material "${name}" is not the one of that name${where}; importers that go by names use one for both`,
      },
    ];
  });
}
