import type { NextRequest } from 'next/server';
import { answer } from '../../edge';

/** A question: GET /ask/NAME?input=JSON. */
export async function GET(request: NextRequest, { params }: { params: Promise<{ name: string }> }): Promise<Response> {
  return answer(request, 'query', (await params).name);
}
