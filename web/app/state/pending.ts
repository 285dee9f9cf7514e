/**
 * Values that were sent and have not been told of by the server yet, by their ids: whoever changes one again at once begins from
 * these, not from what is still on the screen.
 */
export class Pending<T> {
  private readonly sent = new Map<string, string[]>();
  private readonly known = new Map<string, string>();

  /** The newest value of an id; `shown`: what the server has told. */
  newest(id: string, shown: T): T {
    const last = this.sent.get(id)?.at(-1);
    return last === undefined ? shown : (JSON.parse(last) as T);
  }

  send(id: string, value: T): void {
    this.sent.set(id, [...(this.sent.get(id) ?? []), inOrder(value)]);
  }

  /** The server tells a value: one that was sent, or somebody else's, which counts from now on. */
  tell(id: string, value: T): void {
    const told = inOrder(value);
    if (this.known.get(id) === told) return;
    this.known.set(id, told);
    const sent = this.sent.get(id) ?? [];
    const at = sent.indexOf(told);
    this.sent.set(id, at < 0 ? [] : sent.slice(at + 1));
  }
}

/** As JSON, with keys in one order: the server tells them in that of its schemas. */
const inOrder = (value: unknown): string =>
  JSON.stringify(value, (_, part: unknown) =>
    part && typeof part === 'object' && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );
