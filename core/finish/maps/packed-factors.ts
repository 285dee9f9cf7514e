/** Shares of metalness from one channel of a picture; of clear coat and transmission all there is. */
export function metalShares(texels: Uint8Array, channel: number): Uint8Array {
  const out = new Uint8Array(texels.length).fill(255);
  for (let i = 0; i < out.length; i += 4) out[i] = texels[i + channel]!;
  return out;
}
