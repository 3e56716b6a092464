import { listDemoJobs } from './demo-jobs';

/** What demo jobs there are. */
export async function GET(): Promise<Response> {
  return Response.json(await listDemoJobs());
}
