import { zipSync } from 'fflate';
import { cpSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writeIfc } from '../../author/ifc-writer';
import { AuthorDocument } from '../../author/edits';
import { buildMarramLanding } from '../../author/model/build';
import { decodeMesh, meshVolume } from '../../core/geometry/mesh';
import { isShown } from '../../core/model/model';
import { storedMesh } from '../../author/model/kit';
import type { ModelChange, ModelElement } from '../../core/model/schema';
import type { ReplacementOffer } from './file-sources';
import { openPage, removeFolder, say, startServer, temporaryFolder, type RunningServer } from '../testing/running-server';

/** IFC2x3 house of a university institute, from Debian's assimp-testmodels; skipped where the package is not installed. */
const HOUSE = '/usr/share/assimp/models/IFC/AC14-FZK-Haus.ifc';

const folder = temporaryFolder();
const models = path.join(folder, 'models');
let server: RunningServer;
beforeAll(async () => {
  mkdirSync(models);
  server = await startServer(path.join(folder, 'data'), '--watch', models);
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

const upload = (name: string, bytes: Uint8Array<ArrayBuffer>) =>
  fetch(`${server.url}/api/sources/file?name=${encodeURIComponent(name)}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: bytes,
  });
const bytesOf = (text: string) => new TextEncoder().encode(text);

async function modelOf(source: string): Promise<ModelChange> {
  const page = await openPage(server);
  const { change } = await page.next('model', (m) => m.source === source);
  page.close();
  return change;
}

async function imported(name: string, bytes: Uint8Array<ArrayBuffer>): Promise<{ source: string; model: ModelChange }> {
  const response = await upload(name, bytes);
  expect(response.status).toBe(201);
  const { source } = (await response.json()) as { source: string };
  return { source, model: await modelOf(source) };
}

describe('the author’s own IFC4', () => {
  it('brings the same elements, storeys, materials, openings, site and true north back', async () => {
    const author = buildMarramLanding(new AuthorDocument().parameters);
    const { model } = await imported('marram.ifc', bytesOf(writeIfc(author)));
    const hidden = new Set(author.presentation.hiddenLayers);
    const written = [...author.elements.values()].filter((e) => isShown(e, author.presentation, hidden) && e.class !== 'Grid');
    const built = model.elements.filter((e) => e.class !== 'OpeningElement' && e.class !== 'Space');
    expect(built).toHaveLength(written.length);
    expect(new Set(built.map((e) => e.storey))).toEqual(new Set(written.map((e) => e.storey)));
    // The first part's material is the one that an element is associated with.
    const names = new Set(written.map((e) => author.materials.get(e.parts[0]!.material)!.name));
    for (const name of names) expect(model.materials.some((m) => m.name === name)).toBe(true);
    expect(model.site).toMatchObject({ name: 'Marram Sound', elevationM: 4 });
    expect(model.site!.latitudeDeg).toBeCloseTo(57.2, 5);
    expect(model.site!.longitudeDeg).toBeCloseTo(-4.1, 5);
    expect(model.site!.trueNorthDeg).toBeCloseTo(-12, 3);
    // The openings are cut: a wall with a window has the volume of its outline less the hole, to a thousandth.
    const wall = author.elements.get('wall-n2-core')!;
    const back = built.find((e) => e.name === wall.name)!;
    const response = await fetch(`${server.url}/api/blobs/${back.parts[0]!.mesh}`);
    const mesh = decodeMesh(new Uint8Array(await response.arrayBuffer()));
    if (typeof mesh === 'string') throw new Error(mesh);
    const own = meshVolume(storedMesh(wall.parts[0]!.mesh)!.mesh);
    expect(Math.abs(Math.abs(meshVolume(mesh)) / own - 1)).toBeLessThan(0.001);
  });

  it('brings its lamps back: where, which way, how much light of which colour, how wide, how dimmed', async () => {
    const author = buildMarramLanding(new AuthorDocument().parameters);
    const { model } = await imported('lamps.ifc', bytesOf(writeIfc(author)));
    expect(model.luminaires).toHaveLength(author.luminaires.size);
    for (const lamp of author.luminaires.values()) {
      const back = model.luminaires.find((l) => l.position.every((v, k) => Math.abs(v - lamp.position[k]!) < 1e-4))!;
      const { fluxLm, colourTemperatureK, dim } = lamp;
      expect(back, lamp.id).toMatchObject({ fluxLm, colourTemperatureK });
      expect(back.dim).toBeCloseTo(dim, 5);
      expect(Math.abs(back.beamDeg - lamp.beamDeg)).toBeLessThanOrEqual(1);
      back.direction.forEach((v, k) => { expect(v).toBeCloseTo(lamp.direction[k]! / Math.hypot(...lamp.direction), 5); }); // prettier-ignore
      expect(back.element === null).toBe(lamp.element === null);
    }
  });

  it('brings the volumes of its solid elements back, to half a hundredth', async () => {
    const author = buildMarramLanding(new AuthorDocument().parameters);
    const { model } = await imported('volumes.ifc', bytesOf(writeIfc(author)));
    const byName = (elements: Iterable<ModelElement>) => {
      const out = new Map<string, ModelElement | undefined>();
      // Names that several elements have are left out.
      for (const e of elements) out.set(e.name, out.has(e.name) ? undefined : e);
      return out;
    };
    const back = byName(model.elements);
    let compared = 0;
    for (const [name, element] of byName(author.elements.values())) {
      const other = back.get(name);
      if (!element || !other || !['Wall', 'Slab', 'Column', 'Beam'].includes(element.class)) continue;
      const own = element.parts.reduce((sum, p) => sum + meshVolume(storedMesh(p.mesh)!.mesh), 0);
      let read = 0;
      for (const part of other.parts) {
        const mesh = decodeMesh(new Uint8Array(await (await fetch(`${server.url}/api/blobs/${part.mesh}`)).arrayBuffer()));
        if (typeof mesh === 'string') throw new Error(mesh);
        read += Math.abs(meshVolume(mesh));
      }
      expect(Math.abs(read / own - 1), name).toBeLessThan(0.005);
      compared++;
    }
    expect(compared).toBeGreaterThan(60);
  });

  it('arrives as a delta when the watched file changes, element by element', async () => {
    const document = new AuthorDocument();
    const file = path.join(models, 'watched.ifc');
    writeFileSync(file, writeIfc(buildMarramLanding(document.parameters)));
    const response = await fetch(`${server.url}/api/sources/watch`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ path: file }),
    });
    const { source } = (await response.json()) as { source: string };
    const page = await openPage(server);
    await page.next('model', (m) => m.source === source);
    document.run({ edit: 'delete-column', column: 'column-s3' });
    // As tools save: a new file is put in the old one's place.
    writeFileSync(`${file}.new`, writeIfc(buildMarramLanding(document.parameters)));
    renameSync(`${file}.new`, file);
    const { change } = await page.next('model', (m) => m.source === source && !m.change.reset);
    expect(change.elements).toHaveLength(0);
    expect(change.remove.elements).toHaveLength(2); // the column and its shoe
    page.close();
  });
});

describe.skipIf(!existsSync(HOUSE))('the IFC2x3 house', () => {
  it('has the storeys, walls, windows, doors and slabs that its STEP text counts', async () => {
    const text = readFileSync(HOUSE, 'latin1');
    const { model } = await imported('house.ifc', new Uint8Array(readFileSync(HOUSE)));
    // The independent pass: entities counted in the text itself.
    const inText = (entity: string) => (text.match(new RegExp(`=\\s*${entity}\\(`, 'g')) ?? []).length;
    const inModel = (...classes: string[]) => model.elements.filter((e) => classes.includes(e.class)).length;
    expect(inModel('Window')).toBe(inText('IFCWINDOW'));
    expect(inModel('Door')).toBe(inText('IFCDOOR'));
    expect(inModel('Wall', 'WallStandardCase')).toBe(inText('IFCWALL') + inText('IFCWALLSTANDARDCASE'));
    expect(inModel('Slab')).toBe(inText('IFCSLAB'));
    expect(inModel('Beam')).toBe(inText('IFCBEAM'));
    const storeys = [...text.matchAll(/IFCBUILDINGSTOREY\('[^']*',[^,]*,'([^']*)'/g)].map((m) => m[1]);
    for (const storey of storeys) expect(model.elements.some((e) => e.storey === storey)).toBe(true);
    // 49 degrees 6 minutes north, as the site's own line says.
    const latitude = /IFCSITE\(.*?\((\d+),(\d+),(\d+)(?:,(\d+))?\),\((\d+),(\d+),(\d+)/s.exec(text)!;
    expect(model.site!.latitudeDeg).toBeCloseTo(Number(latitude[1]) + Number(latitude[2]) / 60 + Number(latitude[3]) / 3600, 3);
    // Every GlobalId is one of the file's.
    for (const e of model.elements) expect(text.includes(`'${e.id}'`)).toBe(true);
  });
});

describe.skipIf(!existsSync(HOUSE))('what the IFC2x3 house says beside its shapes', () => {
  it('is kept beside the model: the classification that its text relates', async () => {
    const text = readFileSync(HOUSE, 'latin1');
    const { source } = await imported('properties.ifc', new Uint8Array(readFileSync(HOUSE)));
    const page = await openPage(server);
    await page.next('sources', (m) => m.sources.some((s) => s.id === source && s.hasProperties));
    page.close();
    const of = (element: string) => fetch(`${server.url}/api/sources/${source}/properties?element=${encodeURIComponent(element)}`);
    // The independent pass: the relation, what it relates, and the reference, in the text itself.
    const [, related, reference] = /IFCRELASSOCIATESCLASSIFICATION\('[^']*',#\d+,[^(]*\(([^)]*)\),#(\d+)\)/.exec(text)!;
    const code = new RegExp(`#${reference!}=\\s*IFCCLASSIFICATIONREFERENCE\\([^,]*,'([^']*)'`).exec(text)![1];
    for (const id of related!.split(',')) {
      const globalId = new RegExp(`^${id}=\\s*IFC\\w+\\('([^']+)'`, 'm').exec(text)![1]!;
      const { classifications } = (await (await of(globalId)).json()) as { classifications: { code: string }[] };
      expect(classifications.map((c) => c.code)).toContain(code);
    }
    expect((await of('nobody')).status).toBe(404);
  });

  it('is kept where it comes in a zip, too', async () => {
    const { source } = await imported('properties.zip', zipSync({ 'house.ifc': new Uint8Array(readFileSync(HOUSE)) }, { level: 1 }));
    const page = await openPage(server);
    await page.next('sources', (m) => m.sources.some((s) => s.id === source && s.hasProperties));
    page.close();
  });
});

