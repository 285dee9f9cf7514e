import express from 'express';
import { decodeMesh } from '../core/geometry/mesh';
import { MOST_SIDE } from '../core/setting/land';
import { meshKept } from '../core/project/answers';
import type { BlobStore } from './blobs';
import { refuse, reply, uploaded } from './reply';

/** A terrain of the finest grid, cut where covers meet: three times its cells, generously. */
const MAX_MESH_BYTES = 16 + MOST_SIDE ** 2 * 3 * (12 + 24);

/** Meshes that a page has made: of shaped ground, paths and water. */
export function landRoutes(app: express.Express, { blobs }: { blobs: BlobStore }): void {
  app.post('/api/meshes', express.raw({ type: 'application/octet-stream', limit: MAX_MESH_BYTES }), async (request, response) => {
    const { body } = uploaded(request, 'The mesh');
    if (typeof decodeMesh(body) === 'string') refuse(response, 422, 'This is no mesh.');
    else reply(response, meshKept, { hash: await blobs.put(body) }, 201);
  });
}
