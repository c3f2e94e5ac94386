import { kindOf, type RefusalCode, type RefusalKind } from '@/core/refusals';

/** The HTTP status (RFC 9110; 429 of RFC 6585, 507 of RFC 4918) of each kind of refusal. */
const statuses: { readonly [K in RefusalKind]: number } = {
  signedOut: 401,
  forbidden: 403,
  missing: 404,
  conflict: 409,
  gone: 410,
  tooLarge: 413,
  unfit: 422,
  tooOften: 429,
  fault: 500,
  busy: 503,
  noRoom: 507,
};

/** The HTTP status of a refusal. */
export function statusOf(code: RefusalCode): number {
  return statuses[kindOf(code)];
}
