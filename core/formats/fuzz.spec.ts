import { Document, WebIO } from '@gltf-transform/core';
import { strToU8, zipSync } from 'fflate';
import { beforeAll, describe, expect, it } from 'vitest';
import { MeshBuilder } from '../geometry/shapes';
import { randomInteger } from '../random';
import { readDxf } from './dxf';
import { gltfReader, readGltf, type GltfReader } from './gltf';
import { ModelFileError, NO_SIDE_FILES, type ModelFile } from './model-file';
import { readObj, readPly, readStl } from './plain-meshes';
import { read3mf, readCollada } from './xml-meshes';
import { mutated } from './mutated';
import { openZip } from './zip';

/** Sound files with bytes changed, cut out, doubled or swapped at random: each is read or refused in a sentence. Fixed seeds. */

const MUTATIONS = 120;

async function survives(
  sound: Uint8Array,
  seed: number,
  read: (bytes: Uint8Array<ArrayBuffer>) => unknown,
  times = MUTATIONS,
): Promise<number> {
  const random = randomInteger(seed);
  let refused = 0;
  for (let i = 0; i < times; i++) {
    const bytes = mutated(sound, random);
    try {
      await read(bytes);
    } catch (error) {
      if (!(error instanceof ModelFileError))
        throw new Error(`mutation ${String(i)}: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`);
      expect(error.message).toMatch(/^x\.\w+.*\.$/s);
      refused++;
    }
  }
  return refused;
}

const OBJ =
  'mtllib a.mtl\no Wall\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl Brick\nf 1/1 2/2 3/3 4/4\no Roof\nf -4 -3 -2\n';
const STL = 'solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 9 0 0\nvertex 0 9 0\nendloop\nendfacet\nendsolid x\n';
const PLY =
  'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n';
const DXF =
  '0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n6\n0\nENDSEC\n0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n8\n0\n2\nB\n70\n0\n10\n0\n20\n0\n30\n0\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n1\n21\n1\n0\nENDBLK\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\n3DFACE\n5\nA\n8\nRoof\n10\n0\n20\n0\n30\n0\n11\n1\n21\n0\n31\n0\n12\n1\n22\n1\n32\n0\n13\n0\n23\n1\n33\n0\n0\nINSERT\n5\nB1\n8\nL\n2\nB\n10\n3\n20\n3\n0\nLWPOLYLINE\n5\nC\n8\nL\n90\n2\n70\n0\n10\n0\n20\n0\n42\n1\n10\n2\n20\n0\n0\nENDSEC\n0\nEOF\n';
const DAE =
  '<?xml version="1.0"?><COLLADA version="1.4.1"><asset><unit meter="1"/><up_axis>Z_UP</up_axis></asset><library_geometries><geometry id="g"><mesh><source id="p"><float_array id="pa" count="9">0 0 0 1 0 0 0 0 2</float_array><technique_common><accessor source="#pa" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source><vertices id="v"><input semantic="POSITION" source="#p"/></vertices><triangles count="1"><input semantic="VERTEX" source="#v" offset="0"/><p>0 1 2</p></triangles></mesh></geometry></library_geometries><library_visual_scenes><visual_scene id="s"><node id="n" name="Wall"><instance_geometry url="#g"/></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>';
const THREE_MF = zipSync({
  '_rels/.rels': strToU8('<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/m.model" Id="r" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'),
  '3D/m.model': strToU8('<?xml version="1.0"?><model unit="meter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="0" z="2"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object></resources><build><item objectid="1"/></build></model>'),
}, { level: 0 }); // prettier-ignore

const readers: [string, Uint8Array, (bytes: Uint8Array<ArrayBuffer>) => ModelFile][] = [
  ['obj', strToU8(OBJ), (b) => readObj(b, 'x.obj', NO_SIDE_FILES)],
  ['stl', strToU8(STL), (b) => readStl(b, 'x.stl')],
  ['ply', strToU8(PLY), (b) => readPly(b, 'x.ply')],
  ['dxf', strToU8(DXF), (b) => readDxf(b, 'x.dxf')],
  ['dae', strToU8(DAE), (b) => readCollada(b, 'x.dae', NO_SIDE_FILES)],
  ['3mf', THREE_MF, (b) => read3mf(b, 'x.3mf')],
];

describe('changed at random', () => {
  it.each(readers)('%s is read or refused', async (_, sound, read) => {
    read(Uint8Array.from(sound));
    expect(await survives(sound, 7, read)).toBeGreaterThan(0);
  });

  it('a zip is opened or refused', async () => {
    const sound = zipSync({ 'a.obj': strToU8(OBJ.repeat(20)) });
    const refused = await survives(sound, 11, (bytes) => openZip(bytes, 'x.zip').read('a.obj'));
    expect(refused).toBeGreaterThan(0);
  });

  let gltf: GltfReader;
  beforeAll(async () => {
    gltf = await gltfReader();
  });

  it('a GLB is read or refused', async () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const { positions, indices } = new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build();
    const primitive = document.createPrimitive().setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(new Float32Array(positions)).setBuffer(buffer)).setIndices(document.createAccessor().setType('SCALAR').setArray(new Uint32Array(indices)).setBuffer(buffer)); // prettier-ignore
    document.createScene().addChild(document.createNode('Box').setMesh(document.createMesh().addPrimitive(primitive)));
    expect(await survives(await new WebIO().writeBinary(document), 13, (bytes) => readGltf(gltf, bytes, 'x.glb'))).toBeGreaterThan(0);
  });
});
