/** Copying what lies on top costs a little with every change, joining both costs a lot once in a while: the root balances them. */
const mostOnTop = (baseSize: number): number => Math.max(64, Math.sqrt(baseSize));
const GONE = Symbol('gone');

/**
 * A map that is never changed: `with` gives another one that shares what stays the same, so that a small change to a large
 * map costs little. Underneath lies a plain map, on top what differs from it; when that grows, both become one.
 * Order is that of first insertion.
 */
export class LayeredMap<V> implements ReadonlyMap<string, V> {
  readonly size: number;

  private constructor(
    private readonly base: ReadonlyMap<string, V>,
    private readonly top: ReadonlyMap<string, V | typeof GONE>,
  ) {
    let size = base.size;
    for (const [key, value] of top) size += (value === GONE ? 0 : 1) - (base.has(key) ? 1 : 0);
    this.size = size;
  }

  static of<V>(map: ReadonlyMap<string, V>): LayeredMap<V> {
    return (map instanceof LayeredMap ? map : new LayeredMap<V>(map, new Map())) as LayeredMap<V>;
  }

  /** Keys whose values are not the same; undefined: the two have too little in common to say so quickly. */
  static differing<V>(a: ReadonlyMap<string, V>, b: ReadonlyMap<string, V>): string[] | undefined {
    if (!(a instanceof LayeredMap && b instanceof LayeredMap) || a.base !== b.base) return undefined;
    const keys = new Set<string>([...a.top.keys(), ...b.top.keys()] as string[]);
    return [...keys].filter((key) => a.get(key) !== b.get(key));
  }

  /** The map without some keys, then with some values put. */
  with(removed: Iterable<string>, put: Iterable<readonly [string, V]>): LayeredMap<V> {
    const top = new Map(this.top);
    for (const key of removed) {
      if (this.base.has(key)) top.set(key, GONE);
      else top.delete(key);
    }
    for (const [key, value] of put) top.set(key, value);
    const next = new LayeredMap<V>(this.base, top);
    return top.size > mostOnTop(this.base.size) ? new LayeredMap<V>(new Map(next), new Map()) : next;
  }

  get(key: string): V | undefined {
    const value = this.top.get(key);
    if (value === GONE) return undefined;
    return value ?? this.base.get(key);
  }

  has(key: string): boolean {
    const value = this.top.get(key);
    return value === GONE ? false : value !== undefined || this.base.has(key);
  }

  *entries(): MapIterator<[string, V]> {
    if (this.top.size === 0) {
      yield* this.base;
      return undefined;
    }
    for (const [key, value] of this.base) {
      const own = this.top.get(key);
      if (own !== GONE) yield [key, own ?? value];
    }
    for (const [key, value] of this.top) if (value !== GONE && !this.base.has(key)) yield [key, value];
    return undefined;
  }

  *keys(): MapIterator<string> {
    for (const [key] of this.entries()) yield key;
    return undefined;
  }

  *values(): MapIterator<V> {
    for (const [, value] of this.entries()) yield value;
    return undefined;
  }

  [Symbol.iterator](): MapIterator<[string, V]> {
    return this.entries();
  }

  forEach(visit: (value: V, key: string, map: ReadonlyMap<string, V>) => void): void {
    for (const [key, value] of this.entries()) visit(value, key, this);
  }
}
