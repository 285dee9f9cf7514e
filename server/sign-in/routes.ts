import express from 'express';
import * as v from 'valibot';
import type { Owner } from './owner';
import { signInPage } from './page';

const formSchema = v.object({ password: v.pipe(v.string(), v.maxLength(1000)) });

const WRONG = 'This is not the password.';
export const BUSY = 'Others are signing in just now. Wait a second and try again.';
const WAIT = 'Too many wrong passwords came from this address. Wait a minute and try again.';

/** Lets nobody through but the owner; for all others there is a page to sign in. Routes that follow are the owner's alone. */
export function signInRoutes(app: express.Express, owner: Owner): void {
  const show = (response: express.Response, status: number, fault = '') => {
    // Without a referrer a browser would send its form with the origin "null".
    response.set('Referrer-Policy', 'same-origin').status(status).type('html').send(signInPage(fault));
  };
  app.get('/sign-in', (_, response) => {
    show(response, 200);
  });
  app.post('/sign-in', express.urlencoded({ extended: false, limit: '8kb' }), async (request, response) => {
    const form = v.safeParse(formSchema, request.body);
    const result = await owner.signIn(form.success ? form.output.password : '', request.ip ?? '');
    if (typeof result === 'object') response.set('Set-Cookie', result.cookie).redirect(303, '/');
    else if (result === 'wait') show(response, 429, WAIT);
    else if (result === 'busy') show(response, 503, BUSY);
    else show(response, 401, WRONG);
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
