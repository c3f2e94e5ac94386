import type { NextRequest } from 'next/server';
import { answer } from '../../edge';

/** A command: POST /do/NAME with its input as JSON. */
export async function POST(request: NextRequest, { params }: { params: Promise<{ name: string }> }): Promise<Response> {
  return answer(request, 'command', (await params).name);
}
