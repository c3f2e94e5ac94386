import type { NextRequest } from 'next/server';
import { asMember } from '@/server/auth/sessions';
import { fileOfCirculation, fileOfDraft, fileOfRevision } from '@/server/files/access';
import { refusedResponse, secretOf } from '../../edge';
import { serveFile } from '../../serve';

const readers = { circulation: fileOfCirculation, record: fileOfRevision, draft: fileOfDraft } as const;

/** /file/circulation/ID/HASH, /file/record/ID/REVISION, /file/draft/CHANGE/HASH: always as part of something one may see. */
export async function GET(
  request: NextRequest,
  { params }: { params: Promise<{ path: string[] }> },
): Promise<Response> {
  const [what = '', of = '', which = '', ...rest] = (await params).path;
  if (!Object.hasOwn(readers, what) || !of || !which || rest.length > 0) return refusedResponse('not-found');
  const found = await asMember(secretOf(request), async (tx, member) => ({
    organization: tx.organization,
    file: await readers[what as keyof typeof readers](tx, member, of, which),
  }));
  return found ? serveFile(request, found.organization, found.file) : refusedResponse('signed-out');
}
