import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { transformPoint } from '../geometry/mat4';
import { decodeMesh } from '../geometry/mesh';
import { nearOrigin } from './local-origin';
import type { ModelFile } from './model-file';
import { readObj, readPly, readStl } from './plain-meshes';
import { plainName } from './side-files';
import { textOf } from './text';
import { read3mf, readCollada } from './xml-meshes';
import { openZip } from './zip';

/** Small files written here, so that what must come out is known. */

const bytes = (text: string) => strToU8(text);
const nothing = () => undefined;

function corners({ model, meshes }: ModelFile): string[] {
  return [...model.elements.values()].flatMap((e) =>
    e.parts.flatMap((part) => {
      const mesh = decodeMesh(meshes.get(part.mesh)!);
      if (typeof mesh === 'string') throw new Error(mesh);
      return Array.from(
        { length: mesh.positions.length / 3 },
        (_, i) =>
        transformPoint(e.transform, [mesh.positions[i * 3]!, mesh.positions[i * 3 + 1]!, mesh.positions[i * 3 + 2]!]).map((v) => Number(v.toFixed(5)) + 0).join(' '), // prettier-ignore
      );
    }),
  );
}

function sentence(read: () => unknown): string {
  try {
    read();
  } catch (error) {
    expect((error as { code?: string }).code).toBe('model-file');
    return (error as Error).message;
  }
  throw new Error('was read');
}

const SQUARE = 'v 0 0 0\nv 2 0 0\nv 2 0 -3\nv 0 0 -3\nvt 0 0\nvt 1 0\nvt 1 1.5\nvt 0 1.5\n';
const FACES = 'o Terrace\nusemtl Boards\nf 1/1 2/2 3/3 4/4\n';

