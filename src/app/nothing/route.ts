/** Does nothing; the measure of what the framework itself costs (npm run bench). */
export function POST(): Response {
  return new Response(null, { status: 204 });
}
