import type { NextRequest } from 'next/server';
import { personNamed } from '@/server/admin/people';
import { asMember } from '@/server/auth/sessions';
import { fileOfCirculation, fileOfDraft, fileOfRevision } from '@/server/files/access';
import { printCopy } from '@/server/files/printCopy';
import { Refused, type RefusedCode } from '@/server/refused';
import { redirectTo, refusedResponse, secretOf } from '../../edge';
import { serveBytes, serveFile } from '../../serve';

/** /file/circulation/ID/HASH, /file/draft/CHANGE/HASH, /file/record/RECORD/REVISION[/FILE]: always as part of something. */
export async function GET(
  request: NextRequest,
  { params }: { params: Promise<{ path: string[] }> },
): Promise<Response> {
  const [of, id = '', part = '', file = null] = (await params).path;
  const asks = new URL(request.url).searchParams;
  const found = await asMember(secretOf(request), async (tx, member) => ({
    organization: tx.organization,
    now: tx.now,
    // Only a copy for printing names who asked.
    person: asks.has('print') ? await personNamed(tx, member.person) : null,
    file:
      of === 'circulation'
        ? await fileOfCirculation(tx, member, id, part)
        : of === 'draft'
          ? await fileOfDraft(tx, member, id, part)
          : of === 'record'
            ? await fileOfRevision(tx, member, id, part, file)
            : null,
  }));
  if (!found) return refusedResponse('signed-out');
  const { file: served, person, now: at, organization } = found;
  // Whoever comes by an old address is told first that there is a newer revision.
  if (served?.superseded && !asks.has('superseded')) return redirectTo(`/register/${id}?revision=${part}`);
  if (!served || !person) return serveFile(request, organization, served);
  try {
    return serveBytes(
      await printCopy(organization, served, { ...person, at }),
      served.name.replace(/(\.pdf)?$/i, ' print copy.pdf'),
    );
  } catch (error) {
    if (error instanceof Refused) return refusedResponse(error.code as RefusedCode);
    throw error;
  }
}
