import type { Socket } from 'node:net';
import { createSecureContext, TLSSocket } from 'node:tls';

/** A self-signed certificate and its key, both as PEM. */
export interface SelfSigned {
  readonly cert: string;
  readonly key: string;
}

/** Makes a certificate for a host name, valid from a day before now to a year after. */
export async function selfSigned(name: string, now: number): Promise<SelfSigned> {
  // Loaded on demand: the package is large, and only the demo server needs it.
  const { generate } = await import('selfsigned');
  const day = 86_400_000;
  const { cert, private: key } = await generate([{ name: 'commonName', value: name }], {
    keyType: 'ec',
    curve: 'P-256',
    algorithm: 'sha256',
    notBeforeDate: new Date(now - day),
    notAfterDate: new Date(now + 365 * day),
    // The subject alternative names (RFC 5280 section 4.2.1.6); 2 is a DNS name.
    extensions: [{ name: 'subjectAltName', altNames: [{ type: 2, value: name }] }],
  });
  return { cert, key };
}

/** Continues a connection over TLS, as the server. */
export function securedAsServer(socket: Socket, certificate: SelfSigned): TLSSocket {
  socket.removeAllListeners('data');
  const tls = new TLSSocket(socket, { isServer: true, secureContext: createSecureContext(certificate) });
  tls.on('error', () => tls.destroy());
  return tls;
}
