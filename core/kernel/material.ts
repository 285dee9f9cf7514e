import { absorptionOf } from '../finish/clear-body';
import { adjustmentMatrix, isAdjusted } from '../finish/adjust';
import { radianceOf, type Finish } from '../finish/finish';
import { MAP_KINDS, type MapSet } from '../finish/maps/texture-image';
import { WAVE_COUNT } from '../finish/waves';
import { decodeSrgb } from '../image/tone';
import * as L from './assembly/layout';

const BODY = { sheet: L.BODY_SHEET, pane: L.BODY_PANE, solid: L.BODY_SOLID } as const;

/**
 * From the index for green to that for blue, as KHR_materials_dispersion defines it; to that for red it is as much less. Only solids
 * bend light.
 */
export const indexSpread = ({ body, ior, dispersion }: Finish): number => (body === 'solid' ? (ior - 1) * 0.025 * dispersion : 0);

const MAP_PLACES: Readonly<Record<keyof MapSet, number>> = {
  base: L.MAPS_BASE,
  surface: L.MAPS_SURFACE,
  packedFactors: L.MAPS_FACTORS,
  emission: L.MAPS_EMISSION,
  filmAndCoat: L.MAPS_FILM_COAT,
  sheen: L.MAPS_SHEEN,
  coatNormal: L.MAPS_COAT_NORMAL,
  specular: L.MAPS_SPECULAR,
  diffuseTransmission: L.MAPS_DIFFUSE_TRANSMISSION,
};

/** Writes the numbers of maps that lie by one set of coordinates at `p`; `next` points at those by another (0: none). */
export function writeMaps(view: DataView, p: number, numberOf: (kind: keyof MapSet) => number, set: number, next: number): void {
  for (const kind of MAP_KINDS) view.setInt32(p + MAP_PLACES[kind], numberOf(kind), true);
  view.setInt32(p + L.MAPS_SET, set, true);
  view.setUint32(p + L.MAPS_NEXT, next, true);
}

/** Whether light may go on behind a surface that has it. */
export function isClear(finish: Finish): boolean {
  return (finish.transmission > 0 && finish.metalness < 1) || finish.opacity < 1 || finish.cutOut;
}

/**
 * Writes one finish at `p`, but for its maps. `waves` points at their table (0: none).
 */
export function writeMaterial(view: DataView, p: number, finish: Finish, waves: number): void {
  const f = (offset: number, value: number) => {
    view.setFloat32(p + offset, value, true);
  };
  const linear = finish.baseColour.map(decodeSrgb);
  const absorption = absorptionOf(finish);
  const radiance = radianceOf(finish);
  linear.forEach((value, c) => {
    f(L.MAT_BASE + c * 4, value);
    f(L.MAT_EMISSION + c * 4, radiance[c]!);
    f(L.MAT_ABSORPTION + c * 4, absorption[c]!);
  });
  f(L.MAT_METALNESS, finish.metalness);
  f(L.MAT_ROUGHNESS, finish.roughness);
  finish.scatteredBack.forEach((share, c) => {
    f(L.MAT_SCATTERED_BACK + c * 4, finish.transmission > 0 ? share : 0);
  });
  f(L.MAT_IOR, finish.ior);
  f(L.MAT_FILM, Math.max(finish.filmNm, finish.filmLeastNm) > 0 ? finish.film : 0);
  f(L.MAT_FILM_IOR, finish.filmIor);
  f(L.MAT_FILM_NM, finish.filmNm);
  f(L.MAT_FILM_LEAST_NM, finish.filmLeastNm);
  f(L.MAT_INDEX_SPREAD, indexSpread(finish));
  f(L.MAT_SPECULAR, finish.specular);
  finish.specularColour.forEach((c, i) => {
    f(L.MAT_SPECULAR_COLOUR + i * 4, decodeSrgb(c));
  });
  f(L.MAT_TRANSMISSION, finish.transmission);
  f(L.MAT_OPACITY, finish.opacity);
  view.setInt32(p + L.MAT_BODY, BODY[finish.body], true);
  view.setUint32(p + L.MAT_WAVES, waves, true);
  view.setInt32(p + L.MAT_WAVE_COUNT, waves ? WAVE_COUNT : 0, true);
  f(L.MAT_ANISOTROPY, finish.anisotropy);
  const across = (finish.anisotropyDeg * Math.PI) / 180;
  f(L.MAT_ANISOTROPY_TURN, Math.cos(across));
  f(L.MAT_ANISOTROPY_TURN + 4, Math.sin(across));
  view.setInt32(p + L.MAT_FROM_WORLD, finish.origin === 'world' ? 1 : 0, true);
  f(L.MAT_EDGE_RADIUS, finish.edgeRadiusM);
  finish.subsurfaceColour.forEach((share, c) => {
    f(L.MAT_FREE_PATH + c * 4, finish.subsurfaceM * Math.max(0.02, share));
  });
  f(L.MAT_RELIEF, isClear(finish) ? 0 : finish.reliefM);
  f(L.MAT_UV_SCALE, 1 / finish.widthM);
  f(L.MAT_UV_SCALE + 4, 1 / finish.heightM);
  const turn = (finish.rotationDeg * Math.PI) / 180;
  f(L.MAT_UV_ROTATION, Math.cos(turn));
  f(L.MAT_UV_ROTATION + 4, Math.sin(turn));
  // The offset is in metres along the maps' own axes.
  f(L.MAT_UV_OFFSET, finish.offsetM[0] / finish.widthM);
  f(L.MAT_UV_OFFSET + 4, finish.offsetM[1] / finish.heightM);
  f(L.MAT_NORMAL_SCALE, finish.normalScale);
  f(L.MAT_DIFFUSE_THROUGH, finish.diffuseTransmission);
  view.setInt32(p + L.MAT_THROUGH_OWN, finish.diffuseTransmissionColour ? 1 : 0, true);
  finish.diffuseTransmissionColour?.forEach((c, i) => {
    f(L.MAT_THROUGH_COLOUR + i * 4, decodeSrgb(c));
  });
  f(L.MAT_COAT, finish.clearCoat);
  f(L.MAT_COAT_ROUGHNESS, finish.clearCoatRoughness);
  f(L.MAT_COAT_NORMAL, finish.clearCoatNormal);
  finish.sheenColour.forEach((c, i) => {
    f(L.MAT_SHEEN + i * 4, finish.sheen * decodeSrgb(c));
  });
  f(L.MAT_SHEEN_ROUGHNESS, finish.sheenRoughness);
  view.setInt32(p + L.MAT_PATCHED, finish.breakRepeat ? 1 : 0, true);
  view.setInt32(p + L.MAT_ADJUSTED, isAdjusted(finish) ? 1 : 0, true);
  f(L.MAT_CONTRAST, finish.contrast);
  adjustmentMatrix(finish).forEach((value, i) => {
    f(L.MAT_ADJUSTMENT + i * 4, value);
  });
}