describe('OBJ', () => {
  it('turns y up to z up and welds the corners of its faces', () => {
    const file = readObj(bytes(SQUARE + FACES), 'a.obj', nothing);
    expect(corners(file).sort()).toEqual(['0 0 0', '0 3 0', '2 0 0', '2 3 0']);
    expect([...file.model.elements.values()][0]).toMatchObject({ id: '/Terrace', name: 'Terrace', parts: [{ material: 'Boards' }] });
    expect(file.format).toBe('OBJ, taken as metres');
  });

  it('that is cut off says so, and shows the rest', () => {
    const whole = SQUARE + FACES;
    const remarks = (text: string) => readObj(bytes(text), 'a.obj', nothing).model.remarks;
    expect(remarks(whole)).toBeUndefined();
    expect(remarks(whole.trimEnd())).toBeUndefined();
    expect(remarks(`${whole}f 1 2`)).toEqual(['The file is cut off in the middle of a line: what followed is missing.']);
    expect(remarks(`${whole}f 1 2 9\nf 2 3 12\n`)).toEqual(['The file is not whole: 2 of its faces name vertices that it does not have, and are not shown.']); // prettier-ignore
    const shown = corners(readObj(bytes(`${whole}f 1 2 9\n`), 'a.obj', nothing));
    expect([...new Set(shown)].sort()).toEqual(['0 0 0', '0 3 0', '2 0 0', '2 3 0']);
  });

  it('takes colours, opacity and pictures from its MTL, and says which picture is missing', () => {
    const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 1]);
    const mtl = 'newmtl Boards\nKd 0.5 0.25 0.1\nd 0.4\nmap_Kd my boards.png\nnewmtl Other\nmap_Kd gone.png\n';
    const beside = (name: string) => (name === 'a.mtl' ? bytes(mtl) : name === 'my boards.png' ? png : undefined);
    const file = readObj(bytes(`mtllib a.mtl\n${SQUARE}${FACES}usemtl Other\nf 1 2 3\n`), 'a.obj', beside);
    const [boards, other] = [...file.model.materials.values()];
    expect(boards).toMatchObject({ id: 'Boards', opacity: 0.4 });
    [0.5, 0.25, 0.1].forEach((v, k) => { expect(boards!.colour[k]).toBeCloseTo(v, 3); }); // prettier-ignore
    // One repeat covers two metres: the picture's unit square lies on 2 by 2 m of the surface.
    expect(boards!.texture!.widthM).toBeCloseTo(2, 6);
    expect([...file.pictures.values()]).toEqual([png]);
    expect(other).toMatchObject({ texture: null, missing: 'gone.png' });
  });

  it('takes shine, metal, varnish, index and normals from its MTL, and lays each picture as it says', () => {
    const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 1]);
    const mtl = `newmtl Boards
Ks 0.5 0.5 0.5
Ns 48
Ni 1.45
map_Kd -s 2 4 1 -o 0.5 0 0 boards.png
norm weave.png
newmtl Dull
Ks 0 0 0
Ns 500
newmtl Steel
Ns 10
Pr 0.3
Pm 1
Pc 0.5
Pcr 0.1
Ni 1
newmtl Silent
Kd 0.5 0.5 0.5
newmtl Broken
Pr nothing
Pm 7
`;
    const beside = (name: string) => (name === 'a.mtl' ? bytes(mtl) : name.endsWith('.png') ? png : undefined);
    const uses = ['Dull', 'Steel', 'Silent', 'Broken'].map((name) => `usemtl ${name}\nf 1 2 3\n`).join('');
    const { model, meshes } = readObj(bytes(`mtllib a.mtl\n${SQUARE}${FACES}${uses}`), 'a.obj', beside);
    const boards = model.materials.get('Boards')!;
    // 2 / (48 + 2) is 0.04: alpha 0.2 (Walter and others 2007).
    expect(boards.roughness).toBeCloseTo(Math.sqrt(0.2), 6);
    expect(boards.ior).toBe(1.45);
    expect(boards.texture).toMatchObject({ sets: { normal: 1 } });
    const part = [...model.elements.values()][0]!.parts.find((p) => p.material === 'Boards')!;
    const mesh = decodeMesh(meshes.get(part.mesh)!);
    if (typeof mesh === 'string') throw new Error(mesh);
    const most = (uvs: Float32Array) => [0, 1].map((k) => Math.max(...uvs.filter((_, i) => i % 2 === k)));
    expect([most(mesh.pictureUvs!), most(mesh.furtherUvs![0]!)]).toEqual([[2.5, 6], [1, 1.5]]);
    expect(model.materials.get('Dull')!.roughness).toBe(1);
    expect(model.materials.get('Steel')).toMatchObject({ roughness: 0.3, metalness: 1, clearCoat: 0.5, clearCoatRoughness: 0.1 });
    expect(model.materials.get('Steel')!.ior).toBeUndefined();
    const silent = model.materials.get('Silent')!;
    expect([silent.roughness, silent.metalness]).toEqual([undefined, undefined]);
    expect([model.materials.get('Broken')!.roughness, model.materials.get('Broken')!.metalness]).toEqual([undefined, 1]);
  }); // prettier-ignore

  it('in millimetres is told by its reach', () => {
    const large = readObj(bytes(SQUARE.replace(/(\d)(?= |\n)/g, (d) => (d === '0' ? '0' : `${d}000`)) + FACES), 'a.obj', nothing);
    expect(large.format).toBe('OBJ, taken as millimetres');
  });

  it('far out keeps its millimetres, and says where it lies', () => {
    const far = 'v 412000.001 3 -5310000.002\nv 412001.001 3 -5310000.002\nv 412001.001 3 -5310002.004\nf 1 2 3\n';
    const file = readObj(bytes(far), 'far.obj', nothing);
    expect(file.model.basePoint).toEqual({ eastM: 412_000, northM: 5_310_000, heightM: 0, turnDeg: 0 });
    expect(corners(file).sort()).toEqual(['0.001 0.002 3', '1.001 0.002 3', '1.001 2.004 3']);
    // A later export whose first point lies in another square kilometre stays where it was.
    const later = readObj(bytes(far.replace('v 412000.001', 'v 410000.001')), 'far.obj', nothing);
    const kept = nearOrigin(later.model, file.model.basePoint, later.broughtNear);
    expect(corners({ ...later, model: kept }).map((p) => p.split(' ').map((v) => Number(v).toFixed(3)).join(' '))).toContain('1.001 0.002 3.000'); // prettier-ignore
  });

  it('of other text is refused', () => {
    expect(sentence(() => readObj(bytes('Dear all,'), 'a.obj', nothing))).toBe('a.obj is not an OBJ: it has no line of a vertex.');
    expect(sentence(() => readObj(bytes(`${SQUARE}v nan 0 0\n${FACES}`), 'a.obj', nothing))).toContain('not numbers');
    expect(sentence(() => readObj(bytes('v 0 0 0\n'), 'a.obj', nothing))).toBe('a.obj holds no surfaces.');
  });
});

