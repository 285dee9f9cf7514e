import type { IfcAPI } from 'web-ifc';
import { beforeAll, describe, expect, it } from 'vitest';
import { decodeMesh } from '../geometry/mesh';
import { readIfc } from './ifc';
import { startIfc } from './ifc-parser';
import { bytes, ifcText, MILLIMETRE, near } from './ifc-text';

let api: IfcAPI;
beforeAll(async () => {
  api = await startIfc();
});

describe('pictures in IFC', () => {
  const PNG = [0x89, 0x50, 0x4e, 0x47, 7];
  /** A wall of 2 by 1.5 m of two triangles, in millimetres, with a texture on it, twice: once mapped. */
  const covered = (textures: string, maps = '(#310)', index = '((1,2,3),(1,3,4))') => ifcText({ unit: MILLIMETRE, more: `${textures}
#320=IFCCARTESIANPOINTLIST3D(((0.,0.,0.),(2000.,0.,0.),(2000.,0.,1500.),(0.,0.,1500.)));
#321=IFCTRIANGULATEDFACESET(#320,$,$,((1,2,3),(1,3,4)),$);
#322=IFCTEXTUREVERTEXLIST(((0.,0.),(4.,0.),(4.,3.),(0.,3.)));
#323=IFCINDEXEDTRIANGLETEXTUREMAP(${maps},#321,#322,${index});
#324=IFCSHAPEREPRESENTATION(#24,'Body','Tessellation',(#321));
#325=IFCPRODUCTDEFINITIONSHAPE($,$,(#324));
#326=IFCWALL('000000000000000000000W',$,'Brick wall',$,$,#44,#325,$,$);
#327=IFCREPRESENTATIONMAP(#22,#324);
#328=IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,#21,$,$);
#329=IFCMAPPEDITEM(#327,#328);
#330=IFCSHAPEREPRESENTATION(#24,'Body','MappedRepresentation',(#329));
#331=IFCPRODUCTDEFINITIONSHAPE($,$,(#330));
#332=IFCWALL('000000000000000000000X',$,'Another',$,$,#44,#331,$,$);` });
  const beside = (name: string) => (name === 'brick.png' ? Uint8Array.from(PNG) : undefined);
  const look = (text: string) => {
    const read = readIfc(api, bytes(text), 'test.ifc', undefined, beside);
    const [wall, other] = ['W', 'X'].map((last) => read.model.elements.get(`000000000000000000000${last}`)!.parts[0]!);
    const mesh = decodeMesh(read.meshes.get(wall!.mesh)!);
    if (typeof mesh === 'string') throw new Error(mesh);
    return { read, wall: wall!, other: other!, mesh, material: read.model.materials.get(wall!.material)! };
  };

  it('lie beside the file or in it, on the corners that the file says, moved and scaled', () => {
    const { read, wall, other, mesh, material } = look(covered("#310=IFCIMAGETEXTURE(.T.,.T.,'DIFFUSE',$,$,'brick.png');"));
    expect(other).toEqual(wall);
    expect(material).toMatchObject({ colour: [1, 1, 1], texture: { asLaid: true } });
    expect([...read.pictures.get(material.texture!.image!)!]).toEqual(PNG);
    // Four repeats over two metres.
    expect(material.texture!.widthM).toBeCloseTo(0.5, 5);
    const corners = Array.from({ length: 4 }, (_, i) => [...mesh.positions.subarray(i * 3, i * 3 + 3), ...mesh.pictureUvs!.subarray(i * 2, i * 2 + 2)]);
    const least = [0, 2].map((k) => Math.min(...corners.map((c) => c[k]!)));
    for (const c of corners) near([c[3]!, c[4]!], [((c[0]! - least[0]!) / 2000) * 4, ((c[2]! - least[1]!) / 1500) * 3]);
    const blob = look(covered(`#310=IFCBLOBTEXTURE(.T.,.T.,$,#311,$,'PNG',"089504E4707");
#311=IFCCARTESIANTRANSFORMATIONOPERATOR2D($,$,#312,0.5);
#312=IFCCARTESIANPOINT((0.25,0.));`));
    expect([...blob.read.pictures.get(blob.material.texture!.image!)!]).toEqual(PNG);
    expect([Math.min(...blob.mesh.pictureUvs!), Math.max(...blob.mesh.pictureUvs!)]).toEqual([0, 2.25]);
  });

  it('may be normals, may be missing, and are left out where their corners are not there', () => {
    const both = look(covered("#310=IFCIMAGETEXTURE(.T.,.T.,'NORMAL',$,$,'brick.png');\n#311=IFCIMAGETEXTURE(.T.,.T.,'DIFFUSE',$,$,'gone.png');", '(#310,#311)'));
    expect(both.material).toMatchObject({ missing: 'gone.png', texture: { image: null, normal: expect.any(String) as string } });
    for (const index of ['((1,2,3))', '((1,2,3),(1,3,9))']) {
      const { material, mesh } = look(covered("#310=IFCIMAGETEXTURE(.T.,.T.,'DIFFUSE',$,$,'brick.png');", '(#310)', index));
      expect([material.texture, mesh.pictureUvs]).toEqual([null, undefined]);
    }
  });
}); // prettier-ignore
