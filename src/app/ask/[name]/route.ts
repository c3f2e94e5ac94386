import { respond } from '../../edge';

export async function GET(request: Request, { params }: { params: Promise<{ name: string }> }): Promise<Response> {
  return respond(request, (await params).name, 'query', null);
}
