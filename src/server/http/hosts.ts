/** The names under which the server answers: this machine's own, and those in YSOMERIS_HOSTS, separated by commas. */
export function isAllowedHost(host: string): boolean {
  const name = host.replace(/:\d+$/, '').toLowerCase();
  return ['localhost', '127.0.0.1', '[::1]', ...furtherHosts()].includes(name);
}

/** Whether only this machine's own names are served, so that whoever asks may name its files. */
export const servesThisMachineOnly = (): boolean => furtherHosts().length === 0;

function furtherHosts(): string[] {
  return (process.env.YSOMERIS_HOSTS ?? '').split(',').filter((entry) => entry !== '');
}
