/** Runs `work` for 0 … count − 1, at most `width` at a time. */
export async function sideBySide(count: number, width: number, work: (i: number) => Promise<void>): Promise<void> {
  let next = 0;
  const lane = async () => {
    while (next < count) await work(next++);
  };
  await Promise.all(Array.from({ length: Math.max(1, Math.min(width, count)) }, lane));
}
