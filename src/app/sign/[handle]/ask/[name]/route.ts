import type { NextRequest } from 'next/server';
import { answer } from '../../../../edge';

type Params = { params: Promise<{ handle: string; name: string }> };

/** A question through the link of a seat. */
export async function POST(request: NextRequest, { params }: Params): Promise<Response> {
  const { handle, name } = await params;
  return answer(request, 'query', name, handle);
}
