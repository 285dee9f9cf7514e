import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer/decoder';
import { validateBytes } from 'gltf-validator';
import type * as v from 'valibot';
import type { viewerList } from '../../core/project/answers';
import type { ViewerData } from '../../core/viewing/viewing';
import { openPage, removeFolder, say, temporaryFolder, type RunningServer } from '../testing/running-server';
import { openYard, post, YARD_ORDER } from '../prints/yard';

type Viewer = v.InferOutput<typeof viewerList>['viewers'][number];

const folder = temporaryFolder();
let server: RunningServer;
let viewer: Viewer;

const list = async (): Promise<Viewer[]> => ((await (await fetch(`${server.url}/api/viewers`)).json()) as { viewers: Viewer[] }).viewers;
const ORDER = {
  name: 'For the client',
  looks: [{ name: 'Now' }, { name: '17:00', minutes: 1020 }],
  views: [
    { name: 'Yard', camera: YARD_ORDER.camera },
    { name: 'Without walls', camera: YARD_ORDER.camera, shown: { visibility: { decisions: { 'class/yard/Wall': false }, isolated: [] }, variants: {} } },
  ], // prettier-ignore
  samples: 4,
};

beforeAll(async () => {
  ({ server } = await openYard(folder));
  expect((await post(server, '/api/viewers', ORDER)).status).toBe(201);
  await vi.waitFor(
    async () => {
      expect((await list())[0]?.state).toBe('finished');
    },
    { timeout: 580_000, interval: 200 },
  );
  viewer = (await list())[0]!;
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

const fileOf = async (): Promise<string> => (await fetch(`${server.url}/api/viewers/${viewer.id}/file`)).text();
const dataOf = (html: string) => JSON.parse(/<script id="viewing" type="application\/json">(.*?)<\/script>/s.exec(html)![1]!) as ViewerData;

describe('a viewer', () => {
  it('is one file that asks for nothing beside itself; its size is told', async () => {
    const html = await fileOf();
    expect(viewer.report).toMatchObject({ bytes: Buffer.byteLength(html), leftOut: [] });
    // No address leads out of the file but names of standards.
    const addresses = (html.replace(/<script[\s\S]*?<\/script>/g, '').match(/(src|href)="(?!data:)[^"]*"/g) ?? []).length;
    expect(addresses).toBe(0);
    const data = dataOf(html);
    expect(data.looks.map(({ name }) => name)).toEqual(['Now', '17:00']);
    expect(data.views[0]).toMatchObject({ name: 'Yard', exposures: [expect.any(Number), expect.any(Number)] });
  });

  it('holds the model as valid glTF with meshopt and WebP, and the light of each look at its corners', async () => {
    const bytes = new Uint8Array(Buffer.from(dataOf(await fileOf()).model, 'base64'));
    const { issues } = await validateBytes(bytes);
    expect(issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
    await MeshoptDecoder.ready;
    const document = await new NodeIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ 'meshopt.decoder': MeshoptDecoder }).readBinary(bytes); // prettier-ignore
    const primitives = document
      .getRoot()
      .listMeshes()
      .flatMap((mesh) => mesh.listPrimitives());
    expect(primitives.length).toBeGreaterThan(0);
    let [lit, corners] = [0, 0];
    for (const primitive of primitives) {
      const light = primitive.getAttribute('_LIGHT_0');
      expect(light?.getCount()).toBe(primitive.getAttribute('POSITION')!.getCount());
      for (let i = 0; i < light!.getCount(); i++) if (light!.getElement(i, [])[0]! > 0.02) lit++;
      corners += light!.getCount();
      expect(primitive.getAttribute('_LIGHT_1')).not.toBeNull();
    }
    // Out of doors by day nearly everything that is seen has light; undersides may have none.
    expect(lit / corners).toBeGreaterThan(0.6);
  });

  it('shows in each view what that view holds', async () => {
    const data = dataOf(await fileOf());
    expect(data.views.map(({ state }) => state)).toEqual([0, 1]);
    await MeshoptDecoder.ready;
    const bytes = new Uint8Array(Buffer.from(data.model, 'base64'));
    const document = await new NodeIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ 'meshopt.decoder': MeshoptDecoder }).readBinary(bytes); // prettier-ignore
    const shown = document.getRoot().listNodes().flatMap((node) => ('shown' in node.getExtras() ? [(node.getExtras() as { shown: number[] }).shown] : [])); // prettier-ignore
    // The yard’s walls are gone in the second; the ground about them is never hidden.
    expect([...new Set(shown.map((bits) => bits.join()))].sort()).toEqual(['3,0', '3,3']);
  });

  it('is weighed before it is made, to a sixth', async () => {
    const answer = await post(server, '/api/viewers/weigh', ORDER);
    const weight = (await answer.json()) as { bytes: number; corners: number };
    expect(weight.corners).toBe(viewer.report!.corners);
    expect(Math.abs(weight.bytes / viewer.report!.bytes - 1)).toBeLessThan(1 / 6);
    expect((await post(server, '/api/viewers/weigh', { ...ORDER, looks: [] })).status).toBe(400);
  });

  it('is refused in a sentence where it asks for what is not there', async () => {
    const gone = await post(server, '/api/viewers', { ...ORDER, looks: [{ name: 'x', condition: 'gone' }] });
    expect([gone.status, await gone.text()]).toEqual([409, expect.stringContaining('has been dropped meanwhile')]);
    const none = await post(server, '/api/viewers', { ...ORDER, looks: [] });
    expect([none.status, await none.text()]).toEqual([400, expect.stringContaining('one look at least')]);
  });
});

