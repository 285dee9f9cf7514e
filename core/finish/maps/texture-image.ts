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
  /** Shares of the factors that are not the same all over: metalness, clear coat, transmission. */
  packedFactors?: TextureImage | undefined;
  /** Colour of the light that it gives itself, sRGB. */
  emission?: TextureImage | undefined;
  /** Shares of what lies on it: thickness of its film from the least to the greatest, roughness of its coat, its film. */
  filmAndCoat?: TextureImage | undefined;
  /** Colour of its sheen (sRGB), and share of that's roughness. */
  sheen?: TextureImage | undefined;
  /** Normal x and y of its coat; x and y of the way across its grain, as long as it is brushed strongly; each two whole where it is not told. */
  coatNormal?: TextureImage | undefined;
  /** Colour (sRGB) and share of what it mirrors where it is no metal. */
  specular?: TextureImage | undefined;
  /** Colour (sRGB) and share of the scattered light that leaves on its other side. */
  diffuseTransmission?: TextureImage | undefined;
}

/** Every kind of map, and whether its colours are coded as sRGB. */
export const MAP_IS_SRGB: Readonly<Record<keyof MapSet, boolean>> = {
  base: true,
  surface: false,
  packedFactors: false,
  emission: true,
  filmAndCoat: false,
  sheen: true,
  coatNormal: false,
  specular: true,
  diffuseTransmission: true,
};
export const MAP_KINDS = Object.keys(MAP_IS_SRGB) as readonly (keyof MapSet)[];
