import { createServer, type Server, type Socket } from 'node:net';

/** Accepts connections from this machine only. */
export class Listener {
  #server: Server | null = null;
  readonly #sockets = new Set<Socket>();

  /** Listens on the loopback address; 0 for any port. Returns the port. */
  async listen(port: number, begin: (socket: Socket) => void): Promise<number> {
    // Answers are written in several small pieces, which must not wait for each other.
    const server = createServer({ noDelay: true }, (socket) => {
      this.#sockets.add(socket);
      socket.on('error', () => socket.destroy());
      socket.on('close', () => this.#sockets.delete(socket));
      begin(socket);
    });
    this.#server = server;
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject);
      server.listen(port, '127.0.0.1', resolve);
    });
    const address = server.address();
    return typeof address === 'object' && address ? address.port : port;
  }

  async close(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    const server = this.#server;
    if (server) await new Promise<void>((resolve) => server.close(() => resolve()));
  }
}
