/** A request to the server; its sentence becomes the error. */
export async function call<T>(path: string, init?: RequestInit & { json?: unknown }): Promise<T> {
  const { json, ...rest } = init ?? {};
  const response = await fetch(path, {
    ...rest,
    ...(json === undefined ? {} : { body: JSON.stringify(json) }),
    headers: { 'content-type': 'application/json', ...rest.headers },
  });
  const value = (await response.json().catch(() => null)) as (T & { error?: string }) | null;
  if (!response.ok) throw new Error(value?.error ?? `the server answered ${response.status}`);
  return value as T;
}
