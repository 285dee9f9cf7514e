import { randomBytes, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto';

/** Cost of a guess: 128 MiB and about a third of a second (RFC 7914; N as OWASP's password storage cheat sheet has it, from memory). */
const COST: ScryptOptions = { N: 2 ** 17, r: 8, p: 1, maxmem: 256 * 1024 * 1024 };
const KEY_BYTES = 32;
export const LEAST_LENGTH = 10;

const derived = (password: string, salt: Buffer): Promise<Buffer> =>
  new Promise((resolve, reject) => {
    scrypt(password.normalize('NFKC'), salt, KEY_BYTES, COST, (error, key) => {
      if (error) reject(error);
      else resolve(key);
    });
  });

/** What is kept of a password: its salt and its key, in hex. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  return `${salt.toString('hex')}.${(await derived(password, salt)).toString('hex')}`;
}

/** So many guesses are looked at at once: each takes memory and one of the few threads that files are read by. */
const MOST_AT_ONCE = 2;
let atOnce = 0;

/** `busy`: it was not looked at, because others are. */
export async function isPassword(password: string, kept: string): Promise<boolean | 'busy'> {
  if (atOnce >= MOST_AT_ONCE) return 'busy';
  atOnce++;
  try {
    const [salt = '', key = ''] = kept.split('.');
    return timingSafeEqual(await derived(password, Buffer.from(salt, 'hex')), Buffer.from(key, 'hex'));
  } finally {
    atOnce--;
  }
}
