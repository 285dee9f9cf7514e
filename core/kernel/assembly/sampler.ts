/**
 * Shuffled, Owen-scrambled Sobol points, padded in pairs: Burley 2020, "Practical Hash-based Owen Scrambling".
 * A value depends on pixel, sample, dimension and seed only, never on the order in which tiles are rendered.
 */
let pixelSeed: u32 = 0;
let reversedIndex: u32 = 0;
let pair: u32 = 0;

/** The second number of the pair that `nextPair` returned. */
export let second: f32 = 0;

// @ts-ignore: decorator
@inline
export function hash(x: u32): u32 {
  x ^= x >> 16;
  x *= 0x21f0aaad;
  x ^= x >> 15;
  x *= 0xd35a2d97;
  return x ^ (x >> 15);
}

// @ts-ignore: decorator
@inline
function reverseBits(x: u32): u32 {
  x = ((x >> 1) & 0x55555555) | ((x & 0x55555555) << 1);
  x = ((x >> 2) & 0x33333333) | ((x & 0x33333333) << 2);
  x = ((x >> 4) & 0x0f0f0f0f) | ((x & 0x0f0f0f0f) << 4);
  return bswap<u32>(x);
}

/** Laine & Karras's hash with the constants of Vegdahl 2021: each bit is flipped by the bits below it only. */
// @ts-ignore: decorator
@inline
function laineKarras(x: u32, seed: u32): u32 {
  x ^= x * 0x3d20adea;
  x += seed;
  x *= (seed >> 16) | 1;
  x ^= x * 0x05526c56;
  return x ^ (x * 0x53a22864);
}

/** Second Sobol dimension, its bits and the index's reversed: Pascal's triangle modulo two, in five steps (Ahmed 2024). */
// @ts-ignore: decorator
@inline
function sobolSecond(x: u32): u32 {
  x ^= x >> 16;
  x ^= (x & 0xff00ff00) >> 8;
  x ^= (x & 0xf0f0f0f0) >> 4;
  x ^= (x & 0xcccccccc) >> 2;
  return x ^ ((x & 0xaaaaaaaa) >> 1);
}

// @ts-ignore: decorator
@inline
function toUnit(x: u32): f32 {
  return <f32>(x >> 8) * <f32>5.9604645e-8;
}

export function startSample(x: u32, y: u32, sample: u32, seed: u32): void {
  pixelSeed = hash(x + hash(y + hash(seed)));
  reversedIndex = reverseBits(sample);
  pair = 0;
}

/** First of the next two numbers in [0, 1); the other one is left in `second`. */
export function nextPair(): f32 {
  const key = hash(pixelSeed ^ (pair * 0x9e3779b9));
  pair++;
  // The hash works on numbers whose bits are reversed. The first Sobol dimension is the index with its bits reversed.
  const index = reverseBits(laineKarras(reversedIndex, key));
  const a = reverseBits(laineKarras(index, hash(key ^ 0x68bc21eb)));
  const b = reverseBits(laineKarras(sobolSecond(index), hash(key ^ 0x02e5be93)));
  second = toUnit(b);
  return toUnit(a);
}
