import type { NextRequest } from 'next/server';
import { linkActor, organizationOfHandle } from '@/server/auth/links';
import { inOrganization } from '@/server/db/connect';
import { fileOfLink } from '@/server/files/access';
import { orRefused, refusedResponse, secretOf } from '../../../../edge';
import { serveFile, wantedOf } from '../../../../serve';

export function GET(
  request: NextRequest,
  { params }: { params: Promise<{ handle: string; hash: string }> },
): Promise<Response> {
  return orRefused(request, async () => fileAt(request, await params));
}

async function fileAt(request: NextRequest, { handle, hash }: { handle: string; hash: string }): Promise<Response> {
  const organization = organizationOfHandle(handle);
  const code = secretOf(request, handle);
  if (!organization || !code) return refusedResponse('link-unknown');
  const found = await inOrganization(organization, async (tx) => {
    const link = await linkActor(tx, { handle, secret: code });
    return fileOfLink(tx, link, hash, wantedOf(request));
  });
  return serveFile(request, organization, found);
}
