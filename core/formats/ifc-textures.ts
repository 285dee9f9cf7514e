import * as WebIFC from 'web-ifc';
import { IfcLines, refOf, refsOf, numberOf, textOf, type Line } from './ifc-line';
import { isShowable } from './model-builder';
import type { SideFiles } from './model-file';

/** Pictures that lie on a face set. */
export interface IfcTexture {
  pictures: readonly { part: 'image' | 'normal'; bytes: Uint8Array<ArrayBuffer> }[];
  /** A picture that is named and not there. */
  missing?: string;
  /** u v for each corner of each triangle, v upwards. */
  uvs: Float32Array;
  /** What tells pictures apart. */
  key: string;
}

/** Modes of IfcSurfaceTexture that tell of something else than colour. */
const OTHER_MODES = /SPECULAR|OPACITY|EMISSIVE|SHININESS|OCCLUSION|ROUGHNESS|BUMP|AMBIENT/;

/**
 * Pictures of an IFC file (ISO 16739-1): IfcImageTexture beside the file and IfcBlobTexture in it, where an IfcIndexedTriangleTextureMap
 * lays them on an IfcTriangulatedFaceSet. Nothing is read where there is none.
 */
export class IfcTextures extends IfcLines {
  private readonly mapOf = new Map<number, Line>();

  constructor(
    api: WebIFC.IfcAPI,
    id: number,
    private readonly beside: SideFiles,
  ) {
    super(api, id);
    for (const map of this.linesOf(WebIFC.IFCINDEXEDTRIANGLETEXTUREMAP)) {
      const faces = refOf(map['MappedTo']);
      if (faces !== undefined) this.mapOf.set(faces, map);
    }
  }

  /** What lies on a face set of so many triangles; undefined: nothing, or not on these. */
  on(faces: number, triangles: number): IfcTexture | undefined {
    const map = this.mapOf.get(faces);
    if (!map) return undefined;
    const corners = listsOf(map['TexCoordIndex'] ?? this.line(faces)['CoordIndex']).flat();
    const vertices = refOf(map['TexCoords']);
    const places = vertices === undefined ? [] : listsOf(this.line(vertices)['TexCoordsList']);
    if (corners.length !== triangles * 3 || !corners.every((corner) => places[corner - 1]?.length === 2)) return undefined;
    const textures = refsOf(map['Maps']).map((texture) => ({ id: texture, line: this.line(texture) }));
    const found = textures.map(({ line }) => ({ ...this.pictureOf(line), mode: textOf(line['Mode']).toUpperCase() }));
    const first = textures[0];
    if (!first) return undefined;
    const lay = this.layingOf(refOf(first.line['TextureTransform']));
    const pictures = (['image', 'normal'] as const).flatMap((part) => {
      const picture = found.find(({ mode, bytes }) => bytes && (part === 'normal' ? mode === 'NORMAL' : mode !== 'NORMAL' && !OTHER_MODES.test(mode))); // prettier-ignore
      return picture?.bytes ? [{ part, bytes: picture.bytes }] : [];
    });
    const missing = found.find(({ name, bytes }) => name && !bytes)?.name;
    return {
      pictures,
      ...(missing && { missing }),
      uvs: Float32Array.from(corners.flatMap((corner) => lay(places[corner - 1] as [number, number]))),
      key: textures.map((texture) => String(texture.id)).join(' '),
    };
  }

  private pictureOf(line: Line): { name: string; bytes?: Uint8Array<ArrayBuffer> | undefined } {
    const name = textOf(line['URLReference']) || textOf(line['UrlReference']);
    const code = textOf(line['RasterCode']);
    const bytes = code ? bytesOf(code) : name ? this.beside(name) : undefined;
    return { name, bytes: bytes && isShowable(bytes) ? bytes : undefined };
  }

  /** Of an IfcCartesianTransformationOperator2D: turned, scaled and moved. */
  private layingOf(operator: number | undefined): (place: readonly [number, number]) => [number, number] {
    if (operator === undefined) return ([u, v]) => [u, v];
    const line = this.line(operator);
    const pair = (id: number | undefined, attribute: string) => (id === undefined ? undefined : numbersOf(this.line(id)[attribute]));
    const [x, y] = pair(refOf(line['Axis1']), 'DirectionRatios') ?? [1, 0];
    const length = Math.hypot(x!, y!) || 1;
    const [ax, ay] = [x! / length, y! / length];
    const [bx, by] = pair(refOf(line['Axis2']), 'DirectionRatios') ?? [-ay, ax];
    const [ox, oy] = pair(refOf(line['LocalOrigin']), 'Coordinates') ?? [0, 0];
    const scale = numberOf(line['Scale']) || 1;
    return ([u, v]) => [ox! + scale * (u * ax + v * bx!), oy! + scale * (u * ay + v * by!)];
  }
}

const numbersOf = (value: unknown): number[] => (Array.isArray(value) ? value.map(numberOf) : []);
const listsOf = (value: unknown): number[][] => (Array.isArray(value) ? value.map(numbersOf) : []);

/** A binary of ISO 10303-21: a digit that says how many bits are unused, then hexadecimal. */
function bytesOf(code: string): Uint8Array<ArrayBuffer> {
  const hex = code.slice(1);
  return Uint8Array.from({ length: hex.length >> 1 }, (_, i) => Number.parseInt(hex.slice(i * 2, i * 2 + 2), 16));
}
