/** Everything that is set from outside, read once. Secrets are refused when missing. */
export interface Settings {
  readonly mode: 'demo' | 'real';
  readonly url: string;
  readonly secret: string;
  readonly databaseUrl: string;
  readonly smtpUrl: string | null;
  readonly mailFrom: string;
  readonly postFolder: string | null;
  readonly port: number;
  readonly host: string;
  /** Addresses of proxies whose forwarded header is believed; empty believes none. */
  readonly proxies: readonly string[];
  readonly uploadLimit: number;
  /** How long a job belongs to the worker that took it; one that died gives it up after that. */
  readonly leaseSeconds: number;
  /** Room on the disk that uploads leave alone, and room for files of one person and of one organization; in bytes. */
  readonly reserveBytes: number;
  readonly memberBytes: number;
  readonly organizationBytes: number;
}

const megabyte = 1024 * 1024;

let read: Settings | null = null;

export function settings(): Settings {
  read ??= readSettings(process.env);
  return read;
}

/** Reads the settings from an environment; throws with a sentence when one is missing or unfit. */
export function readSettings(env: Readonly<Record<string, string | undefined>>): Settings {
  const need = (name: string): string => {
    const value = env[name];
    if (!value) throw new Error(`The setting ${name} is missing. The README lists all settings.`);
    return value;
  };
  const number = (name: string, usual: number): number => {
    const value = env[name] === undefined ? usual : Number(env[name]);
    if (!Number.isFinite(value) || value <= 0) throw new Error(`The setting ${name} must be a number above 0.`);
    return value;
  };
  const secret = need('AVENDA_SECRET');
  if (secret.length < 32) throw new Error('The setting AVENDA_SECRET must have at least 32 characters.');
  const mode = env.AVENDA_MODE === 'demo' ? 'demo' : 'real';
  return {
    mode,
    url: need('AVENDA_URL').replace(/\/$/, ''),
    secret,
    databaseUrl: need('DATABASE_URL'),
    smtpUrl: env.SMTP_URL || null,
    mailFrom: env.AVENDA_MAIL_FROM || 'Avenda <avenda@marrowfell.example>',
    postFolder: mode === 'demo' ? (env.AVENDA_POST ?? null) : null,
    port: number('PORT', 3000),
    host: env.HOST || '127.0.0.1',
    proxies: (env.AVENDA_PROXIES ?? '')
      .split(',')
      .map((entry) => entry.trim())
      .filter(Boolean),
    uploadLimit: number('AVENDA_UPLOAD_MB', 100) * megabyte,
    leaseSeconds: number('AVENDA_LEASE_SECONDS', 180),
    reserveBytes: number('AVENDA_RESERVE_MB', 500) * megabyte,
    memberBytes: number('AVENDA_MEMBER_MB', 20_000) * megabyte,
    organizationBytes: number('AVENDA_ORGANIZATION_MB', 500_000) * megabyte,
  };
}
