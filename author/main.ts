import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { readFileSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import * as v from 'valibot';
import { AuthorDocument, editSchema, SESSION, type Edit } from './edits';
import { writeIfc } from './ifc-writer';
import { LinkClient } from '../link/link-client';
import { buildMarramLanding } from './model/build';
import { storedMesh } from './model/kit';

/** The simulated author: a small process with a page of buttons, which stands for a modelling tool with a link plug-in. */

const { values } = parseArgs({
  options: {
    server: { type: 'string', default: 'http://127.0.0.1:4600' },
    token: { type: 'string', default: '' },
    port: { type: 'string', default: '4601' },
    host: { type: 'string', default: '127.0.0.1' },
    /** Edits made before it links, as JSON. */
    edits: { type: 'string', default: '[]' },
    /** Runs the scripted session, then ends. */
    session: { type: 'boolean', default: false },
    /** Writes the model as IFC4 to a file, then ends. */
    ifc: { type: 'string' },
  },
});

const here = path.dirname(fileURLToPath(import.meta.url));
const PAGE = readFileSync(path.join(here, 'author-page.html'));
const SCRIPT = readFileSync(path.join(here, 'author-page.js'));
const MAX_BODY = 64 * 1024;
const authorDocument = new AuthorDocument();
for (const edit of editsOf(values.edits)) authorDocument.run(edit);
let model = buildMarramLanding(authorDocument.parameters);

const link = new LinkClient({
  server: values.server,
  token: values.token,
  sourceId: 'marram-landing',
  sourceName: 'Marram Landing',
  tool: 'Simulated author',
  blob: (hash) => storedMesh(hash)?.bytes,
});
let linkMessage = '';
let revision = 0;
link.on('status', (_, message) => {
  linkMessage = message;
});
link.on('acknowledged', (acknowledged) => {
  revision = acknowledged;
});

/** What it is told to begin with; else it ends with a sentence. */
function editsOf(text: string): Edit[] {
  try {
    return v.parse(v.array(editSchema), JSON.parse(text));
  } catch {
    console.error('--edits is a list of edits as JSON, each as the page of buttons sends it.');
    process.exit(1);
  }
}

function run(edit: Edit): void {
  authorDocument.run(edit);
  model = buildMarramLanding(authorDocument.parameters);
  link.update(model);
}

function state() {
  return {
    parameters: authorDocument.parameters,
    link: link.status,
    message: linkMessage,
    revision,
    elements: model.elements.size,
    layers: [...new Set([...model.elements.values()].map((e) => e.layer))].sort(),
    materials: [...model.materials.values()].map(({ id, name, colour }) => ({ id, name, colour })),
    luminaires: [...model.luminaires.values()].map(({ id, name, dim }) => ({ id, name, dim })),
    cameras: [...model.cameras.values()],
    columns: [...model.elements.keys()].filter((id) => /^column-[sn]\d+$/.test(id)),
  };
}

async function bodyOf(request: IncomingMessage): Promise<unknown> {
  let text = '';
  for await (const chunk of request) {
    text += String(chunk);
    if (text.length > MAX_BODY) throw new Error('too large');
  }
  return JSON.parse(text || '{}') as unknown;
}

function answer(response: ServerResponse, status: number, value: unknown): void {
  response.writeHead(status, { 'Content-Type': 'application/json', 'Cache-Control': 'no-store' }).end(JSON.stringify(value));
}

async function serve(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const { pathname } = new URL(request.url ?? '/', 'http://localhost');
  const origin = request.headers.origin;
  if (origin !== undefined && new URL(origin).host !== request.headers.host) {
    answer(response, 403, { message: 'Another origin may not edit this model.' });
  } else if (request.method === 'GET' && pathname === '/') {
    response.writeHead(200, { 'Content-Type': 'text/html; charset=utf-8', 'X-Content-Type-Options': 'nosniff' }).end(PAGE);
  } else if (request.method === 'GET' && pathname === '/page.js') {
    response.writeHead(200, { 'Content-Type': 'text/javascript; charset=utf-8' }).end(SCRIPT);
  } else if (request.method === 'GET' && pathname === '/state') answer(response, 200, state());
  else if (request.method === 'GET' && pathname === '/marram-landing.ifc') {
    response
      .writeHead(200, { 'Content-Type': 'application/x-step', 'Content-Disposition': 'attachment; filename="marram-landing.ifc"' })
      .end(writeIfc(model));
  } else if (request.method === 'POST' && pathname === '/edit') {
    const edit = v.safeParse(editSchema, await bodyOf(request));
    if (edit.success) run(edit.output);
    answer(response, edit.success ? 200 : 400, edit.success ? state() : { message: edit.issues[0].message });
  } else if (request.method === 'POST' && pathname === '/session') {
    void runSession(400);
    answer(response, 202, { edits: SESSION.length });
  } else answer(response, 404, { message: 'There is nothing here.' });
}

let sessionRunning = false;

async function runSession(pauseMs: number): Promise<void> {
  if (sessionRunning) return;
  sessionRunning = true;
  for (const edit of SESSION) {
    const acknowledged = new Promise<void>((resolve) => link.once('acknowledged', () => { resolve(); })); // prettier-ignore
    run(edit);
    await Promise.race([acknowledged, new Promise((resolve) => setTimeout(resolve, 5000))]);
    if (pauseMs > 0) await new Promise((resolve) => setTimeout(resolve, pauseMs));
  }
  sessionRunning = false;
}

if (values.ifc !== undefined) {
  writeFileSync(values.ifc, writeIfc(model));
} else {
  link.update(model);
  if (values.session) {
    link.on('status', (status, message) => {
      if (status !== 'refused') return;
      console.error(`The link was refused: ${message}`);
      process.exit(1);
    });
    const first = new Promise<void>((resolve) => link.once('acknowledged', () => { resolve(); })); // prettier-ignore
    link.start();
    await first;
    await runSession(0);
    // On a busy computer the last edits may still be on their way.
    while (!link.isInStep) await new Promise<void>((resolve) => link.once('acknowledged', () => { resolve(); })); // prettier-ignore
    console.log(JSON.stringify({ edits: SESSION.length, revision }));
    link.stop();
    process.exit(0);
  } else {
    const server = createServer((request, response) => {
      serve(request, response).catch(() => {
        answer(response, 400, { message: 'The request could not be read.' });
      });
    });
    server.on('error', (error: NodeJS.ErrnoException) => {
      console.error(error.code === 'EADDRINUSE' ? `Port ${values.port} is already in use.` : error.message);
      process.exit(1);
    });
    server.listen(Number(values.port), values.host, () => {
      console.log(JSON.stringify({ author: `http://${values.host}:${String((server.address() as AddressInfo).port)}` }));
      link.start();
    });
    const end = () => {
      link.stop();
      process.exit(0);
    };
    process.on('SIGTERM', end);
    // As the server does.
    if (process.env['DIAPHANE_END_WITH_INPUT']) process.stdin.resume().on('close', end);
  }
}
