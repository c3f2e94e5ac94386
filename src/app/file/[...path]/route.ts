import { actorOf, organizationIn } from '@/server/auth/sessions';
import { inOrganization } from '@/server/db/connect';
import { fileOfCirculation, fileOfDraft, fileOfRevision } from '@/server/files/access';
import { callerOf, refusedResponse } from '../../edge';
import { serveFile } from '../../serve';

const readers = { circulation: fileOfCirculation, record: fileOfRevision, draft: fileOfDraft } as const;

/** /file/circulation/ID/HASH, /file/record/ID/REVISION, /file/draft/CHANGE/HASH: always as part of something one may see. */
export async function GET(request: Request, { params }: { params: Promise<{ path: string[] }> }): Promise<Response> {
  const [what = '', of = '', which = '', ...rest] = (await params).path;
  if (!(what in readers) || !of || !which || rest.length > 0) return refusedResponse('not-found');
  const { sessionCookie } = await callerOf(request, null, () => {});
  const organization = organizationIn(sessionCookie);
  if (!organization) return refusedResponse('signed-out');
  const found = await inOrganization(organization, async (tx) => {
    const actor = await actorOf(tx, sessionCookie);
    return actor.kind === 'nobody'
      ? ('signed-out' as const)
      : readers[what as keyof typeof readers](tx, actor, of, which);
  });
  return found === 'signed-out' ? refusedResponse('signed-out') : serveFile(request, organization, found);
}
