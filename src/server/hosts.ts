/** The names under which the server answers: this machine's own, and those in YSOMERIS_HOSTS, separated by commas. */
export function isAllowedHost(host: string): boolean {
  const name = host.replace(/:\d+$/, '').toLowerCase();
  const further = (process.env.YSOMERIS_HOSTS ?? '').split(',').filter((entry) => entry !== '');
  return ['localhost', '127.0.0.1', '[::1]', ...further].includes(name);
}
