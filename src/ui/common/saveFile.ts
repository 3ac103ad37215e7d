import { readAnswer } from './api';

/** Asks for a file by a request that may change something, and has the browser save it. Throws the server's one clear sentence. */
export async function saveFile(path: string, name: string): Promise<void> {
  const response = await fetch(path, { method: 'POST' }).catch(() => {
    throw new Error('The server does not answer.');
  });
  if (!response.ok) await readAnswer(response);
  const address = URL.createObjectURL(await response.blob());
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
