export async function bench(_args: string[]): Promise<number> {
  throw new Error('not written yet');
}
