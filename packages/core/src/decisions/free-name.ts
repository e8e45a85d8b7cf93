/** A name that is not taken: itself, or with the next number behind it ("Paving", "Paving 2"); at most 120 letters. */
export function freeName(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  const stem = name.replace(/ \d+$/, '').slice(0, 110);
  for (let i = 2; ; i++) if (!taken.has(`${stem} ${i}`)) return `${stem} ${i}`;
}
