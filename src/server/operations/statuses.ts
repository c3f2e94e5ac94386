/** The HTTP status (RFC 9110) of each refusal; what is not listed is a conflict with how things stand. */
const statuses: Readonly<Record<number, readonly string[]>> = {
  401: ['signed-out', 'wrong-sign-in'],
  403: [
    'not-allowed',
    'not-controller',
    'not-author',
    'not-yours',
    'not-holder',
    'not-system',
    'file-never',
    'file-responded',
    'file-released',
    'other-origin',
    'wrong-code',
  ],
  404: [
    'not-found',
    'no-such-seat',
    'no-such-stage',
    'no-such-comment',
    'no-such-file',
    'record-not-found',
    'unknown-person',
    'unknown-type',
    'link-unknown',
    'link-elsewhere',
    'file-unknown',
  ],
  410: ['link-moved', 'link-delegated', 'link-stale', 'no-longer-yours', 'cover-over'],
  413: ['too-large'],
  422: [
    'bad-input',
    'unwritable-text',
    'weak-password',
    'wrong-password',
    'scheme-unfit',
    'reason-missing',
    'fields-unfit',
    'fields-missing',
    'values-unfit',
    'letter-unset',
    'letters-unset',
    'time-past',
    'time-needed',
    'times-needed',
    'closes-before-due',
    'file-not-pdf',
    'file-not-signable',
    'empty-file',
    'not-what-it-says',
    'preflight',
  ],
  429: ['too-often'],
  503: ['busy'],
  507: ['disk-full', 'quota-member', 'quota-organization'],
};

const byCode = new Map(
  Object.entries(statuses).flatMap(([status, codes]) => codes.map((code) => [code, Number(status)] as const)),
);

export function statusOf(code: string): number {
  // Whatever keeps a PDF from being taken is about the file that was sent.
  return byCode.get(code) ?? (code.startsWith('pdf-') ? 422 : 409);
}
