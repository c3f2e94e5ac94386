import { respond } from '../../../../edge';

export async function GET(
  request: Request,
  { params }: { params: Promise<{ handle: string; name: string }> },
): Promise<Response> {
  const { handle, name } = await params;
  return respond(request, name, 'query', handle);
}
