import { Bench } from '../../../ui/bench/bench';

export default async function JobPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Bench jobId={id} />;
}
