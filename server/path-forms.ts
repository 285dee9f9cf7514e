import type { Express } from 'express';
import { refuse } from './reply';

/** What each part of an address that names something may look like. What becomes a file's name is checked here, and nowhere else. */

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
const NAME = /^[\w-]{1,100}$/;
const FORMS: Readonly<Record<string, RegExp>> = {
  viewer: UUID,
  link: UUID,
  print: UUID,
  delivery: UUID,
  token: /^[\w-]{1,200}$/,
  hash: /^[0-9a-f]{64}$/,
  item: NAME,
  id: NAME,
  number: /^\d{1,9}$/,
  revision: /^\d{1,9}$/,
};

export function checkPathForms(app: Express): void {
  for (const [name, form] of Object.entries(FORMS))
    app.param(name, (_, response, next, value: string) => {
      if (form.test(value)) next();
      else refuse(response, 404, 'There is nothing at this address.');
    });
}
