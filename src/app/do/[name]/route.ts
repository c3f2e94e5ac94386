import { respond } from '../../edge';

export async function POST(request: Request, { params }: { params: Promise<{ name: string }> }): Promise<Response> {
  return respond(request, (await params).name, 'command', null);
}