describe('STL', () => {
  const facet = (z: number) =>
    `facet normal 0 0 1\nouter loop\nvertex 0 0 ${String(z)}\nvertex 900 0 0\nvertex 0 900 0\nendloop\nendfacet\n`;
  it('is in millimetres unless it is small, z up, welded', () => {
    const file = readStl(bytes(`solid x\n${facet(0)}${facet(300)}endsolid x\n`), 'chair.stl');
    expect(file.format).toBe('STL, taken as millimetres');
    expect(corners(file).sort()).toEqual(['0 0 0', '0 0 0.3', '0 0.9 0', '0.9 0 0']);
  });
  it('cut off is refused', () => {
    expect(sentence(() => readStl(bytes(`solid x\n${facet(0)}`), 'a.stl'))).toBe('a.stl is cut off: its last line endsolid is missing.');
    const binary = new Uint8Array(84 + 50);
    new DataView(binary.buffer).setUint32(80, 4_000_000_000, true);
    expect(sentence(() => readStl(binary, 'b.stl'))).toContain('b.stl is cut off');
  });
});

describe('PLY', () => {
  const ply = (vertices: number, faces: number) =>
    `ply\nformat ascii 1.0\nelement vertex ${String(vertices)}\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face ${String(faces)}\nproperty list uchar int vertex_indices\nend_header\n0 0 0 255 0 0\n1 0 0 255 0 0\n0 1 0 255 0 0\n3 0 1 2\n`;
  it('brings the mean of its points’ colours', () => {
    const { model } = readPly(bytes(ply(3, 1)), 'a.ply');
    [1, 0, 0].forEach((v, k) => { expect([...model.materials.values()][0]!.colour[k]).toBeCloseTo(v, 9); }); // prettier-ignore
  });
  it('of absurd counts, of points alone, or of something else is refused', () => {
    expect(sentence(() => readPly(bytes(ply(4_000_000_000, 1)), 'a.ply'))).toBe('a.ply is cut off: it names 4000000000 vertices and is too short for them.');
    expect(sentence(() => readPly(bytes(ply(3, 0)), 'a.ply'))).toBe('a.ply holds points without surfaces.');
    expect(sentence(() => readPly(bytes('plymouth'), 'a.ply'))).toBe('a.ply is not a PLY: its header is missing.');
  }); // prettier-ignore
});

describe('COLLADA', () => {
  const dae = (
    unit: string,
    up: string,
  ) => `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
    <asset><unit meter="${unit}" name="u"/><up_axis>${up}</up_axis></asset>
    <library_geometries><geometry id="g" name="g"><mesh>
      <source id="p"><float_array id="pa" count="9">0 0 0 100 0 0 0 0 200</float_array><technique_common><accessor source="#pa" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
      <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
      <triangles count="1"><input semantic="VERTEX" source="#v" offset="0"/><p>0 1 2</p></triangles></mesh></geometry></library_geometries>
    <library_visual_scenes><visual_scene id="s"><node id="n" name="Wall &amp; door"><instance_geometry url="#g"/></node></visual_scene></library_visual_scenes>
    <scene><instance_visual_scene url="#s"/></scene></COLLADA>`;
  it('has the unit and the up axis that it says', () => {
    const zUp = readCollada(bytes(dae('0.01', 'Z_UP')), 'a.dae', nothing);
    expect(corners(zUp).sort()).toEqual(['0 0 0', '0 0 2', '1 0 0']);
    expect([...zUp.model.elements.values()][0]!.name).toBe('Wall & door');
    expect(corners(readCollada(bytes(dae('1', 'Y_UP')), 'a.dae', nothing)).sort()).toEqual(['0 -200 0', '0 0 0', '100 0 0']);
  });
  it('cut off or something else is refused', () => {
    expect(sentence(() => readCollada(bytes(dae('1', 'Z_UP').slice(0, 500)), 'a.dae', nothing))).toBe('a.dae is cut off: its end mark </COLLADA> is missing.');
    expect(sentence(() => readCollada(bytes('<html></html>'), 'a.dae', nothing))).toBe('a.dae is not COLLADA: its root is missing.');
  }); // prettier-ignore
});

