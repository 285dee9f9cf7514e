import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import express from 'express';
import * as v from 'valibot';
import { viewerLinked, viewerList, viewerOrdered, viewerWeighed } from '../../core/project/answers';
import { remarkSchema, type Remark } from '../../core/project/remark';
import { complain } from '../complain';
import type { ProjectStore } from '../project-store';
import { refuse, reply } from '../reply';
import type { SourceStore } from '../source-store';
import { askPage, closedPage } from './link-pages';
import { BUSY } from '../sign-in/routes';
import type { BlobStore } from '../blobs';
import { boundsNow } from '../mesh-bounds';
import { viewerOrderSchema, viewerSpecOf, type ViewerSpec } from './spec';
import type { OpenLink, Viewers } from './viewers';

interface ViewerContext {
  viewers: Viewers;
  project: ProjectStore;
  sources: SourceStore;
  blobs: BlobStore;
  projectName: string;
}

const wishSchema = v.strictObject({
  days: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(365)),
  password: v.optional(v.pipe(v.string(), v.minLength(6, 'has six characters at least'), v.maxLength(200))),
  mayComment: v.boolean(),
  showsOthers: v.optional(v.boolean()),
});
const formSchema = v.object({ password: v.pipe(v.string(), v.maxLength(1000)) });

/** Viewers as their maker uses them. */
export function viewerRoutes(app: express.Express, { viewers, project, sources, blobs, projectName }: ViewerContext): void {
  app.get('/api/viewers', async (_, response) => {
    response.set('Cache-Control', 'no-store');
    reply(response, viewerList, { viewers: await viewers.list() });
  });
  /** Undefined: it was refused, and the answer says why. */
  const specOf = async (request: express.Request, response: express.Response): Promise<ViewerSpec | undefined> => {
    const asked = v.safeParse(viewerOrderSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return undefined;
    }
    const bounds = await boundsNow(project, sources, blobs);
    const spec = viewerSpecOf(asked.output, projectName, new Date().toISOString(), project, sources, bounds);
    if (typeof spec !== 'string') return spec;
    refuse(response, 409, spec);
    return undefined;
  };
  app.post('/api/viewers', async (request, response) => {
    const spec = await specOf(request, response);
    if (spec) reply(response, viewerOrdered, { id: await viewers.order(spec) }, 201);
  });
  app.post('/api/viewers/weigh', async (request, response) => {
    const spec = await specOf(request, response);
    if (!spec) return;
    const weight = await viewers.weigh(spec);
    if (weight) reply(response, viewerWeighed, weight);
    else refuse(response, 409, 'Another viewer is being weighed.');
  });
  app.get('/api/viewers/:viewer/file', async (request, response) => {
    const name = await viewers.nameOf(request.params.viewer);
    if (name === undefined) refuse(response, 404, 'There is no such viewer.');
    else response.download(viewers.fileOf(request.params.viewer), `${name.replace(/[\p{C}<>:"/\\|?*]/gu, ' ')}.html`);
  });
  app.delete('/api/viewers/:viewer', async (request, response) => {
    await viewers.remove(request.params.viewer);
    response.status(204).end();
  });
  app.post('/api/viewers/:viewer/links', async (request, response) => {
    const asked = v.safeParse(wishSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    const made = await viewers.link(request.params.viewer, asked.output);
    if (made) reply(response, viewerLinked, made, 201);
    else refuse(response, 404, 'There is no such viewer.');
  });
  app.delete('/api/viewer-links/:link', async (request, response) => {
    await viewers.revoke(request.params.link);
    response.status(204).end();
  });
}

const VIEWER_POLICY =
  "default-src 'none'; script-src 'unsafe-inline' 'wasm-unsafe-eval'; style-src 'unsafe-inline'; img-src data: blob:; connect-src 'self' blob: data:; worker-src blob:; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
/** Along one link. */
const MOST_REMARKS = 500;
const remarksIn = ({ entries }: ProjectStore): Remark[] =>
  [...entries].flatMap(([key, remark]) => (key.startsWith('remark/') ? [remark as Remark] : []));
const COOKIE = 'diaphane-viewer';

/** Viewers as a client opens them by a link, without signing in. Nothing else can be reached from there. */
export function viewerLinkRoutes(app: express.Express, { viewers, project }: ViewerContext): void {
  // Who has told a link's password is known until the server ends.
  const secret = randomBytes(32);
  const passOf = (link: OpenLink) => createHmac('sha256', secret).update(link.tokenHash).digest('hex');
  const hasPass = (request: express.Request, link: OpenLink): boolean => {
    if (link.passwordHash === null) return true;
    const told = (request.headers.cookie ?? '').split(/;\s*/).find((part) => part.startsWith(`${COOKIE}-${link.id}=`))?.split('=')[1] ?? ''; // prettier-ignore
    const [a, b] = [Buffer.from(told), Buffer.from(passOf(link))];
    return a.length === b.length && timingSafeEqual(a, b);
  };
  const page = (response: express.Response, status: number, html: string) => {
    response.set({ 'Content-Security-Policy': VIEWER_POLICY, 'Cache-Control': 'no-store', 'Referrer-Policy': 'same-origin' });
    response.status(status).type('html').send(html);
  };
  const addressOf = (request: express.Request) => request.ip ?? '';
  const linkOf = async (request: express.Request<{ token: string }>, response: express.Response): Promise<OpenLink | undefined> => {
    const link = await viewers.open(request.params.token, addressOf(request));
    if (link === 'wait') page(response, 429, closedPage('Too many wrong addresses came from here. Wait a minute and try again.'));
    else if (!link)
      page(response, 404, closedPage('This link shows nothing any more, or never did. Ask whoever sent it to you for a new one.'));
    else return link;
    return undefined;
  };
  app.get('/v/:token', async (request, response) => {
    const link = await linkOf(request, response);
    if (!link) return;
    if (!hasPass(request, link)) {
      page(response, 200, askPage(''));
      return;
    }
    // Programs that only ask whether it is there have not looked at it.
    if (request.method === 'GET') await viewers.log(link.id, addressOf(request), 'opened');
    const html = await readFile(viewers.fileOf(link.viewer), 'utf8');
    const marks = '<script id="viewing" type="application/json">{';
    const comments = JSON.stringify(`/v/${request.params.token}/remarks`);
    page(response, 200, link.mayComment ? html.replace(marks, () => `${marks}"comments":${comments},`) : html);
  });
  app.post('/v/:token', express.urlencoded({ extended: false, limit: '8kb' }), async (request, response) => {
    const link = await linkOf(request, response);
    if (!link) return;
    const form = v.safeParse(formSchema, request.body);
    const right = await viewers.isPassword(link, form.success ? form.output.password : '', addressOf(request));
    if (right === 'wait') page(response, 429, askPage('Too many wrong passwords came from here. Wait a minute and try again.'));
    else if (right === 'busy') page(response, 503, askPage(BUSY));
    else if (!right) page(response, 401, askPage('This is not the password.'));
    else response.set('Set-Cookie', `${COOKIE}-${link.id}=${passOf(link)}; HttpOnly; SameSite=Lax; Path=/v/${request.params.token}`).redirect(303, `/v/${request.params.token}`); // prettier-ignore
  });
  const remarksFor = async (request: express.Request<{ token: string }>, response: express.Response): Promise<OpenLink | undefined> => {
    const link = await viewers.open(request.params.token, addressOf(request));
    if (typeof link === 'object' && link.mayComment && hasPass(request, link)) return link;
    refuse(response, 404, 'Remarks cannot be made here.');
    return undefined;
  };
  app.get('/v/:token/remarks', async (request, response) => {
    const link = await remarksFor(request, response);
    if (!link) return;
    const kept = remarksIn(project).filter((remark) => link.showsOthers || remark.link === link.id);
    response.set('Cache-Control', 'no-store').json(kept);
  });
  app.post('/v/:token/remarks', express.json({ limit: '64kb' }), async (request, response) => {
    const link = await remarksFor(request, response);
    if (!link) return;
    const remark = v.safeParse(remarkSchema, request.body);
    if (!remark.success) {
      complain(response, remark.issues);
      return;
    }
    // What is there is the office's to change.
    if (project.entries.has(`remark/${remark.output.id}`)) {
      refuse(response, 409, 'This remark is there already.');
      return;
    }
    if (remarksIn(project).filter((kept) => kept.link === link.id).length >= MOST_REMARKS) {
      refuse(response, 409, `${String(MOST_REMARKS)} remarks have come along this link; it takes no more.`);
      return;
    }
    if (!viewers.takesRemark(link)) {
      refuse(response, 429, 'Too many remarks came along this link. Wait a minute and try again.');
      return;
    }
    await viewers.log(link.id, addressOf(request), 'remarked');
    await project.runFor(link.id, { type: 'keep-remark', remark: { ...remark.output, status: 'open', link: link.id } });
    response.status(201).json({});
  });
}
