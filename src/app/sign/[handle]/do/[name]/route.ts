import { respond } from '../../../../edge';

export async function POST(
  request: Request,
  { params }: { params: Promise<{ handle: string; name: string }> },
): Promise<Response> {
  const { handle, name } = await params;
  return respond(request, name, 'command', handle);
}
