/**
 * Whether a command comes from our own pages: by its Origin, and by what the browser says of the site (Fetch Metadata
 * Request Headers, W3C). `own` is where we are served; `host` is what the request was sent to.
 */
export function fromOurPages(
  { origin, site, host }: Readonly<Record<'origin' | 'site' | 'host', string | null | undefined>>,
  own: string,
): boolean {
  if (site && site !== 'same-origin') return false;
  if (!origin) return site === 'same-origin';
  try {
    return [new URL(own).host, host].includes(new URL(origin).host);
  } catch {
    return false;
  }
}
