import { DamagedArchive, readMail } from '../archive-file';
import { type ReadMail, Unreadable } from './found';

/** The mail of an exported audit. */
export const readDocument: ReadMail = async function* (file, total, settings) {
  try {
    for await (const { mail, done } of readMail(file)) {
      settings.progress(Math.min(done, total), total);
      const { raw, ...place } = mail;
      yield [{ ...place, raw: Buffer.from(raw, 'base64'), offset: 0, single: true, path: null }];
    }
  } catch (error) {
    if (error instanceof DamagedArchive) throw new Unreadable(error.message);
    throw error;
  }
};
