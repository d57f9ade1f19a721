/** Passwords as scrypt keeps them (RFC 7914), with a salt for each and the cost beside it, so that it can be raised later. */

import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { Refusal } from '../refusal.ts';

/** One of the settings that OWASP's Password Storage Cheat Sheet names as equally strong: N = 2^15, r = 8, p = 3; 32 MiB. */
const COST = { N: 2 ** 15, r: 8, p: 3 };
const LENGTH = 32;

/** Hashing that is waited for; more than that are sent away. */
const MOST_WAITING = 50;
let waiting = 0;
let last: Promise<unknown> = Promise.resolve();

/** One after the other: all of Node.js' threads would be busy with passwords else, and nothing else of the workshop would come to its files. */
function derive(password: string, salt: Buffer, cost: typeof COST): Promise<Buffer> {
  if (waiting >= MOST_WAITING) throw new Refusal(503, 'Too many people sign in right now. Try again in a moment.');
  waiting++;
  const mine = last.then(() => deriveNow(password, salt, cost)).finally(() => waiting--);
  last = mine.catch(() => {});
  return mine;
}

const deriveNow = (password: string, salt: Buffer, { N, r, p }: typeof COST): Promise<Buffer> =>
  new Promise((done, fail) =>
    scrypt(password.normalize('NFKC'), salt, LENGTH, { N, r, p, maxmem: 256 * N * r }, (error, key) => (error ? fail(error) : done(key))),
  );

export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const key = await derive(password, salt, COST);
  return ['scrypt', COST.N, COST.r, COST.p, salt.toString('base64'), key.toString('base64')].join('$');
}

/** Takes as long for an account that is not there: its password is compared with nothing. */
export async function checkPassword(password: string, stored: string): Promise<boolean> {
  const [, N, r, p, salt, key] = stored.split('$');
  const known = key !== undefined;
  const cost = known ? { N: Number(N), r: Number(r), p: Number(p) } : COST;
  const found = await derive(password, known ? Buffer.from(salt, 'base64') : Buffer.alloc(16), cost);
  const wanted = known ? Buffer.from(key, 'base64') : Buffer.alloc(LENGTH, 1);
  return timingSafeEqual(found, wanted) && known;
}

/** As NIST SP 800-63B, 3.1.1 has it: length counts, no rules of letters and digits; the most guessed ones are refused. */
export function passwordProblem(password: string, name: string): string | null {
  if (password.length < 10) return 'A password has at least 10 characters.';
  if (password.length > 200) return 'A password has at most 200 characters.';
  const plain = password.toLowerCase();
  if (GUESSED.some((word) => plain.includes(word) && plain.length < word.length + 5)) return 'That password is among the first that are guessed.';
  return name !== '' && plain.includes(name.toLowerCase()) ? 'A password does not hold the name.' : null;
}

const GUESSED = ['password', 'passwort', '1234567890', 'qwertyuiop', 'iloveyou', 'letmein', 'welcome', 'administrator'];
