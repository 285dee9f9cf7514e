import { createHash, randomBytes } from 'node:crypto';
import { Attempts } from '../attempts';
import { isPassword } from './password';

const COOKIE = 'diaphane-session';
const SESSION_MS = 12 * 3600_000;
/** So many wrong passwords from one address, and it has to wait. */
const MOST_WRONG = 5;

interface WithCookies {
  headers: { cookie?: string | undefined };
}

/** The one person who may use a server that other computers can reach. Sessions end with the server, or after half a day unused. */
export class Owner {
  private readonly sessions = new Map<string, number>();
  private readonly attempts: Attempts;
  private readonly signedOut = new Set<(mark: string) => void>();

  constructor(
    private readonly passwordHash: string,
    private readonly now: () => number = Date.now,
  ) {
    this.attempts = new Attempts(MOST_WRONG, now);
  }

  /** The cookie of a new session, `wrong` for a wrong password, `wait` after too many of these, `busy` while others are looked at. */
  async signIn(password: string, address: string): Promise<{ cookie: string } | 'wrong' | 'wait' | 'busy'> {
    if (this.attempts.mustWait(address)) return 'wait';
    this.attempts.count(address);
    const right = await isPassword(password, this.passwordHash);
    if (right === 'busy') {
      this.attempts.takeBack(address);
      return 'busy';
    }
    if (!right) return 'wrong';
    this.attempts.forget(address);
    const id = randomBytes(32).toString('hex');
    this.sessions.set(markOf(id), this.now() + SESSION_MS);
    return { cookie: `${COOKIE}=${id}; HttpOnly; SameSite=Strict; Path=/; Max-Age=${String(SESSION_MS / 1000)}` };
  }

  /** Ends a request's session; the cookie that says so. */
  signOut(request: WithCookies): string {
    const mark = sessionOf(request);
    this.sessions.delete(mark);
    for (const tell of [...this.signedOut]) tell(mark);
    return `${COOKIE}=; HttpOnly; SameSite=Strict; Path=/; Max-Age=0`;
  }

  /** Tells once a request's session is ended by its owner; the function that comes back stops that. */
  onSignOut(request: WithCookies, listener: () => void): () => void {
    const own = sessionOf(request);
    const tell = (mark: string) => {
      if (mark === own) listener();
    };
    this.signedOut.add(tell);
    return () => this.signedOut.delete(tell);
  }

  isSignedIn(request: WithCookies): boolean {
    const mark = sessionOf(request);
    const until = this.sessions.get(mark);
    if (until === undefined) return false;
    if (until < this.now()) {
      this.sessions.delete(mark);
      return false;
    }
    this.sessions.set(mark, this.now() + SESSION_MS);
    return true;
  }
}

/** Ids are compared by their hashes, which take as long whatever is guessed. */
const markOf = (id: string): string => createHash('sha256').update(id).digest('hex');

function sessionOf({ headers }: WithCookies): string {
  const pair = (headers.cookie ?? '').split(/;\s*/).find((part) => part.startsWith(`${COOKIE}=`)); // prettier-ignore
  return pair ? markOf(pair.slice(COOKIE.length + 1)) : '';
}
