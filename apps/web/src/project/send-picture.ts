/** Stores a picture of a planned surface. @returns its hash @throws Error with a sentence */
export async function sendPicture(file: Blob): Promise<string> {
  const response = await fetch('/api/pictures', {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream' },
    body: file,
  });
  const value = (await response.json()) as { hash?: string; error?: string };
  if (!response.ok || !value.hash) throw new Error(value.error ?? `the server answered ${response.status}`);
  return value.hash;
}
