import { createServer, type IncomingMessage, type Server } from 'node:http';
import path from 'node:path';
import express, { type NextFunction, type Request, type Response } from 'express';
import * as v from 'valibot';
import { WebSocketServer } from 'ws';
import { BLOB_HEADER, MAX_BLOB_BYTES } from '../core/model/protocol';
import type { BlobStore } from './blobs';
import { FOR_EVER } from './caching';
import { KERNEL_FILE, WEB_DIRECTORY, weightsFile } from './dist-paths';
import { finishRoutes } from './finish-routes';
import { landRoutes } from './land-routes';
import type { OwnThings } from './things/own-things';
import { thingRoutes } from './things/routes';
import { scheduleRoutes } from './schedule-routes';
import { MAX_FILE_BYTES, type FileSources } from './files/file-sources';
import { serveAuthor, type LinkContext } from './link-endpoint';
import { DISK_FULL, isDiskFull } from './disk-full';
import { dropSilent } from './heartbeat';
import { LiveHub, type LiveContext } from './live-hub';
import { findFindings } from './hygiene/findings';
import { earlierModel, elementProperties, fileTaken, replacementOffer, revisionList } from '../core/project/answers';
import { refuse, reply } from './reply';
import { snapshotOf } from '../core/model/model';
import { modelAsGlb } from './model-export';
import type { PersonalLibrary } from './personal-library';
import type { Previews } from './previews/previews';
import type { Owner } from './sign-in/owner';
import { signInRoutes } from './sign-in/routes';
import { complain } from './complain';
import { checkPathForms } from './path-forms';
import { printRoutes } from './print-routes';
import { viewerLinkRoutes, viewerRoutes } from './viewers/routes';
import type { Viewers } from './viewers/viewers';

export interface AppContext extends LiveContext, LinkContext {
  blobs: BlobStore;
  files: FileSources;
  previews: Previews;
  library: PersonalLibrary;
  ownThings: OwnThings;
  viewers: Viewers;
  /** Who has to sign in; undefined: only this computer reaches the server. */
  owner: Owner | undefined;
  trustedProxies: number;
  /** Names by which the server may be called; undefined: by any. */
  hosts: readonly string[] | undefined;
}

/** A modelling tool may be busy for a while. */
const ASK_EVERY_MS = 60_000;
const MAX_JSON = '8mb';
const MAX_PACK = 20_000;
/** What is larger is not even refused in words: it ends the connection. */
const MAX_PAGE_FRAME = 64 * 1024 * 1024;
const packSchema = v.strictObject({ blobs: v.pipe(v.array(v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))), v.maxLength(MAX_PACK)) });
const pathSchema = v.strictObject({ path: v.pipe(v.string(), v.minLength(1), v.maxLength(4096)) });

