/** Asks a server's interface for programs: GET, or POST with a body. @throws Error with what it answers */
export const asker =
  (url: string) =>
  async <T>(path: string, body?: object): Promise<T> => {
    const response = await fetch(
      `${url}/api/${path}`,
      body && { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) },
    );
    if (!response.ok) throw new Error(`${path}: ${await response.text()}`);
    return (await response.json()) as T;
  };
