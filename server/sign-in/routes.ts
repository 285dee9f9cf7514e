import express from 'express';
import * as v from 'valibot';
import type { Owner } from './owner';
import { signInPage } from './page';

const formSchema = v.object({ password: v.pipe(v.string(), v.maxLength(1000)) });

const WRONG = 'This is not the password.';
const WAIT = 'Too many wrong passwords came from this address. Wait a minute and try again.';

/** Lets nobody through but the owner; for all others there is a page to sign in. Routes that follow are the owner's alone. */
export function signInRoutes(app: express.Express, owner: Owner): void {
  app.get('/sign-in', (_, response) => {
    response.type('html').send(signInPage(''));
  });
  app.post('/sign-in', express.urlencoded({ extended: false, limit: '8kb' }), async (request, response) => {
    const form = v.safeParse(formSchema, request.body);
    const result = await owner.signIn(form.success ? form.output.password : '', request.socket.remoteAddress ?? '');
    if (typeof result === 'object') response.set('Set-Cookie', result.cookie).redirect(303, '/');
    else response.status(result === 'wait' ? 429 : 401).type('html').send(signInPage(result === 'wait' ? WAIT : WRONG)); // prettier-ignore
  });
  app.post('/sign-out', (request, response) => {
    response.set('Set-Cookie', owner.signOut(request)).redirect(303, '/sign-in');
  });
  app.use((request, response, next) => {
    if (owner.isSignedIn(request)) next();
    else if (request.method === 'GET' && !request.path.startsWith('/api')) response.redirect(303, '/sign-in');
    else response.status(401).json({ message: 'Sign in first.' });
  });
}
