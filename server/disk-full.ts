import { statfs } from 'node:fs/promises';

/** What is said, and done, where a disk has no room left. */

export const DISK_FULL = 'The disk is full; nothing was changed. Make room on it and try again.';
export const PRINT_WAITS = 'The disk is full. The print goes on by itself once there is room.';

const CODES = ['ENOSPC', 'EDQUOT', 'SQLITE_FULL', 'SQLITE_IOERR_WRITE'];
const LEAST_ROOM = 64 * 1024 * 1024;

export function isDiskFull(error: unknown): boolean {
  const { code = '', message = '', cause } = (error ?? {}) as { code?: string; message?: string; cause?: unknown };
  // SQLite has rolled back a transaction by itself, for want of room.
  if (CODES.includes(code) || /ENOSPC|no space left|database or disk is full|cannot rollback - no transaction/i.test(message)) return true;
  return cause !== undefined && isDiskFull(cause);
}

/** Enough to go on with a print. */
export async function hasRoom(folder: string): Promise<boolean> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize >= LEAST_ROOM;
}
