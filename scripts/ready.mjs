/** Puts what the project needs on a fresh machine. Uses Node alone, since nothing is installed yet. */
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

export const root = join(import.meta.dirname, '..');
const stamp = join(root, 'node_modules', '.lock-sha256');

/** Runs a command to its end, its output shown. Ends this process with its exit code when it fails. */
export function run(command, args, env = {}) {
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  if (done.error) {
    console.error(`${command} could not be started: ${done.error.message}`);
    process.exit(1);
  }
  if (done.status !== 0) process.exit(done.status ?? 1);
}

/** Installs the packages of package-lock.json unless these very ones are there. */
export function installPackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(stamp, lock);
}

const found = (program) => spawnSync('which', [program]).status === 0;

/** Installs Debian packages when a program of theirs is missing. */
export function installDebian(program, ...packages) {
  if (found(program)) return;
  const sudo = process.getuid?.() === 0 ? [] : ['sudo'];
  const apt = (...args) => {
    const [command, ...rest] = [...sudo, 'apt-get', ...args];
    execFileSync(command, rest, {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  };
  console.log(`Installing ${packages.join(', ')} …`);
  apt('update', '-qq');
  apt('install', '-y', '-qq', ...packages);
}

/** Builds the application unless this very source was built before. */
export function build() {
  run(process.execPath, ['node_modules/next/dist/bin/next', 'build'], { NEXT_TELEMETRY_DISABLED: '1' });
}
