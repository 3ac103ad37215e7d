import { connect as connectPlain, type Socket } from 'node:net';
import { connect as connectTls, type TLSSocket } from 'node:tls';

/** How to reach a server. */
export interface ServerAddress {
  readonly host: string;
  readonly port: number;
  /** `plain` only where nobody can listen, such as on this machine. */
  readonly security: 'starttls' | 'tls' | 'plain';
  /**
   * The SHA-256 fingerprint of a certificate that the user has checked, for servers whose authority this machine does
   * not trust.
   */
  readonly trusted: string | null;
}

/** The server cannot be reached, does not answer, or does not speak the protocol. */
export class ConnectionFault extends Error {}

/** The server's certificate is not trusted. */
export class CertificateFault extends Error {
  constructor(
    readonly reason: string,
    readonly fingerprint: string,
    readonly subject: string,
  ) {
    super(`The certificate of the server cannot be trusted: ${reason}.`);
  }
}

/** Opens a connection to the server, encrypted from the start if asked for. */
export async function opened(address: ServerAddress, patience: number): Promise<Socket> {
  const socket = connectPlain({ host: address.host, port: address.port });
  await settled(socket, 'connect', patience, address);
  return address.security === 'tls' ? secured(address, patience, socket) : socket;
}

/** Starts TLS; throws if the certificate is not trusted, unless the user trusts exactly this certificate. */
export async function secured(address: ServerAddress, patience: number, socket: Socket): Promise<TLSSocket> {
  const tls = connectTls({ socket, ...checkedLater(address) });
  await settled(tls, 'secureConnect', patience, address);
  const fault = maybeDistrusted(tls, address);
  if (!fault) return tls;
  tls.destroy();
  throw fault;
}

/** Settings of TLS with which `maybeDistrusted` checks the certificate; an untrusted one is never accepted silently. */
export const checkedLater = ({ host }: ServerAddress) => ({
  host,
  servername: isName(host) ? host : '',
  rejectUnauthorized: false,
});

/** Why the certificate of the server is not trusted, unless the user trusts exactly this certificate. */
export function maybeDistrusted(tls: TLSSocket, { trusted }: ServerAddress): CertificateFault | null {
  const { fingerprint256 = '', subject } = tls.getPeerCertificate();
  if (tls.authorized || fingerprint256 === trusted) return null;
  return new CertificateFault(distrustOf(tls.authorizationError), fingerprint256, String(subject?.CN ?? ''));
}

/**
 * Names and addresses that never leave this machine (RFC 1122 section 3.2.1.3, RFC 4291 section 2.5.3, RFC 6761 section
 * 6.3).
 */
const isThisMachine = (host: string): boolean => /^(localhost|127\.\d+\.\d+\.\d+|\[?::1\]?)$/i.test(host);

/** Throws for an unencrypted connection to any machine but this one. */
export function refuseUnencrypted({ security, host }: ServerAddress): void {
  if (security !== 'plain' || isThisMachine(host)) return;
  throw new ConnectionFault('Connections without encryption are allowed only to this machine. Choose STARTTLS or TLS.');
}

/** Reasons for not trusting a certificate, by the codes of OpenSSL's verify(1) and of Node. */
const DISTRUST: Readonly<Record<string, string>> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: 'it is self-signed',
  SELF_SIGNED_CERT_IN_CHAIN: 'it is signed by an unknown authority',
  UNABLE_TO_GET_ISSUER_CERT: 'it is signed by an unknown authority',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'it is signed by an unknown authority',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'it is signed by an unknown authority',
  CERT_HAS_EXPIRED: 'it has expired',
  CERT_NOT_YET_VALID: 'it is not valid yet',
  CERT_REVOKED: 'it was revoked',
  ERR_TLS_CERT_ALTNAME_INVALID: 'it was issued for another server name',
};

/** Node reports a code, or an error with a code. */
function distrustOf(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : String(error);
  return DISTRUST[code] ?? code;
}

/** TLS sends the server's name, but not an address (RFC 6066 section 3). */
const isName = (host: string): boolean => !/^[\d.]+$|:/.test(host);

function settled(
  socket: Socket,
  event: 'connect' | 'secureConnect',
  patience: number,
  { host, port }: ServerAddress,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const fail = (words: string) => {
      socket.destroy();
      reject(new ConnectionFault(words));
    };
    const clock = setTimeout(() => fail(`${host} does not answer on port ${port}.`), patience);
    socket.once('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(clock);
      fail(reasonOf(error, host, port));
    });
    socket.once(event, () => {
      clearTimeout(clock);
      socket.removeAllListeners('error');
      resolve();
    });
  });
}

/** Errors while TLS starts, by the codes of OpenSSL. */
const TLS_FAULTS: Readonly<Record<string, (where: string) => string>> = {
  ERR_SSL_WRONG_VERSION_NUMBER: (where) => `${where} does not speak TLS. Try STARTTLS.`,
  ERR_SSL_PACKET_LENGTH_TOO_LONG: (where) => `${where} does not speak TLS. Try STARTTLS.`,
  ERR_SSL_UNSUPPORTED_PROTOCOL: (where) => `${where} supports only old, unsafe versions of TLS.`,
  ERR_SSL_TLSV1_ALERT_PROTOCOL_VERSION: (where) => `${where} supports only old, unsafe versions of TLS.`,
  ERR_SSL_SSLV3_ALERT_HANDSHAKE_FAILURE: (where) => `${where} and this machine have no cipher in common.`,
  ERR_SSL_NO_PROTOCOLS_AVAILABLE: (where) => `${where} and this machine have no TLS version in common.`,
  ERR_SSL_DH_KEY_TOO_SMALL: (where) => `${where} uses a key that is too short to be safe.`,
  ERR_SSL_EE_KEY_TOO_SMALL: (where) => `The key of the certificate of ${where} is too short to be safe.`,
  ERR_SSL_CA_MD_TOO_WEAK: (where) => `The certificate of ${where} is signed by an unsafe algorithm.`,
};

/** Why a server cannot be reached, in plain words. */
export function reasonOf(error: NodeJS.ErrnoException, host: string, port: number): string {
  if (error.code === 'ENOTFOUND' || error.code === 'EAI_AGAIN')
    return `No machine has the name “${host}”. Check the spelling.`;
  if (error.code === 'ECONNREFUSED') return `${host} has no server on port ${port}. Check the port.`;
  if (error.code === 'ECONNRESET' || error.code === 'EPIPE') return `${host} closed the connection on port ${port}.`;
  return TLS_FAULTS[error.code ?? '']?.(`${host} at port ${port}`) ?? `${host} cannot be reached: ${error.message}.`;
}
