/** For tests: bytes changed, cut out, doubled, swapped or cut off, in up to four places. */
export function mutated(bytes: Uint8Array, random: (below: number) => number): Uint8Array<ArrayBuffer> {
  let out = Uint8Array.from(bytes);
  for (let n = 0; n <= random(4); n++) {
    const [at, length] = [random(out.length), 1 + random(40)];
    const kind = random(5);
    if (kind === 0) out = out.slice(0, at);
    else if (kind === 1) out = Uint8Array.from([...out.slice(0, at), ...out.slice(at + length)]);
    else if (kind === 2) out = Uint8Array.from([...out.slice(0, at + length), ...out.slice(at)]);
    else for (let k = 0; k < length && at + k < out.length; k++) out[at + k] = kind === 3 ? random(256) : 48 + random(10);
    if (out.length === 0) return Uint8Array.from([random(256)]);
  }
  return out;
}
