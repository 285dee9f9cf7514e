const STYLE =
  'body{font:16px/1.5 system-ui,sans-serif;background:#f5f2ec;color:#22303a;display:grid;place-content:center;min-height:90vh;max-width:60ch;margin:auto;padding:1rem}input,button{font:inherit;padding:.4rem .7rem}';
const pageWith = (body: string): string =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Viewer</title><style>${STYLE}</style></head><body>${body}</body></html>`;

/** Asks for the password of a link. */
export const askPage = (fault: string): string =>
  pageWith(
    `<form method="post"><p><label for="password">Password of this viewer</label></p>${fault ? `<p role="alert">${fault}</p>` : ''}<p><input id="password" name="password" type="password" autofocus> <button>Open</button></p></form>`,
  );

export const closedPage = (sentence: string): string => pageWith(`<p>${sentence}</p>`);
