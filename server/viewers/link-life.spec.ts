import { afterAll, expect, it } from 'vitest';
import path from 'node:path';
import { openProjectDatabase } from '../database/open';
import { removeFolder, temporaryFolder } from '../testing/running-server';
import { Viewers, type OpenLink } from './viewers';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

it('a link is good until its day, its token is kept nowhere, and whoever tried too often waits a minute', async () => {
  const db = await openProjectDatabase(path.join(folder, 'project.sqlite'));
  let now = Date.parse('2026-11-29T12:00:00Z');
  const viewers = new Viewers(db, path.join(folder, 'viewers'), folder, () => now);
  await viewers.begin();
  await db
    .insertInto('viewer')
    .values({ id: 'v', name: 'V', created_at: '2026-11-29', state: 'finished', fault: null, report: null })
    .execute();
  const { token } = (await viewers.link('v', { days: 1, mayComment: true }))!;
  expect(await viewers.link('gone', { days: 1, mayComment: true })).toBeUndefined();
  expect(JSON.stringify(await db.selectFrom('viewer_link').selectAll().execute())).not.toContain(token);

  now += 23 * 3600_000;
  expect(await viewers.open(token, 'a')).toMatchObject({ viewer: 'v', mayComment: true });
  now += 2 * 3600_000;
  expect(await viewers.open(token, 'a')).toBeUndefined();

  for (let i = 0; i < 8; i++) await viewers.open(`wrong ${String(i)}`, 'b');
  expect(await viewers.open(token, 'b')).toBe('wait');
  expect(await viewers.open(token, 'c')).toBeUndefined();
  now += 61_000;
  expect(await viewers.open(token, 'b')).toBeUndefined();
  await db.destroy();
});

it('guesses of a password are counted by link and by address, apart, and wrong addresses shut no good link', async () => {
  const db = await openProjectDatabase(path.join(folder, 'guesses.sqlite'));
  const viewers = new Viewers(db, path.join(folder, 'viewers'), folder, () => 0);
  await db
    .insertInto('viewer')
    .values({ id: 'v', name: 'V', created_at: '2026-11-29', state: 'finished', fault: null, report: null })
    .execute();
  const linked = async (password?: string) => {
    const { token } = (await viewers.link('v', { days: 1, mayComment: true, password }))!;
    return { token, link: (await viewers.open(token, 'x')) as OpenLink };
  };
  const [first, second, open] = [await linked('marram grass'), await linked('sea holly'), await linked()];
  // Right answers elsewhere, and links without a password, clear nothing.
  const said: (boolean | string)[] = [];
  for (let i = 0; i < 12; i++) {
    said.push(await viewers.isPassword(first.link, `guess ${String(i)}`, `address ${String(i % 4)}`));
    await viewers.isPassword(second.link, 'sea holly', `address ${String(i % 4)}`);
    await viewers.isPassword(open.link, '', `address ${String(i % 4)}`);
  }
  expect(said).toEqual([...Array.from({ length: 8 }, () => false), ...Array.from({ length: 4 }, () => 'wait')]);
  expect(await viewers.isPassword(first.link, 'marram grass', 'another')).toBe('wait');
  expect(await viewers.isPassword(second.link, 'sea holly', 'another')).toBe(true);
  // One address guesses at many links.
  const many = await Promise.all(Array.from({ length: 3 }, () => linked('kept')));
  const guesses: (boolean | string)[] = [];
  for (let i = 0; i < 12; i++) guesses.push(await viewers.isPassword(many[i % 3]!.link, 'guess', 'one'));
  expect(guesses.filter((each) => each === 'wait')).toHaveLength(4);
  for (let i = 0; i < 20; i++) await viewers.open(`wrong ${String(i)}`, 'office');
  expect(await viewers.open(second.token, 'office')).toMatchObject({ viewer: 'v' });
  await db.destroy();
});

it('what a server that ended has left undone is told, not taken up', async () => {
  const db = await openProjectDatabase(path.join(folder, 'other.sqlite'));
  await db
    .insertInto('viewer')
    .values({ id: 'v', name: 'V', created_at: '2026-11-29', state: 'baking', fault: null, report: null })
    .execute();
  const viewers = new Viewers(db, path.join(folder, 'viewers'), folder);
  await viewers.begin();
  expect(await viewers.list()).toMatchObject([{ state: 'failed', fault: 'The server ended while this was being made; order it again.' }]);
  await viewers.remove('v');
  expect(await viewers.list()).toEqual([]);
  await db.destroy();
});
