/**
 * Whether a request for an operation comes from our own pages: by its Origin, and by what the browser says of the site (Fetch Metadata
 * Request Headers, W3C). Only the configured address counts, whatever host a request was sent to.
 */
export function fromOurPages(
  { origin, site }: Readonly<Record<'origin' | 'site', string | null | undefined>>,
  own: string,
): boolean {
  if (site && site !== 'same-origin') return false;
  if (!origin) return site === 'same-origin';
  return origin === new URL(own).origin;
}
