/** RGBA8 texels, row 0 at v = 0. */
export interface TextureImage {
  width: number;
  height: number;
  texels: Uint8Array;
}

/** The maps of a finish as both pictures take them. */
export interface MapSet {
  /** sRGB base colour; alpha is opacity. */
  base: TextureImage;
  /** Normal x and y, roughness, height. */
  surface: TextureImage | undefined;
  /** Shares of the factors that are not the same all over: metalness, clear coat, transmission, sheen. */
  shares?: TextureImage | undefined;
  /** Colour of the light that it gives itself, sRGB. */
  glow?: TextureImage | undefined;
}
