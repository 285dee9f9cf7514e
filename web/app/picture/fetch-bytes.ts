const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 8000;

/** Bytes from the server; undefined: it answers that it has them not. Throws where it is out of reach. */
export async function fetchOnce(url: string, init?: RequestInit): Promise<Uint8Array<ArrayBuffer> | undefined> {
  const response = await fetch(url, init);
  return response.ok ? new Uint8Array(await response.arrayBuffer()) : undefined;
}

/** The same, but while it is out of reach it is asked again. */
export async function fetchBytes(url: string, init?: RequestInit): Promise<Uint8Array<ArrayBuffer> | undefined> {
  for (let waitMs = FIRST_WAIT_MS; ; waitMs = Math.min(LONGEST_WAIT_MS, waitMs * 2)) {
    try {
      return await fetchOnce(url, init);
    } catch {
      await new Promise((resolve) => setTimeout(resolve, waitMs));
    }
  }
}
