import { Handover, serve } from '../rpc';
import { runFill } from './fill-job';
import type { PoolProtocol } from './protocol';

serve<PoolProtocol>(self, {
  fill: (request, progress) => {
    const reply = runFill(request, (stage, share, coarse) => progress({ stage, share, coarse }));
    return new Handover(reply, [reply.data.buffer as ArrayBuffer]);
  },
});
