import { describe, expect, it } from 'vitest';
import { randomInteger } from '../random';
import { KernelMemory, KernelMemoryError } from './memory';

describe('the kernel’s memory', () => {
  it('gives aligned, zeroed, separate blocks', () => {
    const memory = new KernelMemory(4);
    const [a, b] = [memory.allocate(5), memory.allocate(100)];
    expect(a % 128).toBe(0);
    expect(b % 128).toBe(0);
    expect(Math.abs(b - a)).toBeGreaterThanOrEqual(128);
    memory.write(a, new Uint8Array([1, 2, 3, 4, 5]));
    expect([...memory.floats(b, 25)].every((v) => v === 0)).toBe(true);
    memory.release(a);
    expect(memory.view().getUint8(memory.allocate(5))).toBe(0);
  });

  it('uses again what was released, joined with its neighbours', () => {
    const memory = new KernelMemory(4);
    const blocks = Array.from({ length: 8 }, () => memory.allocate(1024));
    const used = memory.usedBytes;
    for (const i of [2, 4, 3]) memory.release(blocks[i]!);
    expect(memory.usedBytes).toBe(used - 3072);
    expect(memory.allocate(3072)).toBe(blocks[2]);
    memory.release(12345);
    expect(memory.usedBytes).toBe(used);
  });

  it('never hands out the same bytes twice over ten thousand random takings and givings', () => {
    const memory = new KernelMemory(4);
    const live = new Map<number, number>();
    const random = randomInteger(3);
    for (let i = 0; i < 10_000; i++) {
      if (live.size > 40 || (live.size > 0 && random(3) === 0)) {
        const at = [...live.keys()][random(live.size)]!;
        live.delete(at);
        memory.release(at);
      } else {
        const size = 1 + random(3000);
        const at = memory.allocate(size);
        for (const [other, length] of live) if (at < other + length && other < at + size) throw new Error('overlap');
        live.set(at, size);
      }
    }
    expect(memory.usedBytes).toBe([...live.values()].reduce((sum, size) => sum + Math.ceil(size / 128) * 128, 0));
  });

  it('grows as needed, and says so in a sentence when there is no more', () => {
    const memory = new KernelMemory(2, 8);
    expect(memory.allocate(3 * 65536)).toBeGreaterThan(0);
    expect(() => memory.allocate(8 * 65536)).toThrow(KernelMemoryError);
    expect(() => memory.allocate(8 * 65536)).toThrow('more memory than the light kernel may use');
  });
});