describe('3MF', () => {
  const threeMf = (unit: string) =>
    zipSync({
      '_rels/.rels': bytes('<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/m.model" Id="r" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'),
      '3D/m.model': bytes(`<?xml version="1.0"?><model unit="${unit}" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="0" z="2"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object></resources><build><item objectid="1"/></build></model>`),
    }); // prettier-ignore
  it('brings its pictures with their size on the surface', () => {
    // A triangle whose picture coordinates reach twice across two and one units: 3MF Materials and Properties Extension.
    const kinds = 'http://schemas.microsoft.com/3dmanufacturing/2013/01/';
    const picture = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 1, 2, 3]);
    const zip = zipSync({
      '_rels/.rels': bytes(`<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/m.model" Id="r" Type="${kinds}3dmodel"/></Relationships>`),
      '3D/_rels/m.model.rels': bytes(`<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/Texture/oak.png" Id="t" Type="${kinds}3dtexture"/></Relationships>`),
      '3D/Texture/oak.png': picture,
      '3D/m.model': bytes(`<?xml version="1.0"?><model unit="meter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" xmlns:m="http://schemas.microsoft.com/3dmanufacturing/material/2015/02"><resources><m:texture2d id="5" path="/3D/Texture/oak.png" contenttype="image/png"/><m:texture2dgroup id="6" texid="5"><m:tex2coord u="0" v="0"/><m:tex2coord u="2" v="0"/><m:tex2coord u="0" v="2"/></m:texture2dgroup><object id="1" type="model" pid="6" pindex="0"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="3" y="0" z="0"/><vertex x="0" y="0" z="3"/></vertices><triangles><triangle v1="0" v2="1" v3="2" pid="6" p1="0" p2="1" p3="2"/></triangles></mesh></object></resources><build><item objectid="1"/></build></model>`),
    }); // prettier-ignore
    const file = read3mf(zip, 'a.3mf');
    const [material] = [...file.model.materials.values()];
    expect([material!.texture!.widthM, material!.texture!.heightM]).toEqual([1.5, 1.5]);
    expect(file.pictures.get(material!.texture!.image!)).toEqual(picture);
    // What was borrowed for the parser is given back.
    expect(new Blob(['x']).size).toBe(1);
  });
  it('has the unit that it says', () => {
    expect(corners(read3mf(threeMf('inch'), 'a.3mf')).sort()).toEqual(['0 0 0', '0 0 0.0508', '0.0254 0 0']);
    expect(sentence(() => read3mf(threeMf('cubit'), 'a.3mf'))).toBe('a.3mf is in “cubit”, which is no unit of 3MF.');
    expect(sentence(() => read3mf(threeMf('inch').slice(0, 200), 'a.3mf'))).toBe('a.3mf is a broken or cut off zip.');
  });
});

describe('a zip', () => {
  it('is unpacked file by file', () => {
    const zip = openZip(zipSync({ 'x/a.obj': bytes(SQUARE), 'x/b.mtl': bytes('newmtl m') }), 'a.zip');
    expect([...zip.names]).toEqual(['x/a.obj', 'x/b.mtl']);
    expect(textOf(zip.read('x/a.obj')!, 't')).toBe(SQUARE);
    expect(zip.read('x/../x/a.obj')).toBeUndefined();
  });
  it('that would unpack to far more than it holds is not opened, honest about it or not', () => {
    const bomb = zipSync({ 'bomb.obj': new Uint8Array(40_000_000) }, { level: 9 });
    expect(sentence(() => openZip(bomb, 'bomb.zip'))).toBe('bomb.zip would unpack to far more than it holds; it is not opened.');
    // The same with a header that says ten bytes: no more than those are ever unpacked.
    const lying = Uint8Array.from(bomb);
    const view = new DataView(lying.buffer);
    for (let i = 0; i + 4 < lying.length; i++) {
      if (view.getUint32(i, true) === 0x02014b50) view.setUint32(i + 24, 10, true);
      if (view.getUint32(i, true) === 0x04034b50) view.setUint32(i + 22, 10, true);
    }
    let unpacked = 0;
    try {
      unpacked = openZip(lying, 'lying.zip').read('bomb.obj')!.length;
    } catch (error) {
      expect((error as Error).message).toBe('lying.zip is a broken or cut off zip.');
    }
    expect(unpacked).toBeLessThanOrEqual(10);
  });
});

describe('names of files beside', () => {
  it('never lead outside', () => {
    expect(['.\\maps\\a b.png', 'a%20b.png', '../../etc/passwd', 'C:\\x\\y.png', 'file:///c:/x/y.png', 'a/../../b', '100%.png'].map(plainName)).toEqual([
      'maps/a b.png', 'a b.png', 'etc/passwd', 'x/y.png', 'x/y.png', 'b', '100%.png',
    ]); // prettier-ignore
  });
});

describe('text', () => {
  it('is read in the encoding it gives away', () => {
    const utf16 = (text: string, swap: boolean) => new Uint8Array(Array.from(text).flatMap((c) => (swap ? [c.charCodeAt(0) >> 8, c.charCodeAt(0) & 255] : [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8])));
    expect(textOf(utf16('v 1 ü', true), 't')).toBe('v 1 ü');
    expect(textOf(utf16('v 1 ü', false), 't')).toBe('v 1 ü');
    expect(textOf(new TextEncoder().encode('Tür'), 't')).toBe('Tür');
    expect(textOf(new Uint8Array([0x54, 0xfc, 0x72]), 't')).toBe('Tür');
  }); // prettier-ignore
});