/** The HTTP server with its two WebSocket endpoints: /link for authors, /live for pages. */
export function createApp(context: AppContext): { server: Server; endConnections(): void } {
  const app = express();
  app.disable('x-powered-by');
  // How many proxies stand before the server: their word is taken for whose address it is.
  if (context.trustedProxies > 0) app.set('trust proxy', context.trustedProxies);
  // What somebody wrote is no markup, wherever an answer ends up.
  app.set('json escape', true);
  app.use(securityHeaders);
  app.use((request, response, next) => {
    if (isCalledByName(request, context.hosts)) next();
    else refuse(response, 403, 'This server does not answer to that name.');
  });
  app.use(['/api', '/sign-in', '/sign-out', '/v'], sameOriginOnly);
  checkPathForms(app);
  viewerLinkRoutes(app, context);
  if (context.owner) signInRoutes(app, context.owner);
  app.use('/api', express.json({ limit: MAX_JSON }));
  blobRoutes(app, context);
  finishRoutes(app, context);
  thingRoutes(app, context);
  landRoutes(app, context);
  scheduleRoutes(app, context);
  printRoutes(app, context);
  viewerRoutes(app, context);
  fileRoutes(app, context);
  exportRoutes(app, context);
  hygieneRoutes(app, context);
  revisionRoutes(app, context);
  propertyRoutes(app, context);
  for (const weights of ['small', 'full'] as const)
    app.get(`/denoiser/${weights}`, (_, response) => {
      response.type('application/octet-stream').sendFile(weightsFile(weights));
    });
  app.get('/kernel.wasm', (_, response) => {
    response.sendFile(KERNEL_FILE);
  });
  app.use(express.static(WEB_DIRECTORY, { index: 'index.html' }));
  app.use('/api', (_, response) => {
    refuse(response, 404, 'There is nothing at this address.');
  });
  app.get('/{*path}', (_, response) => {
    response.sendFile(path.join(WEB_DIRECTORY, 'index.html'));
  });
  app.use(answerErrors);

  const server = createServer(app);
  const hub = new LiveHub(context);
  const links = new WebSocketServer({ noServer: true, maxPayload: MAX_BLOB_BYTES + BLOB_HEADER });
  const pages = new WebSocketServer({ noServer: true, maxPayload: MAX_PAGE_FRAME });
  server.on('upgrade', (request, socket, head) => {
    // Until somebody else listens, a connection that breaks would end the server.
    socket.on('error', () => socket.destroy());
    // The address is compared as it was sent: not all that is sent is one.
    const pathname = (request.url ?? '').split('?')[0];
    // Authors are programs and send no Origin; a browser page of another origin may use neither endpoint.
    const trusted = isCalledByName(request, context.hosts) && (request.headers.origin === undefined || isSameOrigin(request));
    const turnAway = (status: string) => {
      socket.end(`HTTP/1.1 ${status}\r\nConnection: close\r\n\r\n`);
    };
    if (!trusted || (pathname !== '/link' && pathname !== '/live')) {
      turnAway(trusted ? '404 Not Found' : '403 Forbidden');
      return;
    }
    // Authors show the link token, which the owner has given them.
    if (pathname === '/live' && context.owner && !context.owner.isSignedIn(request)) {
      turnAway('401 Unauthorized');
      return;
    }
    if (pathname === '/link')
      links.handleUpgrade(request, socket, head, (ws) => {
        serveAuthor(ws, context);
      });
    else
      pages.handleUpgrade(request, socket, head, (ws) => {
        const stop = context.owner?.onSignOut(request, () => {
          ws.close(4401, 'signed out');
        });
        if (stop) ws.on('close', stop);
        void hub.serve(ws);
      });
  });
  const stopAsking = [links, pages].map((sockets) => dropSilent(sockets, ASK_EVERY_MS));
  return {
    server,
    endConnections: () => {
      for (const stop of stopAsking) stop();
      for (const socket of [...links.clients, ...pages.clients]) socket.terminate();
      server.closeAllConnections();
    },
  };
}

