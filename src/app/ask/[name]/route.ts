import type { NextRequest } from 'next/server';
import { answer } from '../../edge';

/** A question: POST /ask/NAME with its input as JSON, which no address could hold and no log should. */
export async function POST(request: NextRequest, { params }: { params: Promise<{ name: string }> }): Promise<Response> {
  return answer(request, 'query', (await params).name);
}
