import { createHash, createHmac, pbkdf2Sync, randomBytes, timingSafeEqual } from 'node:crypto';
import { elementAt } from '../core/text/lookup';

/** SCRAM-SHA-256 (RFC 5802, RFC 7677) without channel binding. */
const sha256 = (data: Buffer): Buffer => createHash('sha256').update(data).digest();
const hmac = (key: Buffer, text: string): Buffer => createHmac('sha256', key).update(text).digest();

/** Fewer iterations do not protect the password (RFC 7677 section 4); more would block the client. */
const LEAST_ROUNDS = 4096;
const MOST_ROUNDS = 100_000;

export class ScramFault extends Error {}

/** The client's side of one SCRAM exchange. */
export class ScramClient {
  readonly #nonce: string;
  readonly #first: string;
  #signature: Buffer | null = null;

  constructor(
    readonly user: string,
    readonly password: string,
    nonce = randomBytes(18).toString('base64'),
  ) {
    this.#nonce = nonce;
    // Escapes = and , in names (RFC 5802 section 5.1).
    this.#first = `n=${user.replaceAll('=', '=3D').replaceAll(',', '=2C')},r=${nonce}`;
  }

  first(): string {
    return `n,,${this.#first}`;
  }

  /** Answers the server's first message; throws if it is malformed. */
  final(challenge: string): string {
    const { r: nonce = '', s: salt = '', i: rounds = '' } = attributesOf(challenge);
    const count = Number(rounds);
    if (!nonce.startsWith(this.#nonce) || nonce === this.#nonce) throw new ScramFault('the server sent no nonce');
    if (!Number.isInteger(count) || count < LEAST_ROUNDS || count > MOST_ROUNDS) {
      throw new ScramFault(
        `the server asked for ${rounds.slice(0, 20)} iterations, where ${LEAST_ROUNDS} to ${MOST_ROUNDS} are allowed`,
      );
    }
    const { proof, signature, withoutProof } = proofOf(this.password, Buffer.from(salt, 'base64'), count, {
      first: this.#first,
      challenge,
      nonce,
    });
    this.#signature = signature;
    return `${withoutProof},p=${proof.toString('base64')}`;
  }

  /** Checks the server's signature; throws if the server does not know the password either. */
  checkServer(message: string): void {
    const { v = '' } = attributesOf(message);
    const given = Buffer.from(v, 'base64');
    const own = this.#signature;
    if (!own || given.length !== own.length || !timingSafeEqual(given, own)) {
      throw new ScramFault('the server did not prove that it knows the password');
    }
  }
}

interface Exchange {
  readonly first: string;
  readonly challenge: string;
  readonly nonce: string;
}

/** The client's proof and the server's signature (RFC 5802 section 3). */
export function proofOf(password: string, salt: Buffer, rounds: number, { first, challenge, nonce }: Exchange) {
  const salted = pbkdf2Sync(password.normalize('NFKC'), salt, rounds, 32, 'sha256');
  const clientKey = hmac(salted, 'Client Key');
  const withoutProof = `c=biws,r=${nonce}`;
  const message = `${first},${challenge},${withoutProof}`;
  const clientSignature = hmac(sha256(clientKey), message);
  const proof = Buffer.from(clientKey.map((octet, at) => octet ^ elementAt(clientSignature, at)));
  const signature = hmac(hmac(salted, 'Server Key'), message);
  return { proof, signature, withoutProof };
}

/** Parses `r=...,s=...`; a value is whatever follows the first =. */
export function attributesOf(message: string): Partial<Record<string, string>> {
  return Object.fromEntries(message.split(',').map((part) => [part.slice(0, 1), part.slice(2)]));
}
