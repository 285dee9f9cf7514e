import { createHash, randomBytes } from 'node:crypto';
import { isPassword } from './password';

const COOKIE = 'diaphane-session';
const SESSION_MS = 12 * 3600_000;
/** So many wrong passwords from one address, and it has to wait. */
const [MOST_WRONG, WAIT_MS] = [5, 60_000];
/** From then on those whose wait is over are forgotten. */
const MOST_ADDRESSES = 1000;

interface WithCookies {
  headers: { cookie?: string | undefined };
}

/** The one person who may use a server that other computers can reach. Sessions end with the server, or after half a day unused. */
export class Owner {
  private readonly sessions = new Map<string, number>();
  private readonly wrong = new Map<string, { count: number; until: number }>();

  constructor(
    private readonly passwordHash: string,
    private readonly now: () => number = Date.now,
  ) {}

  /** The cookie of a new session, `wrong` for a wrong password, or `wait` after too many of these. */
  async signIn(password: string, address: string): Promise<{ cookie: string } | 'wrong' | 'wait'> {
    const tried = this.wrong.get(address);
    if (tried && tried.count >= MOST_WRONG && tried.until > this.now()) return 'wait';
    if (this.wrong.size > MOST_ADDRESSES) for (const [known, { until }] of this.wrong) if (until <= this.now()) this.wrong.delete(known); // prettier-ignore
    // Counted before it is looked at, so that many at once are no more than many in turn.
    this.wrong.set(address, { count: tried && tried.until > this.now() ? tried.count + 1 : 1, until: this.now() + WAIT_MS });
    if (!(await isPassword(password, this.passwordHash))) return 'wrong';
    this.wrong.delete(address);
    const id = randomBytes(32).toString('hex');
    this.sessions.set(markOf(id), this.now() + SESSION_MS);
    return { cookie: `${COOKIE}=${id}; HttpOnly; SameSite=Strict; Path=/; Max-Age=${String(SESSION_MS / 1000)}` };
  }

  /** Ends a request's session; the cookie that says so. */
  signOut(request: WithCookies): string {
    this.sessions.delete(sessionOf(request));
    return `${COOKIE}=; HttpOnly; SameSite=Strict; Path=/; Max-Age=0`;
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