describe('a link to a viewer', () => {
  const linkWith = async (wish: object): Promise<{ id: string; token: string }> => {
    const made = await post(server, `/api/viewers/${viewer.id}/links`, { days: 7, mayComment: false, ...wish });
    expect(made.status).toBe(201);
    return (await made.json()) as { id: string; token: string };
  };
  const remark = { id: 'remark-00001', text: 'The bench is too low', author: 'Client', at: '2026-11-29T10:00:00.000Z', status: 'done', camera: YARD_ORDER.camera, place: [1, 2, 0.4] }; // prettier-ignore

  it('opens it, is counted, and shows nothing once it is withdrawn', async () => {
    const { id, token } = await linkWith({});
    expect(token.length).toBeGreaterThanOrEqual(32);
    const page = await fetch(`${server.url}/v/${token}`);
    expect([page.status, (await page.text()).includes('id="viewing"')]).toEqual([200, true]);
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'");
    expect((await list())[0]!.links.find((link) => link.id === id)).toMatchObject({ opened: 1, revoked: false });
    await fetch(`${server.url}/api/viewer-links/${id}`, { method: 'DELETE' });
    const after = await fetch(`${server.url}/v/${token}`);
    expect([after.status, (await after.text()).includes('id="viewing"')]).toEqual([404, false]);
  });

  it('with a password asks for it, and keeps its remarks to those who told it', async () => {
    const { id, token } = await linkWith({ password: 'sea-lavender', mayComment: true });
    const address = `${server.url}/v/${token}`;
    expect(await (await fetch(address)).text()).not.toContain('id="viewing"');
    expect((await post(server, `/v/${token}/remarks`, remark)).status).toBe(404);
    const tell = (password: string) => fetch(address, { method: 'POST', redirect: 'manual', body: new URLSearchParams({ password }) }); // prettier-ignore
    expect((await tell('wrong')).status).toBe(401);
    const right = await tell('sea-lavender');
    expect(right.status).toBe(303);
    const cookie = right.headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly; SameSite=Lax; Path=\/v\//);
    const headers = { cookie: cookie.split(';')[0]! };
    expect(await (await fetch(address, { headers })).text()).toContain('"comments":"/v/');
    const made = await fetch(`${address}/remarks`, { method: 'POST', headers: { ...headers, 'Content-Type': 'application/json' }, body: JSON.stringify(remark) }); // prettier-ignore
    expect(made.status).toBe(201);
    const kept = (await (await fetch(`${address}/remarks`, { headers })).json()) as object[];
    // Only the office says what is done.
    expect(kept).toEqual([{ ...remark, status: 'open', link: id }]);
    const again = await fetch(`${address}/remarks`, { method: 'POST', headers: { ...headers, 'Content-Type': 'application/json' }, body: JSON.stringify({ ...remark, text: 'Other' }) }); // prettier-ignore
    expect(again.status).toBe(409);
  });

  it('shows its own remarks alone, unless the office says so; open pages are told, and the office undoes its own', async () => {
    const [mine, other, all] = [await linkWith({ mayComment: true }), await linkWith({ mayComment: true }), await linkWith({ mayComment: true, showsOthers: true })]; // prettier-ignore
    const page = await openPage(server);
    await page.next('project');
    say(page, { type: 'command', id: 'own', command: { type: 'keep-remark', remark: { ...remark, id: 'remark-office', text: 'Not for clients', status: 'open', place: [1, 2, 0.4] } } }); // prettier-ignore
    await page.next('changes', ({ reply }) => reply === 'own');
    say(page, { type: 'undo', id: 'undone' });
    await page.next('changes', ({ reply }) => reply === 'undone');
    const html = 'Low </script><img src=x onerror=alert(1)>';
    expect((await post(server, `/v/${mine.token}/remarks`, { ...remark, id: 'remark-mine1', text: html, link: other.id })).status).toBe(
      201,
    );
    const told = await page.next('changes', ({ changes }) => changes.some(({ key }) => key === 'remark/remark-mine1'));
    expect(told.changes[0]!.after).toMatchObject({ text: html, link: mine.id });
    // What was undone before can still be done again; what is undone next is the office's.
    say(page, { type: 'redo', id: 'again' });
    expect((await page.next('changes', ({ reply }) => reply === 'again')).changes[0]!.key).toBe('remark/remark-office');
    say(page, { type: 'undo', id: 'undo' });
    expect((await page.next('changes', ({ reply }) => reply === 'undo')).changes[0]!.key).toBe('remark/remark-office');
    say(page, { type: 'redo', id: 'redo' });
    await page.next('changes', ({ reply }) => reply === 'redo');
    page.close();
    const textAt = async ({ token }: { token: string }) => (await fetch(`${server.url}/v/${token}/remarks`)).text();
    expect(await textAt(mine)).not.toContain('</script>');
    expect(await textAt(mine)).not.toContain('Not for clients');
    expect(await textAt(other)).toBe('[]');
    expect(await textAt(all)).toContain('Not for clients');
  });

  it('takes only so many remarks, and a program that asks whether it is there has not opened it', async () => {
    const { id, token } = await linkWith({ mayComment: true });
    const states: number[] = [];
    for (let i = 0; i < 25; i++)
      states.push((await post(server, `/v/${token}/remarks`, { ...remark, id: `remark-flood-${String(i)}` })).status);
    expect(states.filter((status) => status === 201)).toHaveLength(20);
    expect(states.at(-1)).toBe(429);
    expect((await fetch(`${server.url}/v/${token}`, { method: 'HEAD' })).status).toBe(200);
    const { opened, log } = (await list())[0]!.links.find((link) => link.id === id)!;
    expect([opened, log.filter(({ what }) => what === 'opened')]).toEqual([0, []]);
  });

  it('that may only be looked at takes no remarks; another site’s page reaches nothing', async () => {
    const { token } = await linkWith({});
    expect((await post(server, `/v/${token}/remarks`, { ...remark, id: 'remark-00002' })).status).toBe(404);
    const foreign = await fetch(`${server.url}/v/${token}`, { headers: { Origin: 'https://elsewhere.example' } });
    expect(foreign.status).toBe(403);
    for (const path of ['..%2f..%2fproject.sqlite', 'a'.repeat(5000)]) {
      const { status } = await fetch(`${server.url}/v/${path}`);
      expect([404, 414, 429, 431]).toContain(status);
    }
  });

  it('is not found by trying: after a few wrong ones an address is told to wait; a right one opens all the same', async () => {
    const { token } = await linkWith({});
    const states: number[] = [];
    for (let i = 0; i < 12; i++) states.push((await fetch(`${server.url}/v/${'x'.repeat(31)}${String(i)}`)).status);
    expect(states.at(-1)).toBe(429);
    expect((await fetch(`${server.url}/v/${token}`)).status).toBe(200);
  });
});
