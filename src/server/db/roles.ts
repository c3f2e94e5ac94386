import { createHmac } from 'node:crypto';

export type DatabaseRole = 'avenda_app' | 'avenda_worker';

/** The password of a database role, derived from the installation's secret so that nothing needs to be kept. */
export function rolePassword(secret: string, role: DatabaseRole): string {
  return createHmac('sha256', secret).update(`database role ${role}`).digest('hex');
}

/** The owner's URL with another role in it. */
export function urlFor(ownerUrl: string, secret: string, role: DatabaseRole): string {
  const url = new URL(ownerUrl);
  url.username = role;
  url.password = rolePassword(secret, role);
  return url.toString();
}
