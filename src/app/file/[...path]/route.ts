import type { NextRequest } from 'next/server';
import { personNamed } from '@/server/admin/people';
import { asMember } from '@/server/auth/sessions';
import { fileOfCirculation, fileOfDraft, fileOfRevision } from '@/server/files/access';
import { printCopy } from '@/server/files/printCopy';
import { orRefused, redirectTo, refusedResponse, secretOf } from '../../edge';
import { serveBytes, serveFile, wantedOf } from '../../serve';

/** /file/circulation/ID/HASH, /file/draft/CHANGE/HASH, /file/record/RECORD/REVISION[/FILE]: always as part of something. */
export function GET(request: NextRequest, { params }: { params: Promise<{ path: string[] }> }): Promise<Response> {
  return orRefused(request, async () => fileAt(request, (await params).path));
}

async function fileAt(request: NextRequest, path: readonly string[]): Promise<Response> {
  const [of, id = '', part = '', file = null] = path;
  const asks = new URL(request.url).searchParams;
  const found = await asMember(secretOf(request), async (tx, member) => ({
    organization: tx.organization,
    now: tx.now,
    // Only a copy for printing names who asked.
    person: asks.has('print') ? await personNamed(tx, member.person) : null,
    file:
      of === 'circulation'
        ? await fileOfCirculation(tx, member, id, part, wantedOf(request))
        : of === 'draft'
          ? await fileOfDraft(tx, member, id, part, wantedOf(request))
          : of === 'record'
            ? await fileOfRevision(tx, member, id, part, file, wantedOf(request))
            : null,
  }));
  if (!found) return refusedResponse('signed-out');
  const { file: served, person, now: at, organization } = found;
  // Whoever comes by an old address is told first that there is a newer revision.
  if (served?.superseded && !asks.has('superseded')) return redirectTo(`/register/${id}?revision=${part}`);
  if (!served || !person) return serveFile(request, organization, served);
  return serveBytes(
    await printCopy(organization, served, { ...person, at }),
    served.name.replace(/(\.pdf)?$/i, ' print copy.pdf'),
  );
}
