import { Document, WebIO } from '@gltf-transform/core';
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { validateBytes } from 'gltf-validator';
import { strToU8, zipSync } from 'fflate';
import { sql } from 'kysely';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { MeshBuilder } from '../../core/geometry/shapes';
import type { Progress } from '../../core/hygiene/check';
import { openSourceDatabase } from '../database/open';
import { openPage, removeFolder, startServer, temporaryFolder, type RunningServer } from '../testing/running-server';

/** Files of every kind as sources of a running server; what each format holds is checked beside its reader. */

const folder = temporaryFolder();
let server: RunningServer;
beforeAll(async () => {
  server = await startServer(path.join(folder, 'data'));
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

async function upload(name: string, bytes: Uint8Array<ArrayBuffer>): Promise<{ status: number; body: Record<string, unknown> }> {
  const response = await fetch(`${server.url}/api/sources/file?name=${encodeURIComponent(name)}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: bytes,
  });
  return { status: response.status, body: (await response.json()) as Record<string, unknown> };
}

/** A house of some walls, as a GLB. */
function house(heights: Record<string, number>): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene();
  const material = document.createMaterial('Oak boards');
  for (const [name, height] of Object.entries(heights)) {
    const { positions, indices } = new MeshBuilder().box([0, 0, 0], [1, height, 0.2]).build();
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(new Float32Array(positions)).setBuffer(buffer))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(new Uint32Array(indices)).setBuffer(buffer))
      .setMaterial(material);
    scene.addChild(document.createNode(name).setMesh(document.createMesh().addPrimitive(primitive)));
  }
  return new WebIO().writeBinary(document);
}

describe('the model as a GLB', () => {
  const handedOver = () => fetch(`${server.url}/api/export/model.glb`);

  it('is not there before there is a model', async () => {
    const response = await handedOver();
    expect(response.status).toBe(404);
    expect(await response.json()).toEqual({ message: 'There is no model to hand over yet.' });
  });

  it('leaves dressed, under the project’s name, and passes the standard’s validator', async () => {
    const { body } = await upload('tower.glb', await house({ North: 9 }));
    const response = await handedOver();
    expect(response.headers.get('content-type')).toBe('model/gltf-binary');
    expect(response.headers.get('content-disposition')).toBe('attachment; filename=Test.glb');
    const bytes = new Uint8Array(await response.arrayBuffer());
    const { issues, info } = await validateBytes(bytes);
    expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    expect(info).toMatchObject({ totalTriangleCount: 12, materialCount: 1 });
    // “Oak boards” is read by its name, and the maps of that finish travel with it.
    expect(new TextDecoder('latin1').decode(bytes)).toContain('oak-boards base colour');
    const page = await openPage(server);
    page.send({ type: 'source', id: '1', source: String(body['source']), action: 'remove' });
    await page.next('model-gone');
    page.close();
  });
});

describe('a GLB', () => {
  it('arrives as a model, and its next export as what has changed', async () => {
    const first = await upload('House.GLB', await house({ North: 3, South: 3 }));
    // Two walls, their material, and how the whole is shown.
    expect(first).toMatchObject({ status: 201, body: { changed: 4 } });
    const page = await openPage(server);
    const { sources } = await page.next('sources', (m) => m.sources.length === 1);
    expect(sources[0]).toMatchObject({ name: 'House.GLB', kind: 'file', tool: 'glTF 2.0', state: 'in-step', fault: null });
    const model = await page.next('model');
    expect(model.change.elements.map((e) => e.id)).toEqual(['/North', '/South']);
    const mesh = await fetch(`${server.url}/api/blobs/pack`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ blobs: [model.change.elements[0]!.parts[0]!.mesh] }),
    });
    expect(mesh.ok).toBe(true);

    expect((await upload('House.GLB', await house({ North: 3, South: 3 }))).body).toMatchObject({ changed: 0 });
    expect((await upload('House.GLB', await house({ North: 4, East: 3 }))).body).toMatchObject({ changed: 3 });
    const delta = await page.next('model', (m) => !m.change.reset);
    expect(delta.change.elements.map((e) => e.id)).toEqual(['/North', '/East']);
    expect(delta.change.remove.elements).toEqual(['/South']);
    page.close();
  });

  it('that is broken leaves the last good model, and says why', async () => {
    const whole = await house({ North: 3 });
    expect((await upload('shed.glb', whole)).status).toBe(201);
    const { status, body } = await upload('shed.glb', whole.slice(0, 300));
    expect(status).toBe(422);
    expect(body['message']).toMatch(/^shed\.glb is cut off/);
    const page = await openPage(server);
    const { change } = await page.next('model', (m) => m.source.startsWith('glb-') && m.change.elements.length === 1);
    expect(change.elements[0]!.id).toBe('/North');
    page.close();
  });
});

describe('findings', () => {
  it('come line by line, and name what is wrong with a file', async () => {
    const twice = await house({ North: 3 });
    const { body } = await upload('twice.glb', twice);
    const other = await upload('again.glb', twice);
    const text = await (await fetch(`${server.url}/api/findings`)).text();
    const lines = text.trim().split('\n').map((line) => JSON.parse(line) as Progress);
    expect(lines.at(-1)!.done).toBe(1);
    const words = lines.flatMap((l) => l.findings).filter((f) => f.check === 'duplicates').map((f) => f.words);
    expect(words.some((w) => w.startsWith('North is there twice, in the same place as'))).toBe(true);
    const page = await openPage(server);
    for (const source of [body['source'], other.body['source']]) page.send({ type: 'source', id: '1', source: String(source), action: 'remove' });
    await page.next('model-gone', (m) => m.source === other.body['source']);
    page.close();
  }); // prettier-ignore
});

describe('a watched file', () => {
  const models = path.join(folder, 'data', 'models');
  const triangle = (x: number) => `v ${String(x)} 0 0\nv 1 0 0\nv 0 1 0\no Tri\nf 1 2 3\n`;

  it('of any format is followed when it is written piece by piece, replaced, or its folder is', async () => {
    const inner = path.join(models, 'site');
    mkdirSync(inner);
    const file = path.join(inner, 'tri.obj');
    writeFileSync(file, triangle(2));
    const response = await fetch(`${server.url}/api/sources/watch`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ path: 'site/tri.obj' }) });
    const { source } = (await response.json()) as { source: string };
    const page = await openPage(server);
    await page.next('model', (m) => m.source === source);
    const next = async (revision: number) => page.next('model', (m) => m.source === source && m.revision === revision);
    // Piece by piece, with pauses shorter than it is waited for: read once, whole.
    const whole = triangle(3);
    writeFileSync(file, whole.slice(0, 9));
    for (let end = 18; end < whole.length + 9; end += 9) {
      await new Promise((resolve) => setTimeout(resolve, 50));
      writeFileSync(file, whole.slice(0, end));
    }
    await next(2);
    // As tools save: beside it, then put in its place.
    writeFileSync(`${file}.tmp`, triangle(4));
    renameSync(`${file}.tmp`, file);
    await next(3);
    // The folder is moved away and another one put there.
    renameSync(inner, path.join(models, 'old'));
    await page.next('sources', (m) => m.sources.some((s) => s.id === source && (s.fault?.includes('the last good model stays') ?? false)));
    mkdirSync(inner);
    writeFileSync(file, triangle(5));
    await next(4);
    await page.next('sources', (m) => m.sources.some((s) => s.id === source && s.revision === 4 && s.fault === null));
    page.close();
  }); // prettier-ignore

  it('that changed while the server was off is read when it starts again', async () => {
    const file = path.join(models, 'later.obj');
    writeFileSync(file, triangle(2));
    const response = await fetch(`${server.url}/api/sources/watch`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ path: 'later.obj' }) });
    const { source } = (await response.json()) as { source: string };
    await server.kill('SIGTERM');
    writeFileSync(file, triangle(3));
    server = await startServer(path.join(folder, 'data'));
    const page = await openPage(server);
    await page.next('model', (m) => m.source === source && m.revision === 2);
    page.close();
  }); // prettier-ignore
});

describe('a zip', () => {
  const obj = 'mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl Slate\nf 1 2 3\n';
  it('of a model with its materials is taken as it is', async () => {
    const answer = await upload('shed.zip', zipSync({ 'shed/a.obj': strToU8(obj), 'shed/a.mtl': strToU8('newmtl Slate\nKd 0.2 0.2 0.3\nmap_Kd maps\\slate.png\n') }));
    expect(answer.status).toBe(201);
    const page = await openPage(server);
    const { change } = await page.next('model', (m) => m.source === answer.body['source']);
    expect(change.materials[0]).toMatchObject({ name: 'Slate', missing: 'maps\\slate.png' });
    page.close();
  }); // prettier-ignore
  it('of none or several is refused, and what leads outside is not followed', async () => {
    const said = async (files: Record<string, Uint8Array<ArrayBuffer>>) => (await upload('x.zip', zipSync(files))).body['message'];
    expect(await said({ 'readme.txt': strToU8('hello') })).toContain('x.zip holds no model of a kind that is read');
    expect(await said({ 'a.obj': strToU8(obj), 'b.obj': strToU8(obj) })).toBe('x.zip holds several models, a.obj, b.obj; give each by itself, with its pictures.');
    expect(await said({ 'a.obj': strToU8('nothing') })).toBe('x.zip/a.obj is not an OBJ: it has no line of a vertex.');
  }); // prettier-ignore
});

describe('a file of no kind that is read', () => {
  it('is told from its name, with those that are', async () => {
    for (const name of ['plan.xyz', 'plan', 'plan.glb.doc'])
      expect(await upload(name, new Uint8Array([1]))).toMatchObject({
        status: 422,
        body: { message: `${name} is of no kind that is read: ifc, glb, gltf, obj, dae, stl, ply, 3mf, dxf, zip.` },
      });
  });
});

describe('a project of before', () => {
  it('keeps its IFC files as files', async () => {
    const file = path.join(folder, 'old.sqlite');
    const before = await openSourceDatabase(file);
    const row = {
      id: 'ifc-1',
      name: 'a.ifc',
      tool: 'IFC4',
      stopped: 0,
      held: 0,
      path: null,
      revision: 0,
      sequence: 0,
      changed_at: null,
      properties: null,
    };
    await before
      .insertInto('source')
      .values({ ...row, kind: 'file' })
      .execute();
    await sql`update source set kind = 'ifc'`.execute(before);
    await sql`delete from kysely_migration where name > '001-first'`.execute(before);
    for (const column of ['added', 'changed', 'removed']) await before.schema.alterTable('revision').dropColumn(column).execute();
    await before.schema.alterTable('source').dropColumn('properties').execute();
    await before.destroy();
    const after = await openSourceDatabase(file);
    expect((await after.selectFrom('source').select('kind').execute()).map((r) => r.kind)).toEqual(['file']);
    await after.destroy();
  });
});
