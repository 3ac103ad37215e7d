import { connect as connectPlain, type Socket } from 'node:net';
import { connect as connectTls, type TLSSocket } from 'node:tls';

/** How a server is reached. */
export interface ServerAddress {
  readonly host: string;
  /** 4190 where nothing else is said (RFC 5804 section 1.8). */
  readonly port: number;
  /** `plain` only where nobody can listen, such as on this machine. */
  readonly security: 'starttls' | 'tls' | 'plain';
  /** The SHA-256 fingerprint of a certificate that the user has looked at, where nobody the machine trusts vouches for it. */
  readonly trusted: string | null;
}

/** The server cannot be reached, does not answer, or does not speak the protocol. */
export class ConnectionFault extends Error {}

/** Nobody the machine trusts vouches for the server. */
export class CertificateFault extends Error {
  constructor(
    readonly reason: string,
    readonly fingerprint: string,
    readonly subject: string,
  ) {
    super(`The certificate of the server cannot be trusted: ${reason}.`);
  }
}

/** A line to the server; secured at once where that is asked for. */
export async function opened(address: ServerAddress, patience: number): Promise<Socket> {
  const socket = connectPlain({ host: address.host, port: address.port });
  await settled(socket, 'connect', patience, address);
  return address.security === 'tls' ? secured(address, patience, socket) : socket;
}

/** Secures a line; throws where nobody vouches for the server, unless the user trusts just this certificate. */
export async function secured(address: ServerAddress, patience: number, socket: Socket): Promise<TLSSocket> {
  // It is looked at below: what cannot be trusted is never ignored in silence.
  const { host } = address;
  const tls = connectTls({ socket, host, servername: isName(host) ? host : '', rejectUnauthorized: false });
  await settled(tls, 'secureConnect', patience, address);
  const { fingerprint256 = '', subject } = tls.getPeerCertificate();
  if (!tls.authorized && fingerprint256 !== address.trusted) {
    tls.destroy();
    throw new CertificateFault(distrustOf(tls.authorizationError), fingerprint256, String(subject?.CN ?? ''));
  }
  return tls;
}

/** Why a certificate is not trusted, by the codes of OpenSSL's verify(1) and of Node. */
const DISTRUST: Readonly<Record<string, string>> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: 'nobody but itself vouches for it',
  SELF_SIGNED_CERT_IN_CHAIN: 'who vouches for it is not known to this machine',
  UNABLE_TO_GET_ISSUER_CERT: 'who vouches for it is not known to this machine',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'who vouches for it is not known to this machine',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'who vouches for it is not known to this machine',
  CERT_HAS_EXPIRED: 'it has run out',
  CERT_NOT_YET_VALID: 'its time has not come yet',
  CERT_REVOKED: 'it was taken back',
  ERR_TLS_CERT_ALTNAME_INVALID: 'it was made for a server of another name',
};

/** Node gives a code, or an error that has one. */
function distrustOf(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : String(error);
  return DISTRUST[code] ?? code;
}

/** A server's name is sent in TLS, an address is not (RFC 6066 section 3). */
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
    const clock = setTimeout(() => fail(`${host} does not answer at port ${port}.`), patience);
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

/** What can go wrong while a line is being secured, by the codes of OpenSSL. */
const TLS_FAULTS: Readonly<Record<string, (where: string) => string>> = {
  ERR_SSL_WRONG_VERSION_NUMBER: (where) => `${where} does not speak TLS. It may want STARTTLS.`,
  ERR_SSL_PACKET_LENGTH_TOO_LONG: (where) => `${where} does not speak TLS. It may want STARTTLS.`,
  ERR_SSL_UNSUPPORTED_PROTOCOL: (where) => `${where} has only old versions of TLS, which are not safe.`,
  ERR_SSL_TLSV1_ALERT_PROTOCOL_VERSION: (where) => `${where} has only old versions of TLS, which are not safe.`,
  ERR_SSL_SSLV3_ALERT_HANDSHAKE_FAILURE: (where) => `${where} and this machine share no way to secure the line.`,
  ERR_SSL_NO_PROTOCOLS_AVAILABLE: (where) => `${where} and this machine share no version of TLS.`,
  ERR_SSL_DH_KEY_TOO_SMALL: (where) => `${where} secures the line with a key that is too short to be safe.`,
  ERR_SSL_EE_KEY_TOO_SMALL: (where) => `The key of the certificate of ${where} is too short to be safe.`,
  ERR_SSL_CA_MD_TOO_WEAK: (where) => `The certificate of ${where} is signed in a way that is no longer safe.`,
};

function reasonOf(error: NodeJS.ErrnoException, host: string, port: number): string {
  if (error.code === 'ENOTFOUND' || error.code === 'EAI_AGAIN') return `There is no machine “${host}”.`;
  if (error.code === 'ECONNREFUSED') return `${host} has no such server at port ${port}.`;
  if (error.code === 'ECONNRESET' || error.code === 'EPIPE') return `${host} closed the connection at port ${port}.`;
  return TLS_FAULTS[error.code ?? '']?.(`${host} at port ${port}`) ?? `${host} cannot be reached: ${error.message}.`;
}
