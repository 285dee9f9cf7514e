const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 8000;

/** Bytes from the server; undefined: it answers that it has them not. While it is out of reach it is asked again. */
export async function fetchBytes(url: string, init?: RequestInit): Promise<Uint8Array<ArrayBuffer> | undefined> {
  for (let waitMs = FIRST_WAIT_MS; ; waitMs = Math.min(LONGEST_WAIT_MS, waitMs * 2)) {
    try {
      const response = await fetch(url, init);
      return response.ok ? new Uint8Array(await response.arrayBuffer()) : undefined;
    } catch {
      await new Promise((resolve) => setTimeout(resolve, waitMs));
    }
  }
}