function blobRoutes(app: express.Express, { blobs }: AppContext): void {
  app.get('/api/blobs/:hash', async (request, response) => {
    const bytes = await blobs.get(request.params.hash);
    if (!bytes) refuse(response, 404, 'There is no such blob.');
    else response.set('Cache-Control', FOR_EVER).type('application/octet-stream').send(bytes);
  });
  // Many blobs in one answer: for each, 32 bytes of hash, its length as u32, its bytes.
  app.post('/api/blobs/pack', async (request, response) => {
    const asked = v.safeParse(packSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    response.type('application/octet-stream');
    for (const hash of asked.output.blobs) {
      const bytes = await blobs.get(hash);
      if (!bytes) continue;
      const head = Buffer.alloc(36);
      head.write(hash, 'hex');
      head.writeUInt32LE(bytes.byteLength, 32);
      response.write(head);
      response.write(bytes);
    }
    response.end();
  });
}

function fileRoutes(app: express.Express, { files }: AppContext): void {
  const wholeFile = express.raw({ type: 'application/octet-stream', limit: MAX_FILE_BYTES });
  const takeFile = async <S extends v.GenericSchema>(
    request: express.Request,
    response: express.Response,
    take: (name: string, bytes: Buffer) => Promise<v.InferOutput<S> | { fault: string }>,
    schema: S,
    status: number,
  ) => {
    const name = typeof request.query['name'] === 'string' ? request.query['name'] : 'model.ifc';
    const body: unknown = request.body;
    if (!Buffer.isBuffer(body) || body.length === 0) {
      response.status(400).json({ message: `${name} is empty.` });
      return;
    }
    const result = await take(name, body);
    if (hasFault(result)) refuse(response, 422, result.fault);
    else reply(response, schema, result, status);
  };
  app.post('/api/sources/file', wholeFile, async (request, response) => {
    await takeFile(request, response, (name, bytes) => files.upload(name, bytes), fileTaken, 201);
  });
  // A file that is to take a source's place: first what that would mean, then the deed.
  app.post('/api/sources/:source/offer', wholeFile, async (request, response) => {
    const { source } = request.params;
    await takeFile(request, response, (name, bytes) => files.offer(source, name, bytes), replacementOffer, 200);
  });
  app.post('/api/sources/:source/offer/:number/take', async (request, response) => {
    const result = await files.take(request.params.source, Number(request.params.number));
    if ('fault' in result) refuse(response, 409, result.fault);
    else reply(response, fileTaken, result, 201);
  });
  app.post('/api/sources/watch', async (request, response) => {
    const asked = v.safeParse(pathSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    const result = await files.addPath(asked.output.path);
    if ('fault' in result) refuse(response, 422, result.fault);
    else reply(response, fileTaken, result, 201);
  });
}

function revisionRoutes(app: express.Express, { sources }: AppContext): void {
  app.get('/api/sources/:source/revisions', async (request, response) => {
    response.set('Cache-Control', 'no-store');
    reply(response, revisionList, await sources.revisions(request.params.source));
  });
  app.get('/api/sources/:source/revisions/:revision', async (request, response) => {
    const model = await sources.modelAt(request.params.source, Number(request.params.revision));
    if (!model) refuse(response, 404, 'There is no such revision.');
    else reply(response, earlierModel, snapshotOf(model));
  });
}

function propertyRoutes(app: express.Express, { sources, blobs }: AppContext): void {
  // One file's properties at a time: the last one that was asked for stays parsed.
  let last: { hash: string; all: Promise<Record<string, v.InferOutput<typeof elementProperties>>> } | undefined;
  app.get('/api/sources/:source/properties', async (request, response) => {
    const hash = sources.propertiesOf(request.params.source);
    const element = request.query['element'];
    if (hash === null || typeof element !== 'string') {
      refuse(response, 404, 'Nothing more is known of this element.');
      return;
    }
    if (last?.hash !== hash)
      last = {
        hash,
        all: blobs
          .get(hash)
          .then((bytes) => (bytes ? (JSON.parse(bytes.toString()) as Record<string, v.InferOutput<typeof elementProperties>>) : {})),
      };
    const all = await last.all;
    if (Object.hasOwn(all, element)) reply(response, elementProperties, all[element]!);
    else refuse(response, 404, 'Nothing more is known of this element.');
  });
}

function hygieneRoutes(app: express.Express, { project, sources, blobs }: AppContext): void {
  // One JSON object a line, as they are found.
  app.get('/api/findings', async (_, response) => {
    response.type('application/x-ndjson').set('Cache-Control', 'no-store');
    const check = findFindings(project, sources, blobs.directory, (progress) => {
      response.write(`${JSON.stringify(progress)}\n`);
    });
    response.on('close', check.stop);
    try {
      await check.done;
      response.end();
    } catch (error) {
      console.error('findings:', error);
      response.destroy();
    }
  });
}

function exportRoutes(app: express.Express, { project, sources, blobs, projectName }: AppContext): void {
  app.get('/api/export/model.glb', async (_, response) => {
    const glb = await modelAsGlb(project, sources, blobs);
    if (!glb) refuse(response, 404, 'There is no model to hand over yet.');
    else
      response
        .attachment(`${projectName}.glb`)
        .type('model/gltf-binary')
        .send(Buffer.from(glb.buffer, glb.byteOffset, glb.byteLength));
  });
}

function securityHeaders(_: Request, response: Response, next: NextFunction): void {
  response.set({
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'X-Content-Type-Options': 'nosniff',
    'Referrer-Policy': 'no-referrer',
    'Permissions-Policy': 'camera=(), microphone=(), geolocation=()',
    'Content-Security-Policy':
      "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; worker-src 'self' blob:; connect-src 'self'; object-src 'none'; base-uri 'self'; frame-ancestors 'none'",
  });
  next();
}

/** A page whose own name was made to lead to this address would be of the same origin; so the names are known. */
function isCalledByName(request: IncomingMessage, hosts: readonly string[] | undefined): boolean {
  return hosts === undefined || hosts.includes((request.headers.host ?? '').replace(/:\d+$/, ''));
}

function isSameOrigin(request: IncomingMessage): boolean {
  try {
    return new URL(request.headers.origin ?? '').host === request.headers.host;
  } catch {
    return false;
  }
}

function sameOriginOnly(request: Request, response: Response, next: NextFunction): void {
  if (request.headers.origin === undefined || isSameOrigin(request)) next();
  else refuse(response, 403, 'Pages of another origin may not use this server.');
}

const hasFault = (result: unknown): result is { fault: string } => typeof result === 'object' && result !== null && 'fault' in result;

function answerErrors(error: unknown, _: Request, response: Response, next: NextFunction): void {
  if (response.headersSent) {
    next(error);
    return;
  }
  if (isDiskFull(error)) {
    refuse(response, 507, DISK_FULL);
    return;
  }
  const status = (error as { status?: number }).status ?? 500;
  if (status >= 500) console.error('http:', error);
  const message =
    status === 413 ? 'What was sent is too large.' : status >= 500 ? 'The server could not do this.' : 'The request could not be read.';
  response.status(status).json({ message });
}