describe('an IFC file in the place of another', () => {
  const offer = async (source: string, name: string, bytes: Uint8Array<ArrayBuffer>) => {
    const response = await fetch(`${server.url}/api/sources/${source}/offer?name=${encodeURIComponent(name)}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: bytes,
    });
    return { status: response.status, body: (await response.json()) as ReplacementOffer & { message: string } };
  };
  const take = (source: string, number: number) =>
    fetch(`${server.url}/api/sources/${source}/offer/${String(number)}/take`, { method: 'POST' });
  /** The same building as another tool would write it: no element keeps its id. */
  const rewritten = (text: string) =>
    text.replace(/\('([0-9A-Za-z_$]{22})'/g, (_, id: string) => `('${id[0]!}${id.slice(1).split('').reverse().join('')}'`);

  it('is weighed first, then taken, and decisions go on by name', async () => {
    const text = writeIfc(buildMarramLanding(new AuthorDocument().parameters));
    const { source, model } = await imported('first-export.ifc', bytesOf(text));
    const wall = model.elements.find((e) => e.class === 'Wall')!;
    const page = await openPage(server);
    say(page, { type: 'command', id: '1', command: { type: 'assign-element-finish', source, element: wall.id, finish: 'oak' } });
    await page.next('changes', (m) => m.reply === '1');

    const { status, body } = await offer(source, 'second-export.ifc', bytesOf(rewritten(text)));
    expect(status).toBe(200);
    expect(body.matches.elements).toMatchObject({ kept: 0, gone: [], added: 0 });
    expect(body.matches.elements.byName).toHaveLength(model.elements.length);
    // Nothing has changed yet.
    expect((await modelOf(source)).elements.some((e) => e.id === wall.id)).toBe(true);
    expect((await take(source, body.number + 1)).status).toBe(409);

    expect((await take(source, body.number)).status).toBe(201);
    const after = await modelOf(source);
    const [, now] = body.matches.elements.byName.find(([from]) => from === wall.id)!;
    // The same wall: same name, same place.
    expect(after.elements.find((e) => e.id === now)).toMatchObject({ name: wall.name, transform: wall.transform });
    const { elements, materials } = body.matches;
    say(page, { type: 'command', id: '2', command: { type: 'carry-decisions', source, elements: elements.byName, materials: materials.byName, name: 'x' } }); // prettier-ignore
    const { changes } = await page.next('changes', (m) => m.reply === '2');
    expect(changes).toContainEqual(expect.objectContaining({ key: `element/${source}/${now}` }));
    page.close();

    // The source goes by the new file's name; the old name is free for another source.
    const again = (await (await upload('second-export.ifc', bytesOf(rewritten(text)))).json()) as { source: string; changed: number };
    expect(again).toEqual({ source, changed: 0 });
    const other = (await (await upload('first-export.ifc', bytesOf(text))).json()) as { source: string };
    expect(other.source).not.toBe(source);
  });

  it('is refused with a sentence when it cannot be read, or when the source has changed meanwhile', async () => {
    const text = writeIfc(buildMarramLanding(new AuthorDocument().parameters));
    const { source, model } = await imported('third-export.ifc', bytesOf(text));
    const { name } = model.elements.find((e) => e.class === 'Wall')!;
    const broken = await offer(source, 'broken.ifc', bytesOf(text.slice(0, 2000)));
    expect(broken).toMatchObject({ status: 422, body: { message: expect.stringContaining('broken.ifc') as string } });
    expect(await offer('no-such-source', 'x.ifc', bytesOf(text))).toMatchObject({ status: 422 });
    const { body } = await offer(source, 'fourth-export.ifc', bytesOf(rewritten(text)));
    expect((await upload('third-export.ifc', bytesOf(text.replace(`'${name}'`, `'${name} again'`)))).status).toBe(201);
    const late = await take(source, body.number);
    expect(late.status).toBe(409);
    expect(((await late.json()) as { message: string }).message).toContain('has changed meanwhile');
  });
});

describe('bad files', () => {
  const sentence = async (name: string, bytes: Uint8Array<ArrayBuffer>) => {
    const response = await upload(name, bytes);
    expect(response.status).toBeGreaterThanOrEqual(400);
    return ((await response.json()) as { message: string }).message;
  };

  it('get a sentence with the reason, and leave the project as it was', async () => {
    const good = writeIfc(buildMarramLanding(new AuthorDocument().parameters));
    const page = await openPage(server);
    const before = (await page.next('sources')).sources.length;
    expect(await sentence('cut.ifc', bytesOf(good.slice(0, good.length / 2)))).toBe(
      'cut.ifc is cut off: its end mark END-ISO-10303-21 is missing.',
    );
    expect(await sentence('notes.ifc', bytesOf('Dear all, please find attached'))).toContain('does not begin with ISO-10303-21');
    expect(await sentence('empty.ifc', new Uint8Array())).toBe('empty.ifc is empty.');
    expect(await sentence('old.ifc', bytesOf(good.replace("'IFC4'", "'CONFIG_CONTROL_DESIGN'")))).toContain(
      'IFC2x3, IFC4 and IFC4x3 are read',
    );
    expect(await sentence('hollow.ifc', bytesOf(`${good.slice(0, good.indexOf('DATA;'))}DATA;\nENDSEC;\nEND-ISO-10303-21;\n`))).toContain(
      'no building elements',
    );
    const after = await openPage(server);
    expect((await after.next('sources')).sources).toHaveLength(before);
    page.close();
    after.close();
  });

  it('outside the allowed folders are not read', async () => {
    cpSync(path.join(models, 'watched.ifc'), path.join(folder, 'outside.ifc'));
    const watch = (asked: string) =>
      fetch(`${server.url}/api/sources/watch`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ path: asked }),
      });
    for (const asked of [path.join(folder, 'outside.ifc'), path.join(models, '..', 'outside.ifc'), '/etc/hostname']) {
      const response = await watch(asked);
      expect(response.status).toBe(422);
      expect(((await response.json()) as { message: string }).message).toContain('outside the folders');
    }
    expect((await watch(path.join(models, 'missing.ifc'))).status).toBe(422);
  });
});
