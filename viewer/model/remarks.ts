import type { Camera } from '../../core/model/schema';
import type { Remark } from '../../core/project/remark';

/** Remarks of who looks at the file: kept in this browser, saved as a file, or sent along a link. */
export class Remarks {
  readonly list: Remark[] = [];
  private readonly key: string;

  constructor(
    project: string,
    made: string,
    private readonly address: string | undefined,
    private readonly changed: () => void,
  ) {
    this.key = `remarks ${project} ${made}`;
    try {
      this.list.push(...(JSON.parse(localStorage.getItem(this.key) ?? '[]') as Remark[]));
    } catch {
      // A browser that keeps nothing for files shows what is written until it is closed.
    }
    if (address) void this.fetched(address);
  }

  private async fetched(address: string): Promise<void> {
    const response = await fetch(address).catch(() => undefined);
    if (!response?.ok) return;
    const kept = (await response.json()) as Remark[];
    this.list.splice(0, this.list.length, ...kept);
    this.changed();
  }

  async add(text: string, author: string, place: readonly [number, number, number] | undefined, camera: Camera, look: string): Promise<void> {
    const remark: Remark = { id: crypto.randomUUID(), text, author, at: new Date().toISOString(), status: 'open', camera, look, ...(place && { place: [...place] }) };
    this.list.push(remark);
    this.keep();
    this.changed();
    if (this.address) await fetch(this.address, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(remark) }).catch(() => undefined);
  } // prettier-ignore

  private keep(): void {
    try {
      localStorage.setItem(this.key, JSON.stringify(this.list));
    } catch {
      // See above.
    }
  }

  save(name: string): void {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([JSON.stringify({ remarks: this.list }, undefined, 1)], { type: 'application/json' }));
    link.download = `${name} remarks.json`;
    link.click();
  }
}
