/** Installs, builds and starts the application with its demo jobs. */
import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { build, installPackages, root } from './ready.mjs';

installPackages();
build();
const port = await freePort(Number(process.env.PORT) || 4300);
const server = spawn(
  process.execPath,
  ['node_modules/next/dist/bin/next', 'start', '--hostname', '127.0.0.1', '--port', String(port)],
  {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
  },
);
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => server.kill());
server.on('exit', (code) => process.exit(code ?? 0));
await answers(`http://127.0.0.1:${port}/api/health`);
console.log(`\nVine Needle is ready: http://localhost:${port}/\nEnd it with Ctrl + C.`);

/** The wanted port, or the next one that nobody listens on. */
async function freePort(wanted) {
  for (let port = wanted; port < wanted + 50; port++) {
    const free = await new Promise((resolve) => {
      const probe = createServer().once('error', () => resolve(false));
      probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
    });
    if (free) return port;
  }
  throw new Error(`No port from ${wanted} to ${wanted + 49} is free.`);
}

async function answers(url) {
  for (let i = 0; i < 150; i++) {
    const ok = await fetch(url).then(
      (reply) => reply.ok,
      () => false,
    );
    if (ok) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  console.error('The server did not answer within 30 seconds.');
  server.kill();
  process.exit(1);
}
