import { readDemoFile } from '../../demo-jobs';

/** A demo job's file, or its picture before or after. */
export async function GET(
  _request: Request,
  { params }: { params: Promise<{ id: string; picture: string }> },
) {
  const { id, picture } = await params;
  const found = await readDemoFile(id, picture);
  if (!found) return new Response('There is no such demo job.', { status: 404 });
  return new Response(found.bytes, { headers: { 'Content-Type': found.type, 'Cache-Control': 'no-cache' } });
}
