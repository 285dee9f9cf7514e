/** The page to sign in with; it needs nothing else of the server. `fault` is a sentence, or empty. */
export const signInPage = (fault: string): string => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Diaphane: sign in</title>
<style>
  body { margin: 0; min-height: 100vh; display: grid; place-content: center; background: #f6f3ec; color: #22303a; font: 16px/1.5 system-ui, sans-serif; }
  form { width: 320px; padding: 24px; background: #fffdf8; border: 1px solid #22303a; }
  h1 { margin: 0 0 16px; font-size: 1.25rem; }
  label, input, button { display: block; width: 100%; box-sizing: border-box; font: inherit; }
  input { margin: 4px 0 16px; padding: 6px 8px; border: 1px solid #5c6870; background: #fff; color: inherit; }
  button { padding: 6px; border: 1px solid #22303a; background: #22303a; color: #fffdf8; cursor: pointer; }
  input:focus-visible, button:focus-visible { outline: 2px solid #b4442a; outline-offset: 2px; }
  [role='alert'] { margin: 0 0 16px; color: #9b1c1c; }
</style>
<form method="post" action="/sign-in">
  <h1>Diaphane</h1>
  ${fault && `<p role="alert">${fault}</p>`}
  <label for="password">The owner’s password</label>
  <input id="password" name="password" type="password" autocomplete="current-password" required autofocus>
  <button type="submit">Sign in</button>
</form>
</html>
`;
