import type { KernelMemory } from './memory';

/** Rooms in the kernel's memory by name, kept for the next use and made anew only when more is asked for. What lies in them is not cleared. */
export class KeptRooms {
  private readonly rooms = new Map<string, { at: number; bytes: number }>();

  constructor(private readonly memory: KernelMemory) {}

  /** Where a room of at least so many bytes begins; what lay in it before is lost if it has to grow. */
  take(name: string, bytes: number): number {
    const had = this.rooms.get(name);
    if (had && had.bytes >= bytes) return had.at;
    if (had) this.memory.release(had.at);
    const at = this.memory.room(bytes);
    this.rooms.set(name, { at, bytes });
    return at;
  }
}
