import express from 'express';
import { finishMark, type Finish } from '../core/finish/finish';
import { FINISHES } from '../core/finish/library';
import { encodeMaps, isMapSet, KEPT_MAPS, MAP_NAMES } from '../core/finish/maps/generate';
import { allFinishes, findFinish } from '../core/project/project';
import type { BlobStore } from './blobs';
import { mapsFile } from './dist-paths';
import { FOR_EVER } from './caching';
import type { Previews } from './previews/previews';
import type { ProjectStore } from './project-store';
import { packFinishes, readPackage } from './finish-package';
import type { PersonalLibrary } from './personal-library';
import { readMapSet } from './photo/map-set';
import { MAX_PHOTO_BYTES, readPhotograph } from './photo/photograph';
import { isSkyPicture, MOST_SKY_WIDTH } from '../core/sky/sky-picture';
import { finishesRead, libraryKept, libraryList, mapSetKept, mapSetRead, previewProgress, skyPictureKept } from '../core/project/answers';
import { refuse, reply, uploaded } from './reply';
import { swatchOf } from './swatch';

const MAX_ZIP_BYTES = 300 * 1024 * 1024;
/** Three maps of 2048 pixels square. */
const MAX_SKY_BYTES = 16 + MOST_SKY_WIDTH * (MOST_SKY_WIDTH / 2) * 4;
const MAX_MAP_SET_BYTES = 4 + 3 * 2048 * 2048 * 4;

/** Map sets, and pictures of finishes: flat swatches at once, test cards by the light kernel as they get ready. */
export function finishRoutes(
  app: express.Express,
  { previews, project, blobs, library }: { previews: Previews; project: ProjectStore; blobs: BlobStore; library: PersonalLibrary },
): void {
  libraryRoutes(app, { project, blobs, library });
  app.get('/api/maps/:name', (request, response) => {
    const { name } = request.params;
    if (!MAP_NAMES.includes(name)) refuse(response, 404, 'There is no such map set.');
    else
      response.sendFile(mapsFile(name, request.query['size'] === 'small' ? 'small' : 'whole'), {
        maxAge: 3600_000,
        headers: { 'Content-Type': 'application/octet-stream' },
      });
  });
  // A picture of a surface, made safe; what was done to it is told in a header.
  app.post('/api/photograph', express.raw({ type: 'application/octet-stream', limit: MAX_PHOTO_BYTES }), async (request, response) => {
    const { name, body } = uploaded(request, 'The picture');
    const photo = await readPhotograph(name, body);
    if ('fault' in photo) refuse(response, 422, photo.fault);
    else response.set('Diaphane-Remark', encodeURIComponent(photo.remark)).type('png').send(photo.png);
  });
  // The project's own finishes, out and in.
  app.get('/api/own-finishes.zip', async (_, response) => {
    const own = ownFinishes(project);
    if (own.length === 0) refuse(response, 404, 'This project has no finishes of its own yet.');
    else response.type('zip').attachment('finishes.zip').send(Buffer.from(await packFinishes(own, blobs))); // prettier-ignore
  });
  app.post('/api/own-finishes', express.raw({ type: 'application/octet-stream', limit: MAX_ZIP_BYTES }), async (request, response) => {
    const { name, body } = uploaded(request, 'The zip');
    const read = await readPackage(name, body, blobs);
    if ('fault' in read) refuse(response, 422, read.fault);
    else reply(response, finishesRead, read, 201);
  });
  // The pictures of a map set in one zip.
  app.post('/api/map-sets/pictures', express.raw({ type: 'application/octet-stream', limit: MAX_ZIP_BYTES }), async (request, response) => {
    const { name, body } = uploaded(request, 'The zip');
    const set = await readMapSet(name, body);
    if ('fault' in set) {
      refuse(response, 422, set.fault);
      return;
    }
    const { maps, ...rest } = set;
    reply(response, mapSetRead, { ...rest, maps: `${KEPT_MAPS}${await blobs.put(encodeMaps(maps))}` }, 201);
  });
  // A map set that was made in a page; its name goes into a finish.
  app.post('/api/map-sets', express.raw({ type: 'application/octet-stream', limit: MAX_MAP_SET_BYTES }), async (request, response) => {
    const { body } = uploaded(request, 'The map set');
    if (!isMapSet(body)) refuse(response, 422, 'This is no map set.');
    else reply(response, mapSetKept, { maps: `${KEPT_MAPS}${await blobs.put(body)}` }, 201);
  });
  // An all-round picture that a page has read, mended and fitted; its hash goes into the project's sky.
  app.post('/api/sky-pictures', express.raw({ type: 'application/octet-stream', limit: MAX_SKY_BYTES }), async (request, response) => {
    const { body } = uploaded(request, 'The picture');
    if (!isSkyPicture(body)) refuse(response, 422, 'This is no picture of a sky.');
    else reply(response, skyPictureKept, { hash: await blobs.put(body) }, 201);
  });
  app.get('/api/previews', (_, response) => {
    reply(response, previewProgress, previews.progress);
  });
  // `mark` tells which state of the finish is meant; a picture of any other is not to be kept.
  app.get('/api/finishes/:finish/:kind.png', async (request, response) => {
    const { finish: id, kind } = request.params;
    const finish = findFinish(project.entries, id);
    if (!finish || (kind !== 'preview' && kind !== 'swatch')) {
      refuse(response, 404, 'There is no such finish.');
      return;
    }
    const asked = request.query['mark'] === finishMark(finish);
    const png = kind === 'preview' ? await previews.of(finish) : await swatchOf(finish, blobs);
    response
      .set('Cache-Control', asked ? FOR_EVER : 'no-store')
      .type('png')
      .send(Buffer.from(png));
  });
}

/** The person's own library, shared by all projects on this computer. */
function libraryRoutes(
  app: express.Express,
  { project, blobs, library }: { project: ProjectStore; blobs: BlobStore; library: PersonalLibrary },
): void {
  app.get('/api/library', async (_, response) => {
    reply(response, libraryList, { items: await library.list() });
  });
  app.post('/api/library', async (_, response) => {
    try {
      reply(response, libraryKept, { kept: await library.keep(ownFinishes(project), blobs) }, 201);
    } catch {
      refuse(response, 500, 'Your library’s folder cannot be written.');
    }
  });
  app.post('/api/library/:item/bring', async (request, response) => {
    const read = await library.bring(request.params.item, blobs);
    if ('fault' in read) refuse(response, 404, read.fault);
    else reply(response, finishesRead, read, 201);
  });
  app.get('/api/library/:item/swatch.png', async (request, response) => {
    const png = await library.swatch(request.params.item);
    if (png) response.set('Cache-Control', FOR_EVER).type('png').send(Buffer.from(png));
    else refuse(response, 404, 'There is no such finish in your library.');
  });
  app.delete('/api/library/:item', async (request, response) => {
    response.status((await library.remove(request.params.item)) ? 204 : 404).end();
  });
}

const ownFinishes = (project: ProjectStore): Finish[] => allFinishes(project.entries).filter((finish) => !FINISHES.includes(finish));
