import { codeOf } from '../../files/error-code';
/** Whether an error says, itself or by its cause, that there is no room left on the disk. */
export function isDiskFull(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const code = codeOf(error);
  return code === 'SQLITE_FULL' || code === 'ENOSPC' || code === 'EDQUOT' || isDiskFull(error.cause);
}

export const DISK_FULL = 'There is no room left on the disk of the server.';
