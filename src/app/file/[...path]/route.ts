import type { NextRequest } from 'next/server';
import { asMember } from '@/server/auth/sessions';
import { fileOfCirculation, fileOfDraft, fileOfRevision } from '@/server/files/access';
import { refusedResponse, secretOf } from '../../edge';
import { serveFile } from '../../serve';

/** /file/circulation/ID/HASH, /file/draft/CHANGE/HASH, /file/record/RECORD/REVISION[/FILE]: always as part of something. */
export async function GET(
  request: NextRequest,
  { params }: { params: Promise<{ path: string[] }> },
): Promise<Response> {
  const [of, id = '', part = '', file = null] = (await params).path;
  const found = await asMember(secretOf(request), async (tx, member) => ({
    organization: tx.organization,
    file:
      of === 'circulation'
        ? await fileOfCirculation(tx, member, id, part)
        : of === 'draft'
          ? await fileOfDraft(tx, member, id, part)
          : of === 'record'
            ? await fileOfRevision(tx, member, id, part, file)
            : null,
  }));
  return found ? serveFile(request, found.organization, found.file) : refusedResponse('signed-out');
}
